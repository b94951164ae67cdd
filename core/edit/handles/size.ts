import type { Quaternion, Ray } from 'three'
import { Box3, Matrix4, Vector3 } from 'three'
import type { Level } from '../../level/level'
import type { Operation, Placement } from '../../level/schema'
import type { Vec3 } from '../../math/vectors'
import { topmost } from '../../level/tree'
import { LEVEL_AXES } from '../../units/height'
import { tidy } from '../../units/quantity'
import { directionsOf } from './axes'
import type { ViewDirections } from './axis-drag'
import { AxisDrag } from './axis-drag'
import type { AxisIndex } from './lock'

/** The box that Size handles stand on: along its own axes, which pass through the world's origin. */
export type SizeBox = { axes: Quaternion; box: Box3 }

/** A grip of the box: -1, 0 or 1 along each axis. One that is not 0 is a face, three are a corner. */
export type SizeGrip = readonly [number, number, number]

/** No drag makes anything smaller than this share of what it was, or turns it inside out. */
const SMALLEST = 0.001

/** Where a grip is on its box, in the world. */
export function gripPoint({ axes, box }: SizeBox, grip: SizeGrip): Vector3 {
  const [middle, half] = [box.getCenter(new Vector3()), box.getSize(new Vector3()).multiplyScalar(0.5)]
  return new Vector3(...grip).multiply(half).add(middle).applyQuaternion(axes)
}

/** The axes a grip acts along. */
export function gripAxes(grip: SizeGrip): AxisIndex[] {
  return LEVEL_AXES.filter(axis => grip[axis] !== 0)
}

/**
 * Follows a pointer that holds a grip. A face goes along its axis while the face across stays where it is; a corner
 * goes along the line to the corner across, and all three sizes change alike.
 */
export class SizeDrag {
  private readonly drag: AxisDrag
  private readonly reach: number

  /** @param anchor the point of the world that stays where it is; the face or corner across when left out */
  constructor(
    ray: Ray,
    box: SizeBox,
    readonly grip: SizeGrip,
    view: ViewDirections,
    readonly anchor = gripPoint(box, grip.map(side => -side) as unknown as SizeGrip),
  ) {
    const held = gripPoint(box, grip)
    const away = held.clone().sub(anchor)
    const isFace = gripAxes(grip).length === 1
    const direction = isFace ? new Vector3(...grip).applyQuaternion(box.axes) : away.clone().normalize()
    this.reach = away.dot(direction)
    this.drag = new AxisDrag(ray, held, direction, view)
  }

  /** The factor by which the grip's axes have grown since the drag began. */
  update(ray: Ray): number {
    if (Math.abs(this.reach) < 1e-9) return 1
    return Math.max((this.reach + this.drag.update(ray)) / this.reach, SMALLEST)
  }
}

/** One factor for each axis of the box: `factor` where the grip acts, 1 elsewhere. */
export function gripFactors(grip: SizeGrip, factor: number): Vec3 {
  return grip.map(side => (side === 0 ? 1 : factor)) as Vec3
}

export type Sizing = {
  operations: Operation[]
  /** Things turned against the axes, which grew along their own axes instead of being skewed. */
  inexact: string[]
}

/**
 * The operations that size placements by factors along axes of the world, around a point that stays where it is.
 *
 * Each one's pivot goes where the sizing takes it. The thing's own size changes without skew: along each of its own
 * axes by as much as a step in that direction grows. That is exact where its axes are those of the sizing or all
 * factors are alike; other things are named in `inexact`.
 *
 * @param anchor null: each around its own pivot and along its own axes, always exact
 */
export function sizePlacements(
  level: Level,
  ids: Iterable<string>,
  factors: Vec3,
  axes: Quaternion,
  anchor: Vector3 | null,
): Sizing {
  const inexact: string[] = []
  const grow = new Matrix4()
    .makeRotationFromQuaternion(axes)
    .multiply(new Matrix4().makeScale(...factors))
    .multiply(new Matrix4().makeRotationFromQuaternion(axes.clone().invert()))
  const operations = topmost(level, new Set(ids)).map((id): Operation => {
    const { translation, scale, parentId } = level.need(id)
    if (!anchor) return { do: 'put', id, fields: { scale: scale.map((value, i) => tidy(value * factors[i]!)) as Vec3 } }
    const world = level.worldMatrix(id)
    const own = ownFactors(world, grow, factors, axes)
    if (!own.isExact) inexact.push(id)
    const pivot = new Vector3(...translation)
    const parent = level.parentMatrix(id)
    if (parentId !== null) pivot.applyMatrix4(parent)
    pivot.sub(anchor).applyMatrix4(grow).add(anchor)
    if (parentId !== null) pivot.applyMatrix4(parent.clone().invert())
    return {
      do: 'put',
      id,
      fields: {
        translation: [tidy(pivot.x), tidy(pivot.y), tidy(pivot.z)],
        scale: scale.map((value, i) => tidy(value * own.factors[i]!)) as Vec3,
      },
    }
  })
  return { operations, inexact }
}

function ownFactors(
  world: Matrix4,
  grow: Matrix4,
  factors: Vec3,
  axes: Quaternion,
): { factors: Vec3; isExact: boolean } {
  if (factors[0] === factors[1] && factors[1] === factors[2]) return { factors, isExact: true }
  const basis = [new Vector3(), new Vector3(), new Vector3()] as const
  world.extractBasis(...basis)
  const directions = directionsOf(axes)
  let isExact = true
  const own = basis.map(axis => {
    axis.normalize()
    const same = directions.findIndex(direction => Math.abs(Math.abs(direction.dot(axis)) - 1) < 1e-9)
    if (same >= 0) return factors[same]!
    const grown = axis.clone().applyMatrix4(grow)
    if (grown.clone().normalize().dot(axis) < 1 - 1e-9) isExact = false
    return grown.length()
  }) as Vec3
  return { factors: own, isExact }
}

/**
 * The box around one thing and all below it along its own axes, or around several along given axes; null if they show
 * nothing.
 */
export function sizeBoxOf(axes: Quaternion, corners: Iterable<Vector3>): SizeBox | null {
  const box = new Box3()
  const turn = axes.clone().invert()
  for (const corner of corners) box.expandByPoint(corner.clone().applyQuaternion(turn))
  return box.isEmpty() ? null : { axes, box }
}

/**
 * The transform with another size along one axis, given in metres instead of as a factor.
 *
 * @param now how large it is, in metres
 */
export function scaleForMetres(
  { scale }: Pick<Placement, 'scale'>,
  axis: 0 | 1 | 2,
  metres: number,
  now: number,
): Vec3 {
  return scale.with(axis, tidy((scale[axis] * metres) / now)) as Vec3
}
