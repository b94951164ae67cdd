import { createGzip } from 'node:zlib'
import { and, eq, isNull } from 'drizzle-orm'
import { packHead } from '../../core/level/packed'
import type { Database, Transaction } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { levels } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { summaryColumns, toSummary } from './levels'
import { placementTexts } from './level-text'
import { SharedByKey } from './mutex'
import { packedPlacements } from './packed-placements'
import { loadSmall } from './small-tables'

// A whole level as it is sent. This process has little more to do than to pass on what the database has written to the
// compression, which has threads of its own.

/** Of gzip's nine: a quarter of the usual sixth's time. */
const LEVEL = 1

type Sent = { tx: Transaction; id: string; revision: number; rest: Record<string, unknown> }

/** How a level is written: as JSON for scripts, packed for pages. */
const WRITERS = {
  json: async function* ({ tx, id, revision, rest }: Sent): AsyncGenerator<string | Uint8Array> {
    yield `${JSON.stringify(rest).slice(0, -1)},"placements":[`
    yield* placementTexts(tx, id, revision)
    yield ']}'
  },
  packed: async function* ({ tx, id, rest }: Sent): AsyncGenerator<string | Uint8Array> {
    yield packHead(rest)
    yield* packedPlacements(tx, id)
  },
}

/** By database, the readings that are going on; each is shared by all who ask for its level in the same way. */
const readings = new WeakMap<Database, SharedByKey<Buffer>>()

/** A level with all its placements, as of one moment, compressed by gzip. @throws ApiError 404 */
export function levelAs(as: keyof typeof WRITERS, db: Database, id: string): Promise<Buffer> {
  let shared = readings.get(db)
  if (!shared) readings.set(db, (shared = new SharedByKey(key => read(db, key))))
  return shared.get(`${as} ${id}`)
}

function read(db: Database, key: string): Promise<Buffer> {
  const [as, id] = key.split(' ') as [keyof typeof WRITERS, string]
  return inTransaction(
    db,
    async tx => {
      const [row] = await tx
        .select(summaryColumns)
        .from(levels)
        .where(and(eq(levels.id, id), isNull(levels.deletedAt)))
      if (!row) throw ApiError.notFound('level')
      const rest = { ...toSummary(row), ...(await loadSmall(tx, id)) }
      return compressed(WRITERS[as]({ tx, id, revision: row.revision, rest }))
    },
    { ...ONE_MOMENT, accessMode: 'read only' },
  )
}

async function compressed(pieces: AsyncIterable<string | Uint8Array>): Promise<Buffer> {
  const zip = createGzip({ level: LEVEL })
  const out: Buffer[] = []
  zip.on('data', (chunk: Buffer) => out.push(chunk))
  const done = new Promise<void>((resolve, reject) => zip.once('end', resolve).once('error', reject))
  for await (const piece of pieces) if (!zip.write(piece)) await new Promise(resolve => zip.once('drain', resolve))
  zip.end()
  await done
  return Buffer.concat(out)
}
