import type { Vector3 } from 'three'
import { moveTops } from '../edit/handles/move'
import { topmost } from '../level/tree'
import type { Operation } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import type { LevelView } from '../scene/level-view'

/** Why a length cannot be set, in words for who typed. */
export class SetLengthError extends Error {
  override name = 'SetLengthError'
}

/** Which way what moves goes: along a line of the world, of unit length; level; or along the measure's own line. */
export type Along = Vector3 | 'level' | 'line'

/** A length that one of a measure's numbers is to have. */
export type Wanted = {
  /** By its place among the numbers that are drawn. */
  number: number
  metres: number
  /** Null for what is usual: level, where its ends are nearly so and it can be done, and else along the line. */
  along: Along | null
  /** Of two things, whether the first is moved and not the last. */
  first?: boolean
}

/** What sets a length: the operations, and what they do, in words. */
export type LengthSet = { operations: Operation[]; says: string }

/** Ends that differ by no more than this share of their way in plan are nearly level (about 14 degrees, our choice). */
const NEARLY = 0.25

/** Whether a way is nearly level. */
export const isNearlyLevel = (way: Vector3) => Math.abs(way.y) <= NEARLY * Math.hypot(way.x, way.z)

/** Whether it goes along a slanted line only nearly level: then it matters which way is gone. */
export const isSlanted = (way: Vector3) => isNearlyLevel(way) && Math.abs(way.y) > 1e-6

/**
 * The move of a way's end after which the way is so long: by as little as will do.
 *
 * @param way from the end that stays to the one that moves
 * @throws SetLengthError if it cannot become so long in that direction
 */
export function stepAlong(way: Vector3, metres: number, along: Along | null): { move: Vector3; along: Along } {
  if (along === null) {
    if (isNearlyLevel(way) && metres >= Math.abs(way.y)) return stepAlong(way, metres, 'level')
    return stepAlong(way, metres, 'line')
  }
  if (typeof along === 'string' && way.length() < 1e-9)
    throw new SetLengthError('Both ends are at the same place; lock an axis to say which way.')
  const direction = directionOf(way, along)
  return { move: direction.multiplyScalar(rootOf(way, direction, metres)), along }
}

/** @returns of unit length */
export function directionOf(way: Vector3, along: Along): Vector3 {
  if (along === 'line') return way.clone().normalize()
  if (along !== 'level') return along.clone()
  if (Math.hypot(way.x, way.z) < 1e-9)
    throw new SetLengthError('Its ends are straight above each other: level it cannot be set.')
  return way.clone().setY(0).normalize()
}

/**
 * How far to go in a direction for the whole way to be so long: the root nearest to 0 of |way + t direction| = metres.
 */
function rootOf(way: Vector3, direction: Vector3, metres: number): number {
  const across = way.dot(direction)
  const rest = across * across - way.lengthSq() + metres * metres
  if (rest < -1e-12) throw new SetLengthError('In that direction it cannot become so short.')
  const root = Math.sqrt(Math.max(0, rest))
  const [one, other] = [-across + root, -across - root]
  return Math.abs(one) <= Math.abs(other) ? one : other
}

/** Moves things, if they may be moved. */
export function moveThings(level: LevelView, ids: readonly string[], move: Vector3): Operation[] {
  const tops = topmost(level, new Set(ids))
  const locked = tops.find(id => level.isLocked(id))
  if (locked !== undefined) throw new SetLengthError(`${level.need(locked).name} is locked.`)
  return moveTops(level, tops, move)
}

/** What things do, in words. @param names of what moves */
export function saysMove(names: readonly string[], along: Along, up = false): string {
  const who = names.length === 1 ? names[0]! : `${names.length} things`
  const how = up
    ? 'straight up or down'
    : along === 'level'
      ? 'level'
      : along === 'line'
        ? 'along the line'
        : 'along the locked axis'
  return `${who} ${names.length === 1 ? 'moves' : 'move'} ${how}`
}

/** A place that hangs from nothing. */
export const inSpace = (at: Vec3) => ({ at, on: null, point: at })
