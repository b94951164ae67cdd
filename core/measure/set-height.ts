import { Vector3 } from 'three'
import type { Measure } from '../level/schema'
import type { Where } from './definition'
import { placeOfEnd } from './definition'
import type { LengthSet, Wanted } from './set-length'
import { inSpace, moveThings, saysMove, SetLengthError } from './set-length'

/**
 * What brings a point so high above what is below it: its thing is raised or lowered, or the point where it is on
 * nothing.
 */
export function setHeight({ id, ends: [end] }: Measure, where: Where, { metres }: Wanted): LengthSet {
  if (!(metres >= 0)) throw new SetLengthError('A height cannot be less than 0.')
  const { at } = placeOfEnd(end!, where)
  const on = end!.on !== null && where.level.has(end!.on) ? end!.on : null
  const below = where.below(at, on)
  if (!below) throw new SetLengthError('Nothing is below this point.')
  const move = new Vector3(0, metres - (at.y - below.point.y), 0)
  if (on === null)
    return {
      operations: [{ do: 'put-measure', id, fields: { ends: [inSpace(at.clone().add(move).toArray())] } }],
      says: saysMove(['the point'], 'line', true),
    }
  return { operations: moveThings(where.level, [on], move), says: saysMove([where.level.need(on).name], 'line', true) }
}
