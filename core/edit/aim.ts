import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three'
import type { PointOn } from '../level/fields'
import { isCamera, isLight } from '../level/kinds'
import type { Operation, Placement } from '../level/schema'
import type { Quat, Vec3 } from '../math/vectors'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import { previewMatrices } from '../scene/preview'

/** Nearer than this, in metres, nothing can be turned to a point. */
const TOO_NEAR = 1e-6
/** Moved by less than this, in metres, something counts as where it was. */
const STILL = 1e-6

/** What a camera or a light stays turned to; null for anything else. */
export function aimOf(own: object): PointOn | null {
  return isCamera(own) || isLight(own) ? own.aim : null
}

/**
 * The turn in its parent's axes with which -Z of something points to a place, and its Y up as far as that goes: also
 * where what it hangs from is mirrored or sized unevenly.
 *
 * Of the matrix A·R·S of something below A, R is wanted. A·R·S·(-Z) points along the way w where R·Z lies along the
 * inverse of A times -w; and Y stays in the plane of w and of up where R·Y is at right angles to the transpose of A
 * times w × up.
 *
 * @param eye and `target` in the world
 * @param above from the parent's axes to the world
 * @param size its own; only the signs matter
 * @param roll radians that it is turned by about its own sight
 * @returns null if they are too near, or nothing below the parent has a direction
 */
export function turnTo(eye: Vector3, target: Vector3, above: Matrix4, size: Vec3 = [1, 1, 1], roll = 0): Quat | null {
  if (eye.distanceTo(target) < TOO_NEAR) return null
  const way = target.clone().sub(eye).normalize()
  const level = way
    .clone()
    .cross(Math.abs(way.y) > 0.99999 ? new Vector3(0, 0, -1) : new Vector3(0, 1, 0))
    .normalize()
  const up = level.cross(way).applyAxisAngle(way, -roll)
  const linear = new Matrix3().setFromMatrix4(above)
  if (Math.abs(linear.determinant()) < Number.MIN_VALUE) return null
  const back = way
    .clone()
    .negate()
    .applyMatrix3(linear.clone().invert())
    .normalize()
    .multiplyScalar(size[2] < 0 ? -1 : 1)
  const across = way.clone().cross(up).applyMatrix3(linear.clone().transpose())
  const over = back.clone().cross(across).normalize()
  if (over.clone().applyMatrix3(linear).dot(up) * (size[1] < 0 ? -1 : 1) < 0) over.negate()
  const turn = new Quaternion()
    .setFromRotationMatrix(new Matrix4().makeBasis(over.clone().cross(back), over, back))
    .normalize()
  return Number.isFinite(turn.w) ? (turn.toArray() as Quat) : null
}

/**
 * Operations with those added that keep cameras and lights turned to what they aim at, while either moves. One that is
 * turned by itself, and not moved, is let go of; the place of something that is removed is kept.
 */
export function withAims(level: LevelView, operations: readonly Operation[]): Operation[] {
  const puts = new Map(
    operations.flatMap(operation => (operation.do === 'put' ? [[operation.id, operation.fields] as const] : [])),
  )
  const ownPut = [...puts].filter(([, { own }]) => own && aimOf(own)).map(([id]) => id)
  if (level.aimingIds.size + ownPut.length === 0) return [...operations]
  // What cannot be done is said by doing it.
  if (!areWhole(level, operations)) return [...operations]
  const gone = new Set(operations.flatMap(operation => (operation.do === 'remove' ? [operation.id] : [])))
  const moved = previewMatrices(
    level,
    operations.filter(({ id }) => !copyOf(id)),
  )
  const change: Changing = { level, puts, gone, moved }
  const aiming = [...new Set([...level.aimingIds, ...ownPut])].filter(id => !gone.has(id))
  return [...operations, ...aiming.flatMap(id => aimed(change, id) ?? [])]
}

/** A change on its way: what it puts and removes, and where it moves things. */
type Changing = {
  level: LevelView
  puts: ReadonlyMap<string, Partial<Placement>>
  gone: ReadonlySet<string>
  moved: ReadonlyMap<string, Matrix4>
}

const placeIn = (matrix: Matrix4) => new Vector3().setFromMatrixPosition(matrix)

/** From the axes that a thing's numbers are in after a change to the world. */
function axesAbove({ level, puts, moved }: Changing, id: string): Matrix4 {
  const put = puts.get(id)?.parentId
  const parentId = put !== undefined ? put : (level.get(id)?.parentId ?? null)
  return parentId === null ? new Matrix4() : (moved.get(parentId) ?? level.worldMatrix(parentId))
}

/** What keeps one thing turned to what it aims at; null if nothing has to. */
function aimed(change: Changing, id: string): Operation | null {
  const { level, puts, gone, moved } = change
  const [before, fields] = [level.get(id), puts.get(id)]
  const own = fields?.own ?? before!.own
  const aim = aimOf(own)
  if (!aim) return null
  const aimAt = (next: PointOn | null): Operation => ({
    do: 'put',
    id,
    fields: { own: { ...own, aim: next } as Placement['own'] },
  })
  const target = aim.on === null ? null : (copyOf(aim.on)?.arrangementId ?? aim.on)
  if (target !== null && gone.has(target)) {
    const at = placeOf(level, aim, moved).toArray()
    return aimAt({ at, on: null, point: at })
  }
  const targetMoves = target !== null && moved.has(target)
  const now = moved.get(id)
  if (!now && !targetMoves) return null
  const eye = placeIn(now ?? level.worldMatrix(id))
  // Turned by hand where it stands, it is let go of.
  const isTurned = before && !fields?.own && !targetMoves && fields?.rotation
  if (isTurned && eye.distanceTo(placeIn(level.worldMatrix(id))) < STILL) return aimAt(null)
  const above = axesAbove(change, id)
  const rotation = turnTo(eye, placeOf(level, aim, moved), above, fields?.scale ?? before?.scale)
  return rotation && { do: 'put', id, fields: { rotation } }
}

/**
 * Whether everything would stand somewhere after operations: it is there, or comes with all that takes, and hangs from
 * what is there.
 */
export function areWhole(level: LevelView, operations: readonly Operation[]): boolean {
  const put = new Set(operations.flatMap(({ do: what, id }) => (what === 'put' ? [id] : [])))
  return operations.every(operation => {
    if (operation.do !== 'put' || copyOf(operation.id)) return true
    const { translation, rotation, scale, pivot, parentId } = operation.fields
    return (
      (level.has(operation.id) || Boolean(translation && rotation && scale && pivot))
      && (!parentId || level.has(parentId) || put.has(parentId))
    )
  })
}

/** Where an aim is, as things are moved. */
export function placeOf(
  level: LevelView,
  { at, on, point }: PointOn,
  moved: ReadonlyMap<string, Matrix4> = new Map(),
): Vector3 {
  if (on === null || !level.has(on)) return new Vector3(...at)
  const arrangement = copyOf(on)?.arrangementId
  if (arrangement !== undefined && moved.has(arrangement)) {
    return new Vector3(...point)
      .applyMatrix4(level.worldMatrix(on))
      .applyMatrix4(level.worldMatrix(arrangement).clone().invert())
      .applyMatrix4(moved.get(arrangement)!)
  }
  return new Vector3(...point).applyMatrix4(moved.get(on) ?? level.worldMatrix(on))
}
