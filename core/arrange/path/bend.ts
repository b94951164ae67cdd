import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import type { Vec3 } from '../../math/vectors'
import { frameAlong } from './copies'
import { directionOnRun, isStraight, layoutOfPath, mitreAt, placeOnRun, runOf } from './layout'
import type { PathRule } from './rule'

/** How far the ground under a piece is from the path, at even distances from the piece's beginning to its end. */
export type Lifts = readonly Vec3[]

/**
 * How points that lie along X come to lie along the path: X becomes the way along it, Y stays up and Z to the right.
 */
export type Bend = {
  /**
   * The number of the straight stretch that a piece's own X lies on; 0 on a curve. At a corner it is the one after it.
   */
  legOf: (x: number) => number
  /** @param leg goes straight on beyond its ends. Writes to `target` in the arrangement's axes */
  point: (point: Vector3, leg: number, target: { position: Vector3; axes: Matrix4 }) => void
}

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

/**
 * Where a piece has to be cut across, as its own X, to follow the path and the ground: wherever they turn. Ascending.
 */
export function bendPlanes(rule: PathRule, index: number, lifts: Lifts = []): number[] {
  const turns = lifts.flatMap((lift, i) => {
    const [before, after] = [lifts[i - 1], lifts[i + 1]]
    const isTurn =
      before && after && lift.some((value, axis) => Math.abs(before[axis]! + after[axis]! - 2 * value) > EVEN)
    return isTurn ? [rule.begins + (rule.spacing * i) / (lifts.length - 1)] : []
  })
  return [...curvePlanes(rule, index), ...turns].sort((a, b) => a - b)
}

function curvePlanes(rule: PathRule, index: number): number[] {
  const {
    layout: { curve },
    run,
    from,
    to,
    stretch,
  } = pieceOf(rule, index)
  if (run.line) return []
  const toX = (way: number) => (way - from) / stretch + rule.begins
  if (isStraight(rule))
    return curve
      .wayOfPoints()
      .filter(way => way > from + 1e-6 && way < to - 1e-6)
      .map(toX)
  const [before, after] = [curve.directionAt(from), new Vector3()]
  let turned = 0
  for (let i = 1; i <= 16; i++) {
    turned += (before.angleTo(curve.directionAt(from + ((to - from) * i) / 16, after)) * 180) / Math.PI
    before.copy(after)
  }
  const cuts = Math.min(Math.ceil(turned / FINEST_TURN), MOST_CUTS)
  return Array.from({ length: Math.max(cuts - 1, 0) }, (_, i) => toX(from + ((to - from) * (i + 1)) / cuts))
}

/**
 * Bends one piece.
 *
 * @param index of the piece
 * @param lifts lay it on the ground
 */
export function bendOnto(rule: PathRule, index: number, lifts: Lifts = []): Bend {
  const { layout, run, from, stretch } = pieceOf(rule, index)
  const wayOf = (x: number) => from + (x - rule.begins) * stretch
  const lift = new Vector3()
  const lifted = (x: number, position: Vector3) => {
    if (lifts.length > 1) position.add(liftAt(lifts, (x - rule.begins) / rule.spacing, lift))
  }
  const legs = isStraight(rule) && !run.line ? legsOf(rule, index) : []
  const across = new Vector3()
  if (legs.length > 0) {
    return {
      legOf: x =>
        Math.max(
          legs.findLastIndex(leg => leg.from <= wayOf(x)),
          0,
        ),
      point: ({ x, y, z }, number, { position, axes }) => {
        const leg = legs[number]!
        const way = wayOf(x)
        frameAlong(rule, leg.direction, axes)
        position
          .copy(leg.direction)
          .multiplyScalar(way - leg.from)
          .add(leg.start)
        position.add(across.set(mitred(leg, way, z + rule.offset), y, z + rule.offset).applyMatrix4(axes))
        lifted(x, position)
      },
    }
  }
  const direction = new Vector3()
  return {
    legOf: () => 0,
    point: ({ x, y, z }, _leg, { position, axes }) => {
      const way = wayOf(x)
      frameAlong(rule, directionOnRun(layout, run, Math.min(Math.max(way, 0), layout.curve.length), direction), axes)
      placeOnRun(layout, run, way, position).add(across.set(0, y, z + rule.offset).applyMatrix4(axes))
      lifted(x, position)
    },
  }
}

/**
 * What of a piece lies on one straight stretch: ways, the place where it begins, and the tangents of half the turns at
 * its ends.
 */
type Leg = { from: number; to: number; start: Vector3; direction: Vector3; tanFrom: number; tanTo: number }

/** At an end that is no corner of the path a piece ends square. */
function legsOf(rule: PathRule, index: number): Leg[] {
  const {
    layout: { curve },
    from,
    to,
  } = pieceOf(rule, index)
  const points = curve.wayOfPoints()
  const ends = curve.isRound ? [...points, curve.length] : points
  const tanAt = (way: number, end: number, point: number) =>
    Math.abs(way - end) < AT_CORNER ? mitreAt(rule, curve, point % points.length).tan : 0
  return ends.slice(1).flatMap((end, i): Leg[] => {
    const begin = ends[i]!
    // Beyond the ends of the path it goes straight on.
    const [first, last] = [i === 0 ? from : Math.max(from, begin), i === ends.length - 2 ? to : Math.min(to, end)]
    if (last - first < AT_CORNER) return []
    return [
      {
        from: first,
        to: last,
        start: curve.at(first),
        direction: curve.directionAt((Math.max(first, begin) + Math.min(last, end)) / 2),
        tanFrom: tanAt(first, begin, i),
        tanTo: tanAt(last, end, i + 1),
      },
    ]
  })
}

/** Metres within which a piece ends at a corner. */
const AT_CORNER = 1e-6

/**
 * How far a point to the side is shifted along its stretch, so that at a corner all points lie in the plane half-way
 * round it: the inner side is as much shorter as the outer one is longer.
 */
function mitred({ from, to, tanFrom, tanTo }: Leg, way: number, side: number): number {
  const most = (to - from) / 2
  const within = (shift: number) => Math.min(Math.max(shift, -most), most)
  const share = Math.min(Math.max((way - from) / (to - from), 0), 1)
  return within(side * tanFrom) * (1 - share) - within(side * tanTo) * share
}

function liftAt(lifts: Lifts, share: number, target: Vector3): Vector3 {
  const place = Math.min(Math.max(share, 0), 1) * (lifts.length - 1)
  const i = Math.min(Math.floor(place), lifts.length - 2)
  return target.set(...lifts[i]!).lerp(next.set(...lifts[i + 1]!), place - i)
}

const next = new Vector3()
