import type { Column } from 'drizzle-orm'
import { and, asc, eq, inArray } from 'drizzle-orm'
import type { LevelDocument } from '../../core/level/document'
import type { Database, Transaction } from '../db/client'
import { blockToRow, layerToRow, rowToBlock, rowToLayer, rowToStation, stationToRow } from '../db/rows'
import { blocks, layers, placements, stations } from '../db/schema'

/** What a level has besides its placements: a few records each, loaded and written whole. */
export type SmallTable = {
  /** As in the operations that put and remove its records. */
  record: 'layer' | 'station' | 'block'
  of: (document: LevelDocument) => Map<string, { id: string }>
  load: (db: Database | Transaction, levelId: string, document: LevelDocument) => Promise<void>
  write: (tx: Transaction, levelId: string, document: LevelDocument, ids: readonly string[]) => Promise<void>
  remove: (tx: Transaction, levelId: string, ids: readonly string[]) => Promise<void>
  /** The placements' column that names its records, if they do. */
  usedBy?: Column
}

const LAYERS: SmallTable = {
  record: 'layer',
  of: document => document.layers,
  usedBy: placements.layerId,
  load: async (db, levelId, document) => {
    for (const row of await db.select().from(layers).where(eq(layers.levelId, levelId)).orderBy(asc(layers.order))) document.layers.set(row.id, rowToLayer(row))
  },
  write: async (tx, levelId, document, ids) => {
    for (const row of ids.map(id => layerToRow(levelId, document.layers.get(id)!))) await tx.insert(layers).values(row).onConflictDoUpdate({ target: [layers.levelId, layers.id], set: row })
  },
  remove: async (tx, levelId, ids) => void await tx.delete(layers).where(and(eq(layers.levelId, levelId), inArray(layers.id, [...ids]))),
}

const STATIONS: SmallTable = {
  record: 'station',
  of: document => document.stations,
  load: async (db, levelId, document) => {
    for (const row of await db.select().from(stations).where(eq(stations.levelId, levelId)).orderBy(asc(stations.order))) document.stations.set(row.id, rowToStation(row))
  },
  write: async (tx, levelId, document, ids) => {
    for (const row of ids.map(id => stationToRow(levelId, document.stations.get(id)!))) await tx.insert(stations).values(row).onConflictDoUpdate({ target: [stations.levelId, stations.id], set: row })
  },
  remove: async (tx, levelId, ids) => void await tx.delete(stations).where(and(eq(stations.levelId, levelId), inArray(stations.id, [...ids]))),
}

const BLOCKS: SmallTable = {
  record: 'block',
  of: document => document.blocks,
  usedBy: placements.blockId,
  load: async (db, levelId, document) => {
    for (const row of await db.select().from(blocks).where(eq(blocks.levelId, levelId))) document.blocks.set(row.id, rowToBlock(row))
  },
  write: async (tx, levelId, document, ids) => {
    for (const row of ids.map(id => blockToRow(levelId, document.blocks.get(id)!))) await tx.insert(blocks).values(row).onConflictDoUpdate({ target: [blocks.levelId, blocks.id], set: row })
  },
  remove: async (tx, levelId, ids) => void await tx.delete(blocks).where(and(eq(blocks.levelId, levelId), inArray(blocks.id, [...ids]))),
}

export const SMALL_TABLES: readonly SmallTable[] = [LAYERS, STATIONS, BLOCKS]
