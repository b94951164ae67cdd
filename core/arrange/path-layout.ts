import type { Vector3 } from 'three'
import { rootBetween } from '../geometry/root'
import { PathCurve } from './path-curve'
import type { PathRule } from './rule'

/** What lies one after the other on a path without a break: the ways at which pieces begin and end, or at which copies stand. */
export type PathRun = {
  ways: Float64Array
  /** Of a piece that is fitted, to its own length. */
  stretch: number
  /** The number of its first piece among those of the whole path. */
  first: number
}

/** Where pieces are on a path. The copies are all the pieces, and then those at corners. */
export type PathLayout = {
  curve: PathCurve
  /** One for the whole path, or one for each straight stretch of a path that has copies at its corners. */
  runs: PathRun[]
  pieces: number
  /** The points at which corner copies stand, by their number. */
  corners: number[]
}

const layouts = new WeakMap<PathRule, PathLayout>()

/** The layout of a path, worked out once for each rule. */
export function layoutOf(rule: PathRule): PathLayout {
  let found = layouts.get(rule)
  if (!found) layouts.set(rule, found = layOut(rule))
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
export function pathCount(rule: PathRule): number {
  const { pieces, corners } = layoutOf(rule)
  return pieces + corners.length
}

/** The run that a piece belongs to. */
export function runOf({ runs }: PathLayout, piece: number): PathRun {
  return runs.findLast(run => run.first <= piece)!
}

function layOut(rule: PathRule): PathLayout {
  const curve = new PathCurve(rule)
  if (hasCorners(rule)) return layOutStretches(rule, curve)
  const [ways, stretch] = rule.measure !== 'ends' ? [waysOfCopies(rule, curve), 1] as const
    : rule.bent ? piecesAlong(rule, 0, curve.length) : chords(rule, curve)
  return { curve, runs: [{ ways, stretch, first: 0 }], pieces: rule.measure === 'ends' ? ways.length - 1 : ways.length, corners: [] }
}

/** More than any rule may make; beyond it nobody needs to know how many. */
const TOO_MANY = 1_000_001

/** Whole pieces in a length, with a hair's breadth of slack. */
const mostPieces = (length: number, piece: number) => Math.min(Math.floor(length / piece + 1e-9), TOO_MANY)

const evenly = (count: number, step: number, from = 0) => Float64Array.from({ length: count }, (_, i) => from + step * i)

function waysOfCopies({ measure, closed, count, spacing }: PathRule, curve: PathCurve): Float64Array {
  const { length } = curve
  if (measure === 'points') return Float64Array.from(curve.wayOfPoints())
  if (measure === 'count') return evenly(count, length / Math.max(closed ? count : count - 1, 1))
  if (!closed) return evenly(mostPieces(length, spacing) + 1, spacing)
  const fitting = Math.min(Math.max(1, Math.round(length / spacing)), TOO_MANY)
  return evenly(fitting, length / fitting)
}

/** Pieces that lie along the path itself, as bent ones do and all on straight stretches: their ways, and how much they are stretched. */
function piecesAlong({ spacing, fitted }: PathRule, from: number, to: number): [Float64Array, number] {
  const count = Math.max(1, fitted ? Math.min(Math.round((to - from) / spacing), TOO_MANY) : mostPieces(to - from, spacing))
  const piece = fitted ? (to - from) / count : spacing
  return [evenly(count + 1, piece, from), piece / spacing]
}

/** Chords looked at to find how long the pieces have to be; where sharp corners make the end jump, looking longer finds nothing better. */
const MOST_CHORDS = 4_000_000

/** Straight pieces on a curve are chords: both ends of each on the path. */
function chords({ spacing, fitted }: PathRule, curve: PathCurve): [Float64Array, number] {
  // On a path that goes nowhere no chord would ever end.
  if (curve.length < 1e-9) return [Float64Array.of(0, spacing), 1]
  // A chord is never longer than its way, so that there are at least as many.
  if (mostPieces(curve.length, spacing) >= TOO_MANY) return [new Float64Array(TOO_MANY + 1), 1]
  const ways = [0]
  for (let next = curve.afterChord(0, spacing); next <= curve.length * (1 + 1e-9) && ways.length <= TOO_MANY; next = curve.afterChord(next, spacing)) ways.push(next)
  if (!fitted) return [Float64Array.from(ways.length > 1 ? ways : [0, curve.afterChord(0, spacing)]), 1]
  const rest = curve.at(curve.length).distanceTo(curve.at(ways.at(-1)!)) / spacing
  const count = Math.max(1, ways.length - 1 + Math.round(rest))
  const walked = new Float64Array(count + 1)
  const beyond = (piece: number) => {
    for (let i = 0; i < count; i++) walked[i + 1] = walked[i]! > curve.length ? walked[i]! + piece : curve.afterChord(walked[i]!, piece)
    return walked[count]! - curve.length
  }
  const piece = rootBetween(beyond, spacing / 4, spacing * 2, Math.max(curve.length * 1e-12, curve.rounding * count), Math.max(MOST_CHORDS / count, 6))
  beyond(piece)
  return [walked, piece / spacing]
}

function layOutStretches(rule: PathRule, curve: PathCurve): PathLayout {
  const ways = curve.wayOfPoints()
  const last = ways.length - 1
  const ends = rule.closed && last > 1 ? [...ways, curve.length] : ways
  const corners = ways.flatMap((_, point) => ends !== ways || point > 0 && point < last || rule.corners!.ends ? [point] : [])
  const roomAt = (point: number, direction: Vector3) => corners.includes(point)
    ? rule.corners!.room + mitreAt(rule, curve, point).tan * rule.offset / Math.max(Math.hypot(direction.x, direction.z), 0.1)
    : 0
  const runs: PathRun[] = []
  let pieces = 0
  for (let i = 0; i + 1 < ends.length; i++) {
    const direction = curve.directionAt((ends[i]! + ends[i + 1]!) / 2)
    const [from, to] = [ends[i]! + roomAt(i, direction), ends[i + 1]! - roomAt((i + 1) % ways.length, direction)]
    const [found, stretch] = to - from > 1e-6 ? piecesAlong(rule, from, to) : [Float64Array.of(from), 1] as const
    runs.push({ ways: found, stretch, first: pieces })
    pieces += found.length - 1
  }
  return { curve, runs, pieces, corners }
}

/** A corner beyond this many times its side's length is cut off. */
const LONGEST_MITRE = 10

/** The direction half-way round a corner, and what a mitre there does to the distance to the side and to the way. */
export type Mitre = { direction: Vector3, /** Times the distance to the side. */ wide: number, /** Of half the turn; positive to the right. */ tan: number }

/** @param point by its number; at an end of the path the direction is the path's own */
export function mitreAt({ smooth, closed, stand }: PathRule, curve: PathCurve, point: number): Mitre {
  const ways = curve.wayOfPoints()
  const way = ways[point]!
  const round = closed && ways.length > 2
  const out = curve.directionAt(way)
  if (smooth && ways.length > 2 || !round && (point === 0 || point === ways.length - 1)) return { direction: out, wide: 1, tan: 0 }
  const before = point > 0 ? ways[point - 1]! : ways.at(-1)!
  const into = curve.directionAt(point > 0 ? (before + way) / 2 : (before + curve.length) / 2)
  const half = stand === 'kept' ? 0 : Math.atan2(into.z * -out.x + into.x * out.z, into.x * out.x + into.z * out.z) / 2
  const tan = Math.min(Math.max(Math.tan(half), -LONGEST_MITRE), LONGEST_MITRE)
  return { direction: out.add(into).normalize(), wide: Math.min(1 / Math.cos(half), LONGEST_MITRE), tan }
}
