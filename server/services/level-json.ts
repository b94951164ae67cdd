import { createGzip } from 'node:zlib'
import { and, eq, isNull, sql } from 'drizzle-orm'
import { LevelDocument } from '../../core/level/document'
import type { Database, Transaction } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { placementAsJson } from '../db/rows'
import { levels, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { summaryColumns, toSummary } from './levels'
import { SMALL_TABLES } from './small-tables'
import { Shared } from './turns'

// A whole level as the text that is sent: its placements are written as JSON by the database itself, so that this process has no
// more to do than to pass them on to the compression, which has threads of its own.

const PAGE = 2000
/** Of gzip's nine: a third of the usual sixth's time. */
const LEVEL = 2

/** By level: the reading that is going on, shared by all who ask. */
const readings = new Map<string, Shared<Buffer>>()

/** A level with all its placements, as of one moment, as JSON compressed by gzip. @throws ApiError 404 */
export async function levelAsJson(db: Database, id: string): Promise<Buffer> {
  let reading = readings.get(id)
  if (!reading) readings.set(id, reading = new Shared(() => read(db, id)))
  try {
    return await reading.get()
  }
  finally {
    if (reading.isIdle) readings.delete(id)
  }
}

function read(db: Database, id: string): Promise<Buffer> {
  return inTransaction(db, async (tx) => {
    const [row] = await tx.select(summaryColumns).from(levels).where(and(eq(levels.id, id), isNull(levels.deletedAt)))
    if (!row) throw ApiError.notFound('level')
    const document = new LevelDocument()
    for (const table of SMALL_TABLES) await table.load(tx, id, document)
    const { layers, stations, blocks } = document
    const rest = JSON.stringify({ ...toSummary(row), layers: [...layers.values()], stations: [...stations.values()], blocks: [...blocks.values()] })
    const pages = placementPages(tx, id)
    return compressed(async function* () {
      yield `${rest.slice(0, -1)},"placements":[`
      let isFirst = true
      for await (const page of pages) {
        yield isFirst ? page : `,${page}`
        isFirst = false
      }
      yield ']}'
    }())
  }, { ...ONE_MOMENT, accessMode: 'read only' })
}

async function* placementPages(tx: Transaction, levelId: string): AsyncGenerator<string> {
  const { order, id } = placements
  await tx.execute(sql`declare pages no scroll cursor for select ${placementAsJson} as json from ${placements} where ${placements.levelId} = ${levelId} order by ${order}, ${id}`)
  for (;;) {
    const { rows } = await tx.execute<{ json: string }>(sql`fetch ${sql.raw(String(PAGE))} from pages`)
    if (rows.length > 0) yield rows.map(({ json }) => json).join(',')
    if (rows.length < PAGE) return
  }
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

