import type { Column, InferSelectModel } from 'drizzle-orm'
import { and, asc, eq, getTableColumns, inArray, sql } from 'drizzle-orm'
import type { LevelDocument } from '../../core/level/document'
import { putRows } from '../db/bulk'
import type { Transaction } from '../db/client'
import { blockToRow, layerToRow, rowToBlock, rowToLayer, rowToStation, stationToRow } from '../db/rows'
import { blocks, layers, placements, stations } from '../db/schema'

/** What a level has besides its placements: records that stand by themselves, in tables of their own. */
export type SmallTable = {
  /** As in the operations that put and remove its records. */
  record: 'layer' | 'station' | 'block'
  of: (document: LevelDocument) => Map<string, { id: string }>
  /** @param ids only these; all when left out */
  load: (tx: Transaction, levelId: string, document: LevelDocument, ids?: readonly string[]) => Promise<void>
  write: (tx: Transaction, levelId: string, document: LevelDocument, ids: readonly string[]) => Promise<void>
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

type Table = typeof layers | typeof stations | typeof blocks

function smallTable<R extends { id: string }, T extends Table>(options: {
  record: SmallTable['record']
  table: T
  of: (document: LevelDocument) => Map<string, R>
  toRow: (levelId: string, record: R) => InferSelectModel<T>
  toRecord: (row: InferSelectModel<T>) => R
  order: Column
  usedBy?: Column
}): SmallTable {
  const { record, of, toRow, toRecord, usedBy } = options
  const table = options.table as typeof layers
  return {
    record,
    of,
    usedBy,
    load: async (tx, levelId, document, ids) => {
      for (const some of ids ? slices(ids) : [undefined]) {
        const rows = await tx.select().from(table).where(and(eq(table.levelId, levelId), some && inArray(table.id, some))).orderBy(asc(options.order))
        for (const row of rows) of(document).set(row.id, toRecord(row as InferSelectModel<T>))
      }
    },
    write: async (tx, levelId, document, ids) => {
      await putRows(tx, options.table, ids.map(id => toRow(levelId, of(document).get(id)!)))
    },
    remove: async (tx, levelId, ids) => {
      for (const some of slices(ids)) await tx.delete(table).where(and(eq(table.levelId, levelId), inArray(table.id, some)))
    },
    duplicate: async (tx, from, to) => {
      await tx.insert(table).select(tx.select({ ...getTableColumns(table), levelId: sql<string>`${to}::uuid`.as('level_id') }).from(table).where(eq(table.levelId, from)))
    },
  }
}

export const SMALL_TABLES: readonly SmallTable[] = [
  smallTable({ record: 'layer', table: layers, order: layers.order, of: document => document.layers, toRow: layerToRow, toRecord: rowToLayer, usedBy: placements.layerId }),
  smallTable({ record: 'station', table: stations, order: stations.order, of: document => document.stations, toRow: stationToRow, toRecord: rowToStation }),
  smallTable({ record: 'block', table: blocks, order: blocks.id, of: document => document.blocks, toRow: blockToRow, toRecord: rowToBlock, usedBy: placements.blockId }),
]
