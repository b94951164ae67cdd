import type { Column, InferSelectModel } from 'drizzle-orm'
import { sql } from 'drizzle-orm'
import type { JournalEntry, Placement, Station } from '../../core/level/schema'
import type { Part } from '../../core/level/part'
import type { changes, parts, stations } from './schema'
import { placements } from './schema'

// Between the records of the core, with vectors, and the database's rows, with a column for each number.

type PlacementRow = InferSelectModel<typeof placements>
type PartRow = InferSelectModel<typeof parts>
type ChangeRow = InferSelectModel<typeof changes>

export function placementToRow(levelId: string, placement: Placement): PlacementRow {
  const { translation, rotation, scale, pivot, ...plain } = placement
  return {
    levelId,
    ...plain,
    translationX: translation[0],
    translationY: translation[1],
    translationZ: translation[2],
    rotationX: rotation[0],
    rotationY: rotation[1],
    rotationZ: rotation[2],
    rotationW: rotation[3],
    scaleX: scale[0],
    scaleY: scale[1],
    scaleZ: scale[2],
    pivotX: pivot[0],
    pivotY: pivot[1],
    pivotZ: pivot[2],
  }
}

export function rowToPlacement(row: PlacementRow): Placement {
  return {
    id: row.id,
    parentId: row.parentId,
    order: row.order,
    name: row.name,
    kind: row.kind,
    partId: row.partId,
    blockId: row.blockId,
    translation: [row.translationX, row.translationY, row.translationZ],
    rotation: [row.rotationX, row.rotationY, row.rotationZ, row.rotationW],
    scale: [row.scaleX, row.scaleY, row.scaleZ],
    pivot: [row.pivotX, row.pivotY, row.pivotZ],
    hidden: row.hidden,
    locked: row.locked,
    layerId: row.layerId,
    own: row.own,
  }
}

/** -0 is a number of its own in a database, and 0 in JSON. */
const triple = (x: Column, y: Column, z: Column) => sql`json_build_array(${x} + 0, ${y} + 0, ${z} + 0)`
const p = placements

/** A placement as `rowToPlacement` gives it, written as JSON by the database. */
export const placementAsJson = sql<string>`json_build_object(
  'id', ${p.id}, 'parentId', ${p.parentId}, 'order', ${p.order} + 0, 'name', ${p.name}, 'kind', ${p.kind}, 'partId', ${p.partId}, 'blockId', ${p.blockId},
  'translation', ${triple(p.translationX, p.translationY, p.translationZ)},
  'rotation', json_build_array(${p.rotationX} + 0, ${p.rotationY} + 0, ${p.rotationZ} + 0, ${p.rotationW} + 0),
  'scale', ${triple(p.scaleX, p.scaleY, p.scaleZ)}, 'pivot', ${triple(p.pivotX, p.pivotY, p.pivotZ)},
  'hidden', ${p.hidden}, 'locked', ${p.locked}, 'layerId', ${p.layerId}, 'own', ${p.own})::text`

export function stationToRow(levelId: string, { eye, target, ...plain }: Station): InferSelectModel<typeof stations> {
  return {
    levelId,
    ...plain,
    eyeX: eye[0],
    eyeY: eye[1],
    eyeZ: eye[2],
    targetX: target[0],
    targetY: target[1],
    targetZ: target[2],
  }
}

export function rowToStation({ id, name, order, fieldOfView, ...row }: InferSelectModel<typeof stations>): Station {
  return {
    id,
    name,
    order,
    fieldOfView,
    eye: [row.eyeX, row.eyeY, row.eyeZ],
    target: [row.targetX, row.targetY, row.targetZ],
  }
}

/** What a part's row holds besides what is listed of it. */
type Unlisted = 'madeOf' | 'picture' | 'pictureType'

export function partToRow(part: Part, position: number): Omit<PartRow, Unlisted> {
  const { boundsMin, boundsMax, pivot, hasPicture: _hasPicture, ...plain } = part
  return {
    ...plain,
    minX: boundsMin[0],
    minY: boundsMin[1],
    minZ: boundsMin[2],
    maxX: boundsMax[0],
    maxY: boundsMax[1],
    maxZ: boundsMax[2],
    pivotX: pivot[0],
    pivotY: pivot[1],
    pivotZ: pivot[2],
    position,
  }
}

export function rowToPart(row: Omit<PartRow, 'picture'>): Part {
  return {
    id: row.id,
    name: row.name,
    kind: row.kind,
    tags: row.tags,
    meshHash: row.meshHash,
    boundsMin: [row.minX, row.minY, row.minZ],
    boundsMax: [row.maxX, row.maxY, row.maxZ],
    triangles: row.triangles,
    pivot: [row.pivotX, row.pivotY, row.pivotZ],
    inKit: row.inKit,
    kit: row.kit,
    sockets: row.sockets,
    lamps: row.lamps,
    settlesAs: row.settlesAs,
    hasPicture: row.pictureType !== null,
  }
}

export function rowToJournalEntry({
  id,
  label,
  author,
  operations,
  revision,
}: Omit<ChangeRow, 'inverse' | 'personId'>): JournalEntry {
  return { id, label, author, operations, revision }
}
