import { and, eq, gt, inArray, sql } from 'drizzle-orm'
import type { Transaction } from '../db/client'
import { placementAsJson } from '../db/rows'
import { changes, placements } from '../db/schema'
import { slices } from './small-tables'

// A level's placements as the JSON that is sent, written by the database itself. What was read once is kept, and only
// what the journal says was touched since is read again: a level that many look at while some change it costs what is
// changed.

type Line = { id: string; order: number; json: string }
type Kept = { revision: number; lines: Line[]; characters: number }

/** Characters of one level, and of all levels, that are kept; what is larger is read anew each time. */
const MOST_OF_ONE = 16_000_000
const MOST_OF_ALL = 64_000_000
/** Changes after which it is quicker to read all again. */
const MOST_CHANGES = 300

/** Rows at a time: some milliseconds of work. */
const PAGE = 2000
/** Lines that are put together at a time. */
const CHUNK = 5000

/** By level, the one asked for last at the end. */
const kept = new Map<string, Kept>()

/**
 * The placements of a level, in their order, as JSON without the brackets around. One at a time for each level.
 *
 * @param revision of the level as this transaction sees it
 */
export async function* placementTexts(tx: Transaction, levelId: string, revision: number): AsyncGenerator<string> {
  const known = kept.get(levelId)
  const lines =
    known && known.revision <= revision && revision - known.revision <= MOST_CHANGES
      ? await broughtUpToDate(tx, levelId, known)
      : null
  if (!lines) {
    kept.delete(levelId)
    yield* readAll(tx, levelId, revision)
    return
  }
  keep(levelId, revision, lines)
  for (let i = 0; i < lines.length; i += CHUNK) yield textOf(lines.slice(i, i + CHUNK), i === 0)
}

const textOf = (lines: readonly Line[], isFirst: boolean) =>
  (isFirst || lines.length === 0 ? '' : ',') + lines.map(({ json }) => json).join(',')

const columns = { id: placements.id, order: placements.order, json: placementAsJson }
const inOrder = (a: Line, b: Line) => a.order - b.order || (a.id < b.id ? -1 : 1)

async function broughtUpToDate(tx: Transaction, levelId: string, { revision, lines }: Kept): Promise<Line[]> {
  const touched = await tx
    .selectDistinct({ id: sql<string>`operation->>'id'` })
    .from(sql`${changes}, json_array_elements(${changes.operations}) operation`)
    .where(
      and(eq(changes.levelId, levelId), gt(changes.revision, revision), sql`operation->>'do' in ('put', 'remove')`),
    )
  if (touched.length === 0) return lines
  const ids = touched.map(({ id }) => id)
  const fresh: Line[] = []
  for (const some of slices(ids))
    fresh.push(
      ...(await tx
        .select(columns)
        .from(placements)
        .where(and(eq(placements.levelId, levelId), inArray(placements.id, some)))),
    )
  const gone = new Set(ids)
  return [...lines.filter(({ id }) => !gone.has(id)), ...fresh].sort(inOrder)
}

async function* readAll(tx: Transaction, levelId: string, revision: number): AsyncGenerator<string> {
  const { order, id } = placements
  await tx.execute(
    sql`declare pages no scroll cursor for select ${id} as id, ${order} as "order", ${placementAsJson} as json from ${placements} where ${placements.levelId} = ${levelId} order by ${order}, ${id}`,
  )
  let lines: Line[] | null = []
  let characters = 0
  for (let isFirst = true; ; ) {
    const { rows: page } = await tx.execute<Line>(sql`fetch ${sql.raw(String(PAGE))} from pages`)
    if (page.length > 0) yield textOf(page, isFirst)
    isFirst = false
    for (const line of page) characters += line.json.length
    lines = lines && characters <= MOST_OF_ONE ? lines.concat(page) : null
    if (page.length < PAGE) break
  }
  if (lines) keep(levelId, revision, lines)
}

function keep(levelId: string, revision: number, lines: Line[]): void {
  const characters = lines.reduce((sum, { json }) => sum + json.length, 0)
  kept.delete(levelId)
  if (characters > MOST_OF_ONE) return
  kept.set(levelId, { revision, lines, characters })
  let all = [...kept.values()].reduce((sum, each) => sum + each.characters, 0)
  for (const [oldest, each] of kept) {
    if (all <= MOST_OF_ALL) break
    kept.delete(oldest)
    all -= each.characters
  }
}
