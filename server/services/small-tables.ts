import type { Column, InferSelectModel } from 'drizzle-orm'
import { and, asc, eq, getTableColumns, inArray, sql } from 'drizzle-orm'
import type { Level } from '../../core/level/level'
import type { Block, Layer, Station } from '../../core/level/schema'
import { putRows } from '../db/bulk'
import type { Transaction } from '../db/client'
import { blockToRow, layerToRow, rowToBlock, rowToLayer, rowToStation, stationToRow } from '../db/rows'
import { blocks, layers, placements, stations } from '../db/schema'

/** What a level has besides its placements: records that stand by themselves, in tables of their own. */
export type SmallTable<R extends { id: string } = { id: string }> = {
  /** As in the operations that put and remove its records. */
  record: 'layer' | 'station' | 'block'
  of: (level: Level) => ReadonlyMap<string, R>
  /** @param ids only these; all when left out */
  load: (tx: Transaction, levelId: string, ids?: readonly string[]) => Promise<R[]>
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

type Table = typeof layers | typeof stations | typeof blocks

function smallTable<R extends { id: string }, T extends Table>(options: {
  record: SmallTable['record']
  table: T
  of: (level: Level) => ReadonlyMap<string, R>
  toRow: (levelId: string, record: R) => InferSelectModel<T>
  toRecord: (row: InferSelectModel<T>) => R
  order: Column
  usedBy?: Column
}): SmallTable<R> {
  const { record, of, toRow, toRecord, usedBy } = options
  const table = options.table as typeof layers
  return {
    record,
    of,
    usedBy,
    load: async (tx, levelId, ids) => {
      const found: R[] = []
      for (const some of ids ? slices(ids) : [undefined]) {
        const rows = await tx.select().from(table).where(and(eq(table.levelId, levelId), some && inArray(table.id, some))).orderBy(asc(options.order))
        for (const row of rows) found.push(toRecord(row as InferSelectModel<T>))
      }
      return found
    },
    write: async (tx, levelId, level, ids) => {
      await putRows(tx, options.table, ids.map(id => toRow(levelId, of(level).get(id)!)))
    },
    remove: async (tx, levelId, ids) => {
      for (const some of slices(ids)) await tx.delete(table).where(and(eq(table.levelId, levelId), inArray(table.id, some)))
    },
    duplicate: async (tx, from, to) => {
      await tx.insert(table).select(tx.select({ ...getTableColumns(table), levelId: sql<string>`${to}::uuid`.as('level_id') }).from(table).where(eq(table.levelId, from)))
    },
  }
}

const LAYERS = smallTable({ record: 'layer', table: layers, order: layers.order, of: level => level.layers, toRow: layerToRow, toRecord: rowToLayer, usedBy: placements.layerId })
const STATIONS = smallTable({ record: 'station', table: stations, order: stations.order, of: level => level.stations, toRow: stationToRow, toRecord: rowToStation })
const BLOCKS = smallTable({ record: 'block', table: blocks, order: blocks.id, of: level => level.blocks, toRow: blockToRow, toRecord: rowToBlock, usedBy: placements.blockId })

export const SMALL_TABLES: readonly SmallTable[] = [LAYERS, STATIONS, BLOCKS]

/** All of a level's small records. @param idsOf only these of a table; all when left out */
export async function loadSmall(tx: Transaction, levelId: string, idsOf?: (record: SmallTable['record']) => readonly string[]): Promise<{ layers: Layer[], stations: Station[], blocks: Block[] }> {
  return {
    layers: await LAYERS.load(tx, levelId, idsOf?.('layer')),
    stations: await STATIONS.load(tx, levelId, idsOf?.('station')),
    blocks: await BLOCKS.load(tx, levelId, idsOf?.('block')),
  }
}
