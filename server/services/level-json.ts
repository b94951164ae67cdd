import { createGzip } from 'node:zlib'
import { and, eq, isNull } from 'drizzle-orm'
import type { Database } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { levels } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { summaryColumns, toSummary } from './levels'
import { placementTexts } from './level-text'
import { loadSmall } from './small-tables'
import { SharedByKey } from './mutex'

// A whole level as the text that is sent. This process has little more to do than to pass texts on to the compression,
// which has threads of its own.

/** Of gzip's nine: a quarter of the usual sixth's time. */
const LEVEL = 1

/** By database, the readings that are going on; each is shared by all who ask for its level. */
const readings = new WeakMap<Database, SharedByKey<Buffer>>()

/** A level with all its placements, as of one moment, as JSON compressed by gzip. @throws ApiError 404 */
export function levelAsJson(db: Database, id: string): Promise<Buffer> {
  let shared = readings.get(db)
  if (!shared) readings.set(db, (shared = new SharedByKey(level => read(db, level))))
  return shared.get(id)
}

function read(db: Database, id: string): Promise<Buffer> {
  return inTransaction(
    db,
    async tx => {
      const [row] = await tx
        .select(summaryColumns)
        .from(levels)
        .where(and(eq(levels.id, id), isNull(levels.deletedAt)))
      if (!row) throw ApiError.notFound('level')
      const rest = JSON.stringify({ ...toSummary(row), ...(await loadSmall(tx, id)) })
      return compressed(
        (async function* () {
          yield `${rest.slice(0, -1)},"placements":[`
          yield* placementTexts(tx, id, row.revision)
          yield ']}'
        })(),
      )
    },
    { ...ONE_MOMENT, accessMode: 'read only' },
  )
}

async function compressed(texts: AsyncIterable<string>): Promise<Buffer> {
  const zip = createGzip({ level: LEVEL })
  const out: Buffer[] = []
  zip.on('data', (chunk: Buffer) => out.push(chunk))
  const done = new Promise<void>((resolve, reject) => zip.once('end', resolve).once('error', reject))
  for await (const text of texts) if (!zip.write(text)) await new Promise(resolve => zip.once('drain', resolve))
  zip.end()
  await done
  return Buffer.concat(out)
}
