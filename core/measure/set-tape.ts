import type { Measure } from '../level/schema'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import type { Where } from './definition'
import { placeOfEnd } from './definition'
import type { LengthSet, Wanted } from './set-length'
import { inSpace, moveThings, saysMove, SetLengthError, stepAlong } from './set-length'

/**
 * What makes a leg of a tape as long as is asked: the thing at the leg's last end moves, by as little as will do. An
 * end in space moves by itself.
 *
 * @throws SetLengthError if it cannot become so long, or moving the thing would move both ends
 */
export function setTape(
  tape: Measure,
  { level, matrixOf }: Pick<Where, 'level' | 'matrixOf'>,
  { number: leg, metres, along: wanted }: Wanted,
): LengthSet {
  const [first, last] = [tape.ends[leg], tape.ends[leg + 1]]
  if (!first || !last) throw new SetLengthError('The tape has no such leg.')
  if (!(metres > 0)) throw new SetLengthError('A length has to be more than 0.')
  const where = { level, matrixOf }
  const way = placeOfEnd(last, where).at.sub(placeOfEnd(first, where).at)
  const { move, along } = stepAlong(way, metres, wanted)
  const thing = last.on !== null && level.has(last.on) ? last.on : null
  if (thing === null) {
    const ends = tape.ends.map((end, i) =>
      i === leg + 1 ? inSpace(placeOfEnd(last, where).at.add(move).toArray()) : end,
    )
    return {
      operations: [{ do: 'put-measure', id: tape.id, fields: { ends } }],
      says: saysMove(['its last end'], along),
    }
  }
  if (first.on !== null && level.has(first.on) && goesAlong(level, first.on, thing))
    throw new SetLengthError('Both ends are on what would move. Put the other end on something else.')
  return { operations: moveThings(level, [thing], move), says: saysMove([level.need(thing).name], along) }
}

const goesAlong = (level: LevelView, id: string, mover: string) =>
  level.isWithin(id, mover) || (copyOf(id) !== null && level.isWithin(copyOf(id)!.arrangementId, mover))
