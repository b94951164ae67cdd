import { Quaternion } from 'three'
import type { Finder } from '../scene/finder'
import type { Offer } from './definition'
import { givenOf } from './definition'
import { holdersOf } from './graph'
import { definitionOf } from './kinds'
import type { Standing } from './standing'

/** How far a relation is from holding: metres of the place, degrees of the turn, a share of the size. */
export type Miss = { metres: number; degrees: number; share: number }

/**
 * How far a relation is from holding as things stand; null if it cannot be, as when nothing is below or what holds it
 * is not there.
 */
export function missOf(standing: Standing, finder: Finder, relation: Offer): Miss | null {
  if (![relation.held, ...holdersOf(relation)].every(id => standing.has(id))) return null
  const given = givenOf(standing, finder, relation)
  const { takes, place, turn, size } = definitionOf(relation.rule)
  const freedoms = takes(relation.rule)
  const asked = place ? place(given) : []
  const wanted = turn && freedoms.includes('turn') ? turn(given) : undefined
  const factors = size && freedoms.includes('size') ? size(given) : undefined
  if (!asked || wanted === null || factors === null) return null
  return {
    metres: Math.max(0, ...asked.map(({ by }) => Math.abs(by))),
    degrees: wanted
      ? (new Quaternion(...wanted).angleTo(new Quaternion(...standing.placement(relation.held).rotation)) * 180)
        / Math.PI
      : 0,
    share: factors ? Math.max(...factors.toArray().map(each => Math.abs(each - 1))) : 0,
  }
}

/** Off by less than this, in metres, degrees or a share, something stands as it is kept. */
const HOLDS = 1e-6

/** Whether a relation holds as things stand. */
export function holds(standing: Standing, finder: Finder, relation: Offer): boolean {
  const miss = missOf(standing, finder, relation)
  return miss !== null && Math.max(miss.metres, miss.degrees, miss.share) <= HOLDS
}
