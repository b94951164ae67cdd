import type { Level } from '../level/level'
import type { Relation } from '../level/schema'
import type { WrittenAxes } from '../units/height'
import { AXES_WRITTEN } from '../units/height'
import { printLengths } from '../units/quantity'
import { thingOf } from './standing'
import type { ChangedRelation } from './changed'
import type { Unmet } from './keep'
import { definitionOf } from './kinds'

/** How lengths and axes are written for whoever reads it. */
export type SaidIn = { length: (metres: number) => string; axes: WrittenAxes }
const IN_METRES: SaidIn = { length: metres => printLengths([metres], 'm', 3), axes: AXES_WRITTEN.y }

/** What a thing is called; of one that is not there, that. */
const nameIn = (level: Pick<Level, 'get'>, id: string | null) =>
  id === null ? 'a point' : (level.get(id)?.name ?? level.get(thingOf(id))?.name ?? 'something that is gone')

/** How a relation is said of its thing: "on Quay slab 2". */
export function sayRelation(
  level: Pick<Level, 'get'>,
  { rule, holders }: Pick<Relation, 'rule' | 'holders'>,
  { length, axes }: SaidIn = IN_METRES,
): string {
  return definitionOf(rule).says(
    rule,
    holders.map(({ on }) => nameIn(level, on)),
    length,
    axes,
  )
}

/** What becomes of a relation: "now 0.620 m from Bench 1", "lets go: facing Stage". */
export const sayChanged = (level: Pick<Level, 'get'>, { before, after }: ChangedRelation, within?: SaidIn): string =>
  after ? `now ${sayRelation(level, after, within)}` : `lets go: ${sayRelation(level, before, within)}`

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
