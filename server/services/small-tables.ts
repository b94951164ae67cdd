import type { Column, InferSelectModel } from 'drizzle-orm'
import { and, asc, eq, getTableColumns, inArray, sql } from 'drizzle-orm'
import type { Level, LevelRecords } from '../../core/level/level'
import { TABLE_OF } from '../../core/level/level'
import type { RecordName, RecordOf, Relation } from '../../core/level/schema'
import { putRows } from '../db/bulk'
import type { Transaction } from '../db/client'
import { rowToStation, stationToRow } from '../db/rows'
import {
  answers,
  blocks,
  exemptions,
  layers,
  limits,
  measures,
  placements,
  presets,
  recipes,
  relations,
  skies,
  stations,
  threads,
} from '../db/schema'

/** One kind of what a level has besides its placements: records that stand by themselves, in a table of their own. */
export type SmallTable = {
  /** As in the operations that put and remove its records. */
  record: RecordName
  of: (level: Level) => ReadonlyMap<string, { id: string }>
  /** @param ids only these; all when left out */
  load: (tx: Transaction, levelId: string, ids?: readonly string[]) => Promise<{ id: string }[]>
  /** @param ids of the level's records */
  write: (tx: Transaction, levelId: string, level: Level, ids: readonly string[]) => Promise<void>
  remove: (tx: Transaction, levelId: string, ids: readonly string[]) => Promise<void>
  /** The same records in another level. */
  duplicate: (tx: Transaction, from: string, to: string) => Promise<void>
  /** The placements' column that names its records, if they do. */
  usedBy?: Column
}

/** Keeps a statement well below the protocol's 65,535 parameters. */
const ROWS_PER_STATEMENT = 1000

export function* slices<T>(items: readonly T[]): Generator<T[]> {
  for (let i = 0; i < items.length; i += ROWS_PER_STATEMENT) yield items.slice(i, i + ROWS_PER_STATEMENT)
}

type Table =
  | typeof layers
  | typeof stations
  | typeof blocks
  | typeof measures
  | typeof limits
  | typeof exemptions
  | typeof skies
  | typeof threads
  | typeof answers
  | typeof relations
  | typeof presets
  | typeof recipes

function smallTable<N extends RecordName, T extends Table>(
  record: N,
  given: T,
  options: {
    order: Column
    usedBy?: Column
    /** Between records and rows, where they differ by more than the level's id. */
    rows?: {
      toRow: (levelId: string, record: RecordOf<N>) => InferSelectModel<T>
      toRecord: (row: InferSelectModel<T>) => RecordOf<N>
    }
  },
): SmallTable {
  const table = given as typeof layers
  const of = (level: Level) => level[TABLE_OF[record]] as unknown as ReadonlyMap<string, RecordOf<N>>
  const { toRow, toRecord } = options.rows ?? {
    toRow: (levelId: string, of: RecordOf<N>) => ({ levelId, ...of }) as unknown as InferSelectModel<T>,
    toRecord: ({ levelId: _levelId, ...of }: InferSelectModel<T>) => of as unknown as RecordOf<N>,
  }
  return {
    record,
    of,
    usedBy: options.usedBy,
    load: async (tx, levelId, ids) => {
      const found: RecordOf<N>[] = []
      for (const some of ids ? slices(ids) : [undefined]) {
        const rows = await tx
          .select()
          .from(table)
          .where(and(eq(table.levelId, levelId), some && inArray(table.id, some)))
          .orderBy(asc(options.order))
        for (const row of rows) found.push(toRecord(row as InferSelectModel<T>))
      }
      return found
    },
    write: async (tx, levelId, level, ids) => {
      await putRows(
        tx,
        given,
        ids.map(id => toRow(levelId, of(level).get(id)!)),
      )
    },
    remove: async (tx, levelId, ids) => {
      for (const some of slices(ids))
        await tx.delete(table).where(and(eq(table.levelId, levelId), inArray(table.id, some)))
    },
    duplicate: async (tx, from, to) => {
      await tx.insert(table).select(
        tx
          .select({ ...getTableColumns(table), levelId: sql<string>`${to}::uuid`.as('level_id') })
          .from(table)
          .where(eq(table.levelId, from)),
      )
    },
  }
}

const TABLES: Record<RecordName, SmallTable> = {
  layer: smallTable('layer', layers, { order: layers.order, usedBy: placements.layerId }),
  station: smallTable('station', stations, {
    order: stations.order,
    rows: { toRow: stationToRow, toRecord: rowToStation },
  }),
  block: smallTable('block', blocks, { order: blocks.id, usedBy: placements.blockId }),
  measure: smallTable('measure', measures, { order: measures.order }),
  limit: smallTable('limit', limits, { order: limits.id }),
  exemption: smallTable('exemption', exemptions, { order: exemptions.id }),
  sky: smallTable('sky', skies, { order: skies.id }),
  thread: smallTable('thread', threads, { order: threads.when }),
  answer: smallTable('answer', answers, { order: answers.when }),
  relation: smallTable('relation', relations, { order: relations.id }),
  preset: smallTable('preset', presets, { order: presets.id }),
  recipe: smallTable('recipe', recipes, { order: recipes.id }),
}

/** All relations of a level, in the order of their ids. */
export const relationsOf = async (tx: Transaction, levelId: string): Promise<Relation[]> =>
  (await TABLES.relation.load(tx, levelId)) as Relation[]

export const SMALL_TABLES: readonly SmallTable[] = Object.values(TABLES)

/** All of a level's small records. @param idsOf only these of a table; all when left out */
export async function loadSmall(
  tx: Transaction,
  levelId: string,
  idsOf?: (record: RecordName) => readonly string[] | undefined,
): Promise<LevelRecords> {
  const found: Partial<Record<keyof LevelRecords, { id: string }[]>> = {}
  for (const { record, load } of SMALL_TABLES) found[TABLE_OF[record]] = await load(tx, levelId, idsOf?.(record))
  return found as LevelRecords
}
