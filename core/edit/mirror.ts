import { Matrix4, Quaternion, Vector3 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { moveTops } from './handles/move'
import type { LevelView } from '../scene/level-view'
import type { DuplicateAs } from './duplicate'
import { duplicate } from './duplicate'
import type { Operation } from '../level/schema'
import type { Quat, Vec3 } from '../math/vectors'
import type { Reparenting } from '../level/tree'
import { topmost } from '../level/tree'
import { decompose, isSheared } from '../math/transform'

/** A plane of the world; the normal is of unit length. */
export type MirrorPlane = { point: Vec3; normal: Vec3 }

/** The reflection across a plane (Householder). */
export function reflection({ point, normal: [x, y, z] }: MirrorPlane): Matrix4 {
  const away = 2 * (point[0] * x + point[1] * y + point[2] * z)
  return new Matrix4().set(
    1 - 2 * x * x,
    -2 * x * y,
    -2 * x * z,
    away * x,
    -2 * x * y,
    1 - 2 * y * y,
    -2 * y * z,
    away * y,
    -2 * x * z,
    -2 * y * z,
    1 - 2 * z * z,
    away * z,
    0,
    0,
    0,
    1,
  )
}

/**
 * The operations that put things, or duplicates of them, to their mirror images. One of their sizes becomes negative,
 * which stage, file and baking take for what it is.
 *
 * @param as null moves the things themselves
 * @returns the operations, the ids of what stands mirrored, and of those the ones whose look no position, turn and size
 *   can keep
 */
export function mirrorPlacements(
  level: LevelView,
  ids: Iterable<string>,
  plane: MirrorPlane,
  as: DuplicateAs | null,
  newId: () => string,
): Reparenting & { tops: string[] } {
  const across = reflection(plane)
  const from = topmost(level, new Set(ids))
  const mirrored = (id: string) => {
    const inParent = level.parentMatrix(id).clone().invert().multiply(across).multiply(level.worldMatrix(id))
    if (isSheared(inParent)) sheared.push(id)
    return decompose(inParent, level.need(id).pivot)
  }
  const sheared: string[] = []
  if (as === null)
    return { operations: from.map(id => ({ do: 'put', id, fields: mirrored(id) })), tops: from, skewed: sheared }
  const { operations, tops, made } = duplicate(level, from, as, newId)
  const placed = from.map((id): Operation => ({ do: 'put', id: made.get(id)!, fields: mirrored(id) }))
  return {
    operations: [...operations, ...placed],
    tops,
    skewed: sheared.map(id => made.get(id)!),
    copied: { made: [made] },
  }
}

/** Those of some things whose pivots lie on one side of a plane, and those that do not. */
export function bySide(
  level: LevelView,
  ids: readonly string[],
  { point, normal }: MirrorPlane,
  side: 1 | -1,
): { on: string[]; off: string[] } {
  const isOn = (id: string) => {
    const pivot = new Vector3(...level.need(id).pivot).applyMatrix4(level.worldMatrix(id))
    return pivot.sub(new Vector3(...point)).dot(new Vector3(...normal)) * side > 0
  }
  return { on: ids.filter(isOn), off: ids.filter(id => !isOn(id)) }
}

/** The rotation whose X points along a plane's normal, by the smallest turn. */
export function axesAcross({ normal }: MirrorPlane): Quat {
  return new Quaternion().setFromUnitVectors(new Vector3(1, 0, 0), new Vector3(...normal)).toArray() as Quat
}

/** The plane of a live mirror, in the world. */
export function planeOfMirror(level: LevelView, id: string): MirrorPlane {
  const world = level.worldMatrix(id)
  const axes = [new Vector3(), new Vector3(), new Vector3()] as const
  world.extractBasis(...axes)
  const { own, pivot } = level.need(id)
  const axis = isArrangement(own) && own.rule.type === 'mirror' ? own.rule.axis : 0
  // A plane across one axis is at right angles to it only as long as the others are; the images are made in the
  // mirror's own axes.
  const normal = axes[(axis + 1) % 3]!.clone()
    .cross(axes[(axis + 2) % 3]!)
    .normalize()
  return {
    point: new Vector3(...pivot).setComponent(axis, 0).applyMatrix4(world).toArray() as Vec3,
    normal: normal.toArray() as Vec3,
  }
}

/**
 * The operations that move the plane of a live mirror along its normal while what it mirrors stays where it is; the
 * images move by twice as much.
 *
 * @param by metres of the world
 */
export function moveMirrorPlane(level: LevelView, id: string, by: number): Operation[] {
  if (by === 0) return []
  const way = new Vector3(...planeOfMirror(level, id).normal).multiplyScalar(by)
  const moved = moveTops(level, [id], way)
  return [...moved, ...moveTops(level, level.children(id), way.negate())]
}
