import type { Vector3 } from 'three'
import { moveTops } from '../edit/handles/move'
import type { Measure, Operation } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import { placeOfEnd } from './definition'

/** Why a tape cannot be set, in words for who typed. */
export class SetTapeError extends Error {
  override name = 'SetTapeError'
}

/**
 * The operations after which a leg of a tape is as long as is asked: the thing at the leg's last end moves along the leg, or along
 * a locked direction, by as little as will do. An end in space moves by itself.
 *
 * @param wanted in metres
 * @param along of unit length, in the world; null for the leg's own direction
 * @throws SetTapeError if it cannot become so long, or moving the thing would move both ends
 */
export function setTape(level: LevelView, tape: Measure, leg: number, wanted: number, along: Vector3 | null = null): Operation[] {
  const [first, last] = [tape.ends[leg], tape.ends[leg + 1]]
  if (!first || !last) throw new SetTapeError('The tape has no such leg.')
  if (!(wanted > 0)) throw new SetTapeError('A length has to be more than 0.')
  const where = { level, matrixOf: (id: string) => level.worldMatrix(id) }
  const way = placeOfEnd(last, where).at.sub(placeOfEnd(first, where).at)
  const direction = along ?? way.clone().normalize()
  if (!along && way.length() < 1e-9) throw new SetTapeError('Both ends are at the same place; lock an axis to say which way.')
  const move = direction.clone().multiplyScalar(stepTo(way, direction, wanted))
  const thing = last.on !== null && level.has(last.on) ? last.on : null
  if (thing === null) return [{ do: 'put-measure', id: tape.id, fields: { ends: tape.ends.map((end, i) => i === leg + 1 ? inSpace(placeOfEnd(last, where).at.add(move).toArray()) : end) } }]
  if (first.on !== null && level.has(first.on) && goesAlong(level, first.on, thing)) throw new SetTapeError('Both ends are on what would move. Put the other end on something else.')
  if (level.isLocked(thing)) throw new SetTapeError(`${level.need(thing).name} is locked.`)
  return moveTops(level, [thing], move)
}

const inSpace = (at: Vec3) => ({ at, on: null, point: at })

const goesAlong = (level: LevelView, id: string, mover: string) => level.isWithin(id, mover) || copyOf(id) !== null && level.isWithin(copyOf(id)!.arrangementId, mover)

/** How far to go in a direction for the whole way to be so long: the root nearest to 0 of |way + t·direction| = wanted. */
function stepTo(way: Vector3, direction: Vector3, wanted: number): number {
  const across = way.dot(direction)
  const rest = across * across - way.lengthSq() + wanted * wanted
  if (rest < -1e-12) throw new SetTapeError('Along that axis the tape cannot become so short.')
  const root = Math.sqrt(Math.max(0, rest))
  const [one, other] = [-across + root, -across - root]
  return Math.abs(one) <= Math.abs(other) ? one : other
}
