import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import type { Vec3 } from '../../math/vectors'
import { frameAlong } from './copies'
import { directionOnRun, isStraight, layoutOfPath, placeOnRun, runOf } from './layout'
import type { PathRule } from './rule'

/** How far the ground under a piece is from the path, at even distances from the piece's beginning to its end. */
export type Lifts = readonly Vec3[]

export type BendPoint = (point: Vector3, target: { position: Vector3, axes: Matrix4 }) => void

/** Degrees that the path may turn by between two cuts. */
const FINEST_TURN = 5
const MOST_CUTS = 48
/** Metres that the ground may leave a straight line by without a cut. */
const EVEN = 1e-4

function pieceOf(rule: PathRule, index: number) {
  const layout = layoutOfPath(rule)
  const run = runOf(layout, index)
  const { ways, stretch, first } = run
  return { layout, run, stretch, from: ways[index - first]!, to: ways[index - first + 1]! }
}

/** Where a piece has to be cut across, as its own X, to follow the path and the ground: wherever they turn. Ascending. */
export function bendPlanes(rule: PathRule, index: number, lifts: Lifts = []): number[] {
  const turns = lifts.flatMap((lift, i) => {
    const [before, after] = [lifts[i - 1], lifts[i + 1]]
    const isTurn = before && after && lift.some((value, axis) => Math.abs(before[axis]! + after[axis]! - 2 * value) > EVEN)
    return isTurn ? [rule.begins + rule.spacing * i / (lifts.length - 1)] : []
  })
  return [...curvePlanes(rule, index), ...turns].sort((a, b) => a - b)
}

function curvePlanes(rule: PathRule, index: number): number[] {
  const { layout: { curve }, run, from, to, stretch } = pieceOf(rule, index)
  if (run.line) return []
  const toX = (way: number) => (way - from) / stretch + rule.begins
  if (isStraight(rule)) return curve.wayOfPoints().filter(way => way > from + 1e-6 && way < to - 1e-6).map(toX)
  const [before, after] = [curve.directionAt(from), new Vector3()]
  let turned = 0
  for (let i = 1; i <= 16; i++) {
    turned += before.angleTo(curve.directionAt(from + (to - from) * i / 16, after)) * 180 / Math.PI
    before.copy(after)
  }
  const cuts = Math.min(Math.ceil(turned / FINEST_TURN), MOST_CUTS)
  return Array.from({ length: Math.max(cuts - 1, 0) }, (_, i) => toX(from + (to - from) * (i + 1) / cuts))
}

/**
 * Bends points that lie along X onto the path: X becomes the way along it, Y stays up and Z to the right.
 *
 * @param index of the piece
 * @param lifts lay it on the ground
 * @returns writes to `target` in the arrangement's axes
 */
export function bendOnto(rule: PathRule, index: number, lifts: Lifts = []): BendPoint {
  const { layout, run, from, stretch } = pieceOf(rule, index)
  const direction = new Vector3()
  return ({ x, y, z }, { position, axes }) => {
    const way = from + (x - rule.begins) * stretch
    frameAlong(rule, directionOnRun(layout, run, Math.min(Math.max(way, 0), layout.curve.length), direction), axes)
    placeOnRun(layout, run, way, position).add(direction.set(0, y, z + rule.offset).applyMatrix4(axes))
    if (lifts.length > 1) position.add(liftAt(lifts, (x - rule.begins) / rule.spacing, direction))
  }
}

function liftAt(lifts: Lifts, share: number, target: Vector3): Vector3 {
  const place = Math.min(Math.max(share, 0), 1) * (lifts.length - 1)
  const i = Math.min(Math.floor(place), lifts.length - 2)
  return target.set(...lifts[i]!).lerp(next.set(...lifts[i + 1]!), place - i)
}

const next = new Vector3()
