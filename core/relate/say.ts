import type { Level } from '../level/level'
import type { Relation } from '../level/schema'
import { printLengths } from '../units/quantity'
import { thingOf } from './standing'
import type { ChangedRelation } from './changed'
import type { Unmet } from './keep'
import { definitionOf } from './kinds'

/** What a thing is called; of one that is not there, that. */
const nameIn = (level: Pick<Level, 'get'>, id: string | null) =>
  id === null ? 'a point' : (level.get(id)?.name ?? level.get(thingOf(id))?.name ?? 'something that is gone')

/** How a relation is said of its thing: "on Quay slab 2". */
export function sayRelation(
  level: Pick<Level, 'get'>,
  { rule, holders }: Pick<Relation, 'rule' | 'holders'>,
  length: (metres: number) => string = metres => printLengths([metres], 'm', 3),
): string {
  return definitionOf(rule).says(
    rule,
    holders.map(({ on }) => nameIn(level, on)),
    length,
  )
}

/** What becomes of a relation: "now 0.620 m from Bench 1", "lets go: facing Stage". */
export const sayChanged = (
  level: Pick<Level, 'get'>,
  { before, after }: ChangedRelation,
  length?: (metres: number) => string,
): string => (after ? `now ${sayRelation(level, after, length)}` : `lets go: ${sayRelation(level, before, length)}`)

const WHY: Record<Unmet['why'], string> = {
  'circle': 'they wait for each other',
  'nothing there': 'nothing is there for it',
  'out of reach': 'it cannot be reached',
}

/** The same with its thing: "Crate 3 on Quay slab 2". */
export const sayOf = (level: Pick<Level, 'get'>, relation: Relation): string =>
  `${nameIn(level, relation.held)} ${sayRelation(level, relation)}`

/** The same of one that could not be kept, and why. */
export const sayUnmet = (level: Pick<Level, 'get'>, { relation, why }: Unmet): string =>
  `${nameIn(level, relation.held)}: ${sayRelation(level, relation)}; ${WHY[why]}.`
