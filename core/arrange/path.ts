import { Matrix4, Vector3 } from 'three'
import { PathCurve } from './path-curve'
import type { PathRule } from './rule'

/** Where pieces are on a path: the ways at which they begin and end, or at which copies stand. */
type Layout = { curve: PathCurve, ways: number[], /** Of a piece that is fitted, to its own length. */ stretch: number }

const layouts = new WeakMap<PathRule, Layout>()

/** How many copies a path has. */
export function pieceCount(rule: PathRule): number {
  const { ways } = layoutOf(rule)
  return rule.measure === 'ends' ? ways.length - 1 : ways.length
}

function layoutOf(rule: PathRule): Layout {
  let found = layouts.get(rule)
  if (!found) layouts.set(rule, found = layOut(rule))
  return found
}

function layOut(rule: PathRule): Layout {
  const curve = new PathCurve(rule)
  const { length } = curve
  const even = (count: number, gaps: number) => Array.from({ length: count }, (_, i) => gaps === 0 ? 0 : length * i / gaps)
  switch (rule.measure) {
    case 'count': return { curve, stretch: 1, ways: even(rule.count, rule.closed ? rule.count : rule.count - 1) }
    case 'points': return { curve, stretch: 1, ways: curve.wayOfPoints() }
    case 'spacing': {
      if (rule.closed) {
        const count = Math.min(Math.max(1, Math.round(length / rule.spacing)), TOO_MANY)
        return { curve, stretch: 1, ways: even(count, count) }
      }
      return { curve, stretch: 1, ways: Array.from({ length: mostPieces(length, rule.spacing) + 1 }, (_, i) => i * rule.spacing) }
    }
    case 'ends': return rule.bent ? bentPieces(rule, curve) : straightPieces(rule, curve)
  }
}

/** More than any rule may make; beyond it nobody needs to know how many. */
const TOO_MANY = 1_000_001

/** Whole pieces in a length, with a hair's breadth of slack. */
const mostPieces = (length: number, piece: number) => Math.min(Math.floor(length / piece + 1e-9), TOO_MANY)

/** Bent pieces lie along the path itself. */
function bentPieces({ spacing, fitted }: PathRule, curve: PathCurve): Layout {
  const count = fitted ? Math.min(Math.max(1, Math.round(curve.length / spacing)), TOO_MANY) : Math.max(1, mostPieces(curve.length, spacing))
  const piece = fitted ? curve.length / count : spacing
  return { curve, stretch: piece / spacing, ways: Array.from({ length: count + 1 }, (_, i) => i * piece) }
}

/** Straight pieces are chords: both ends of each on the path. */
function straightPieces({ spacing, fitted }: PathRule, curve: PathCurve): Layout {
  const ways = [0]
  while (ways.length < 100_000) {
    const next = curve.afterChord(ways.at(-1)!, spacing)
    if (next > curve.length * (1 + 1e-9)) break
    ways.push(next)
  }
  if (!fitted) return { curve, stretch: 1, ways: ways.length > 1 ? ways : [0, curve.afterChord(0, spacing)] }
  const rest = curve.at(curve.length).distanceTo(curve.at(ways.at(-1)!)) / spacing
  const count = Math.max(1, ways.length - 1 + Math.round(rest))
  const walk = (piece: number) => {
    const found = [0]
    for (let i = 0; i < count; i++) found.push(found[i]! > curve.length ? found[i]! + piece : curve.afterChord(found[i]!, piece))
    return found
  }
  let [low, high] = [spacing / 4, spacing * 2]
  for (let k = 0; k < 60; k++) {
    const middle = (low + high) / 2
    if (walk(middle)[count]! < curve.length) low = middle
    else high = middle
  }
  return { curve, stretch: (low + high) / 2 / spacing, ways: walk((low + high) / 2) }
}

/**
 * The axes of the path at a way along it: X forwards, Y up, Z to the right.
 *
 * @param forwards the direction of travel, of unit length
 */
function frameAlong({ stand }: Pick<PathRule, 'stand'>, forwards: Vector3, target: Matrix4): Matrix4 {
  if (stand === 'kept') return target.identity()
  const x = forwards.clone()
  if (stand !== 'banked') x.y = 0
  if (x.lengthSq() < 1e-12) x.set(1, 0, 0)
  x.normalize()
  const z = new Vector3().crossVectors(x, UP)
  if (z.lengthSq() < 1e-12) z.set(0, 0, 1)
  z.normalize()
  return target.makeBasis(x, new Vector3().crossVectors(z, x), z)
}

const UP = new Vector3(0, 1, 0)

/** Writes the matrix of each copy along a path; see `evaluate`. */
export function evaluatePath(rule: PathRule, write: (index: number, matrix: Matrix4) => void): number {
  const { curve, ways, stretch } = layoutOf(rule)
  const count = pieceCount(rule)
  const [matrix, own, from, to, direction] = [new Matrix4(), new Matrix4(), new Vector3(), new Vector3(), new Vector3()]
  own.makeRotationY(rule.turn * Math.PI / 180).setPosition(0, 0, rule.offset)
  for (let i = 0; i < count; i++) {
    if (rule.measure === 'ends' && !rule.bent) {
      curve.at(ways[i]!, from)
      direction.subVectors(curve.at(ways[i + 1]!, to), from).normalize()
      // Halfway between the ends, from where the piece's own middle is.
      const middle = rule.begins + rule.spacing / 2
      frameAlong(rule, direction, matrix).setPosition(from.lerp(to, 0.5))
      matrix.multiply(own).scale(to.set(stretch, 1, 1)).multiply(new Matrix4().makeTranslation(-middle, 0, 0))
    }
    else {
      const way = rule.measure === 'ends' ? (ways[i]! + ways[i + 1]!) / 2 : ways[i]!
      frameAlong(rule, cornerDirection(rule, curve, way, direction), matrix).setPosition(curve.at(way, from))
      matrix.multiply(own)
    }
    write(i, matrix)
  }
  return count
}

/** At a corner between two straight stretches, halfway between their directions. */
function cornerDirection({ measure, smooth, closed }: PathRule, curve: PathCurve, way: number, target: Vector3): Vector3 {
  curve.directionAt(way, target)
  if (measure !== 'points' || smooth) return target
  const before = way > 0 ? way - 1e-6 : closed ? curve.length - 1e-6 : null
  return before === null ? target : target.add(curve.directionAt(before)).normalize()
}

export type BendPoint = (point: Vector3, target: { position: Vector3, axes: Matrix4 }) => void

/** Degrees that the path may turn by between two cuts. */
const FINEST_TURN = 5
const MOST_CUTS = 48

/** Where a piece has to be cut across, as its own X, to follow the path: wherever that turns. */
export function bendPlanes(rule: PathRule, index: number): number[] {
  const { curve, ways, stretch } = layoutOf(rule)
  const [from, to] = [ways[index]!, ways[index + 1]!]
  const toX = (way: number) => (way - from) / stretch + rule.begins
  if (!rule.smooth || rule.points.length < 3) return curve.wayOfPoints().filter(way => way > from + 1e-6 && way < to - 1e-6).map(toX)
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
 * @returns writes to `target` in the arrangement's axes
 */
export function bendOnto(rule: PathRule, index: number): BendPoint {
  const { curve, ways, stretch } = layoutOf(rule)
  const direction = new Vector3()
  return ({ x, y, z }, { position, axes }) => {
    const way = ways[index]! + (x - rule.begins) * stretch
    frameAlong(rule, curve.directionAt(Math.min(Math.max(way, 0), curve.length), direction), axes)
    curve.at(way, position).add(direction.set(0, y, z + rule.offset).applyMatrix4(axes))
  }
}
