import { Vector3 } from 'three'
import { rootBetween } from '../../math/root'
import { PathCurve, STILL } from './curve'
import type { PathRule } from './rule'

/**
 * What lies one after the other on a path without a break: the ways at which pieces begin and end, or at which copies
 * stand.
 */
export type PathRun = {
  ways: Float64Array
  /** Of a piece that is fitted, to its own length. */
  stretch: number
  /** The number of its first piece among those of the whole path. */
  first: number
  /**
   * The stretch that it keeps to, straight on beyond its corners, with the direction by metre of way; null for one that
   * follows the path.
   */
  line: { way: number; from: Vector3; direction: Vector3 } | null
}

/** Where pieces are on a path. The copies are all the pieces, and then those at corners. */
export type PathLayout = {
  curve: PathCurve
  /** One for the whole path, or one for each straight stretch of a path that has copies at its corners. */
  runs: PathRun[]
  pieces: number
  /** The points at which corner copies stand, by their number. */
  corners: number[]
  /**
   * How far beyond the end of the path the last of fitted pieces ends, in metres of way; negative before it, 0 where
   * they fit.
   */
  miss: number
}

const layouts = new WeakMap<PathRule, PathLayout>()

/** The layout of a path, worked out once for each rule. */
export function layoutOfPath(rule: PathRule): PathLayout {
  let found = layouts.get(rule)
  if (!found) layouts.set(rule, (found = layOut(rule)))
  return found
}

/** Whether each straight stretch is laid out by itself, with copies at the corners between. */
export function hasCorners(rule: PathRule): boolean {
  return rule.corners !== undefined && rule.measure === 'ends' && isStraight(rule)
}

/** Whether a path is one of straight lines. */
export function isStraight({ smooth, points }: PathRule): boolean {
  return !smooth || points.length < 3
}

/** No fewer copies than a path has, by its length alone: a chord is never longer than its way. */
export function mostOnPath(rule: PathRule): number {
  const { measure, count, points, spacing } = rule
  if (measure === 'count') return count
  if (measure === 'points') return points.length
  return Math.ceil(new PathCurve(rule).length / spacing) + (hasCorners(rule) ? 2 * points.length : 1)
}

/** How many copies a path has. */
export function countOnPath(rule: PathRule): number {
  const { pieces, corners } = layoutOfPath(rule)
  return pieces + corners.length
}

/** The run that a piece belongs to. */
export function runOf({ runs }: PathLayout, piece: number): PathRun {
  return runs.findLast(run => run.first <= piece)!
}

/** Where a run is after a way of the path. */
export function placeOnRun({ curve }: PathLayout, { line }: PathRun, way: number, target: Vector3): Vector3 {
  return line
    ? target
        .copy(line.direction)
        .multiplyScalar(way - line.way)
        .add(line.from)
    : curve.at(way, target)
}

/** Its direction of travel there, of unit length. */
export function directionOnRun({ curve }: PathLayout, { line }: PathRun, way: number, target: Vector3): Vector3 {
  return line ? target.copy(line.direction).normalize() : curve.directionAt(way, target)
}

/** Pieces that stay level touch each other where they do in plan, however steep the path is. */
const isInPlan = ({ measure, stand, bent }: PathRule) => measure === 'ends' && stand === 'upright' && !bent

function layOut(rule: PathRule): PathLayout {
  const curve = new PathCurve(rule, isInPlan(rule))
  if (hasCorners(rule)) return layOutStretches(rule, curve)
  const {
    ways,
    stretch,
    miss = 0,
  } = rule.measure !== 'ends'
    ? { ways: waysOfCopies(rule, curve), stretch: 1 }
    : rule.bent
      ? piecesAlong(rule, 0, curve.length)
      : rule.fitted
        ? fittedChords(rule, curve)
        : { ways: wholeChords(rule, curve), stretch: 1 }
  return {
    curve,
    runs: [{ ways, stretch, first: 0, line: null }],
    pieces: rule.measure === 'ends' ? ways.length - 1 : ways.length,
    corners: [],
    miss,
  }
}

/** More than any rule may make; beyond it nobody needs to know how many. */
const TOO_MANY = 1_000_001

/** Whole pieces in a length, with a hair's breadth of slack. */
const mostPieces = (length: number, piece: number) => Math.min(Math.floor(length / piece + 1e-9), TOO_MANY)

const evenly = (count: number, step: number, from = 0) =>
  Float64Array.from({ length: count }, (_, i) => from + step * i)

function waysOfCopies({ measure, count, spacing }: PathRule, curve: PathCurve): Float64Array {
  const { length, isRound } = curve
  if (measure === 'points') return Float64Array.from(curve.wayOfPoints())
  if (measure === 'count') return evenly(count, length / Math.max(isRound ? count : count - 1, 1))
  if (measure === 'fit') {
    const gaps = mostPieces(length, spacing)
    return evenly(isRound ? Math.max(gaps, 1) : gaps + 1, length / Math.max(gaps, 1))
  }
  if (!isRound) return evenly(mostPieces(length, spacing) + 1, spacing)
  const fitting = Math.min(Math.max(1, Math.round(length / spacing)), TOO_MANY)
  return evenly(fitting, length / fitting)
}

/** The ways at which pieces begin, and at which the last one ends, and how much they are stretched. */
type Pieces = { ways: Float64Array; stretch: number; miss?: number }

/**
 * Pieces that lie along the path itself, as bent ones do and all on straight stretches: their ways, and how much they
 * are stretched.
 */
function piecesAlong({ spacing, fitted }: PathRule, from: number, to: number): Pieces {
  const count = Math.max(
    1,
    fitted ? Math.min(Math.round((to - from) / spacing), TOO_MANY) : mostPieces(to - from, spacing),
  )
  const piece = fitted ? (to - from) / count : spacing
  return { ways: evenly(count + 1, piece, from), stretch: piece / spacing }
}

/**
 * Chords looked at for each number of pieces, to find how long they have to be; where sharp corners make the end jump,
 * looking longer finds nothing better.
 */
const MOST_CHORDS = 2_000_000
/**
 * Steps in looking for how long chords have to be: at a jump each halves the range, and so many leave nothing of it.
 */
const MOST_STEPS = 48
/** Numbers of pieces that are tried besides the nearest. */
const NEIGHBOURS = [0, 1, -1, 2, -2]
/** Of a piece's length: how near to the end of the path is at it. */
const FITS = 1e-6

/**
 * Straight pieces on a curve are chords: both ends of each on the path. They keep their length, and stop before its
 * end.
 */
function wholeChords({ spacing }: PathRule, curve: PathCurve): Float64Array {
  // On a path that goes nowhere no chord would ever end.
  if (curve.length < STILL) return Float64Array.of(0, spacing)
  // A chord is never longer than its way, so that there are at least as many.
  if (mostPieces(curve.length, spacing) >= TOO_MANY) return new Float64Array(TOO_MANY + 1)
  const ways = [0]
  for (
    let next = curve.afterChord(0, spacing);
    next <= curve.length * (1 + 1e-9) && ways.length <= TOO_MANY;
    next = curve.afterChord(next, spacing)
  )
    ways.push(next)
  return Float64Array.from(ways.length > 1 ? ways : [0, curve.afterChord(0, spacing)])
}

/**
 * Chords that are sized so that the last one ends where the path does. Round a sharp corner the end jumps as they grow,
 * and may miss it with any size: then another number of them may not.
 */
function fittedChords(rule: PathRule, curve: PathCurve): Pieces {
  const { spacing } = rule
  if (curve.length < STILL) return { ways: Float64Array.of(0, spacing), stretch: 1, miss: spacing }
  const whole = wholeChords(rule, curve)
  if (whole.length > TOO_MANY) return { ways: whole, stretch: 1 }
  const last = whole.at(-1)!
  const nearest =
    whole.length
    - 1
    + (last < curve.length
      ? Math.round(curve.between(curve.at(curve.length, start), curve.at(last, end)) / spacing)
      : 0)
  let best: (Pieces & { miss: number }) | null = null
  for (const more of NEIGHBOURS) {
    if (nearest + more < 1) continue
    const found = chordsToEnd(curve, nearest + more, spacing)
    if (Math.abs(found.miss) <= FITS * spacing) return { ...found, miss: 0 }
    if (!best || Math.abs(found.miss) < Math.abs(best.miss)) best = found
  }
  return best!
}

const [start, end] = [new Vector3(), new Vector3()]

/** So many chords of the size with which they come nearest to the end of the path. */
function chordsToEnd(curve: PathCurve, count: number, spacing: number): Pieces & { miss: number } {
  const walked = new Float64Array(count + 1)
  const beyond = (piece: number) => {
    for (let i = 0; i < count; i++)
      walked[i + 1] = walked[i]! > curve.length ? walked[i]! + piece : curve.afterChord(walked[i]!, piece)
    return walked[count]! - curve.length
  }
  const piece = rootBetween(
    beyond,
    spacing / 4,
    spacing * 2,
    Math.max(curve.length * 1e-12, curve.rounding * count),
    Math.min(Math.max(MOST_CHORDS / count, 6), MOST_STEPS),
  )
  // Where the end jumps one of the two sides is nearer.
  const sides = [piece, piece * (1 - 1e-9), piece * (1 + 1e-9)].map(each => ({ each, miss: beyond(each) }))
  const { each, miss } = sides.reduce((a, b) => (Math.abs(b.miss) < Math.abs(a.miss) ? b : a))
  beyond(each)
  return { ways: walked, stretch: each / spacing, miss }
}

function layOutStretches(rule: PathRule, curve: PathCurve): PathLayout {
  const ways = curve.wayOfPoints()
  const last = ways.length - 1
  const ends = curve.isRound ? [...ways, curve.length] : ways
  const corners = ways.flatMap((_, point) =>
    curve.isRound || (point > 0 && point < last) || rule.corners!.ends ? [point] : [],
  )
  // Of the way, what is a metre in plan.
  const steep = (direction: Vector3) => (curve.isFlat ? 1 : Math.max(Math.hypot(direction.x, direction.z), 0.1))
  const roomAt = (point: number, direction: Vector3) =>
    corners.includes(point)
      ? rule.corners!.room + (mitreAt(rule, curve, point).tan * rule.offset) / steep(direction)
      : 0
  const runs: PathRun[] = []
  let pieces = 0
  for (let i = 0; i + 1 < ends.length; i++) {
    const direction = curve.directionAt((ends[i]! + ends[i + 1]!) / 2)
    const [from, to] = [ends[i]! + roomAt(i, direction), ends[i + 1]! - roomAt((i + 1) % ways.length, direction)]
    const { ways: found, stretch } =
      to - from > 1e-6 ? piecesAlong(rule, from, to) : { ways: Float64Array.of(from), stretch: 1 }
    const corner = curve.at(ends[i]!)
    const line = {
      way: ends[i]!,
      from: corner,
      direction: curve
        .at((ends[i]! + ends[i + 1]!) / 2)
        .sub(corner)
        .multiplyScalar(2 / (ends[i + 1]! - ends[i]! || 1)),
    }
    runs.push({ ways: found, stretch, first: pieces, line })
    pieces += found.length - 1
  }
  return { curve, runs, pieces, corners, miss: 0 }
}

/** A corner beyond this many times its side's length is cut off. */
const LONGEST_MITRE = 10

/** The direction half-way round a corner, and what a mitre there does to the distance to the side and to the way. */
export type Mitre = {
  direction: Vector3
  /** Times the distance to the side. */
  wide: number
  /** Of half the turn; positive to the right. */
  tan: number
}

/** @param point by its number; at an end of the path the direction is the path's own */
export function mitreAt({ smooth, stand }: PathRule, curve: PathCurve, point: number): Mitre {
  const ways = curve.wayOfPoints()
  const way = ways[point]!
  const out = curve.directionAt(way)
  if ((smooth && ways.length > 2) || (!curve.isRound && (point === 0 || point === ways.length - 1)))
    return { direction: out, wide: 1, tan: 0 }
  const before = point > 0 ? ways[point - 1]! : ways.at(-1)!
  const into = curve.directionAt(point > 0 ? (before + way) / 2 : (before + curve.length) / 2)
  const half = stand === 'kept' ? 0 : Math.atan2(into.z * -out.x + into.x * out.z, into.x * out.x + into.z * out.z) / 2
  const tan = Math.min(Math.max(Math.tan(half), -LONGEST_MITRE), LONGEST_MITRE)
  return { direction: halfWay(into, out), wide: Math.min(1 / Math.cos(half), LONGEST_MITRE), tan }
}

/**
 * Between two directions in plan, and between their slopes: a corner between a slope and a level stretch looks half-way
 * round too.
 */
function halfWay(into: Vector3, out: Vector3): Vector3 {
  const [a, b] = [Math.hypot(into.x, into.z), Math.hypot(out.x, out.z)]
  // Where one of them goes straight up there is no plan.
  if (a < 1e-6 || b < 1e-6) return out.clone().add(into).normalize()
  const plan = new Vector3(into.x / a + out.x / b, 0, into.z / a + out.z / b)
  if (plan.lengthSq() < 1e-12) return out.clone()
  return plan
    .normalize()
    .setY((into.y / a + out.y / b) / 2)
    .normalize()
}
