import isEqual from 'fast-deep-equal'
import { Quaternion, Vector3 } from 'three'
import type { Level } from '../level/level'
import type { Difference } from './differences'
import { recordAt } from './differences'

/** What differs, as people tell changes apart. */
export const EFFECTS = ['added', 'gone', 'moved', 'turned', 'sized', 'hung elsewhere', 'rule', 'changed'] as const
export type Effect = (typeof EFFECTS)[number]

/**
 * Which side was before: of a milestone there, and what is here has become of it; of what could be taken over here, and
 * what is there would become of it.
 */
export type Reading = 'since' | 'towards'

const OF_FIELD: Readonly<Record<string, Effect>> = {
  translation: 'moved',
  rotation: 'turned',
  scale: 'sized',
  parentId: 'hung elsewhere',
  order: 'hung elsewhere',
}

/** All that differs of a record, in the order of `EFFECTS`. */
export function effectsOf(here: Level, { record, id, is, fields }: Difference, reading: Reading): Effect[] {
  if (is !== 'on both') return [(is === 'only here') === (reading === 'since') ? 'added' : 'gone']
  const isRule = record === null && here.get(id)?.kind === 'arrangement'
  const found = new Set(
    fields.map((field): Effect => {
      if (record !== null) return 'changed'
      return OF_FIELD[field] ?? (field === 'own' && isRule ? 'rule' : 'changed')
    }),
  )
  return EFFECTS.filter(effect => found.has(effect))
}

/** How far something is moved and turned from one side to the other; in its parent's axes. */
export type Way = {
  /** Metres. */
  moved: number
  /** Degrees, up to 180. */
  turned: number
}

/** Null unless it is a thing on both sides. */
export function wayBetween(here: Level, there: Level, id: string): Way | null {
  const [a, b] = [here.get(id), there.get(id)]
  if (!a || !b) return null
  const turn = new Quaternion(...a.rotation).angleTo(new Quaternion(...b.rotation))
  return {
    moved: new Vector3(...a.translation).distanceTo(new Vector3(...b.translation)),
    turned: (turn * 180) / Math.PI,
  }
}

/** One value that differs, with the names that lead to it in its record. */
export type ValueApart = { path: readonly string[]; here: unknown; there: unknown }

/** Values in a list beyond which it is told as a whole. */
const LONG = 16

/** The single values in which a record differs: of a rule its numbers, one by one. */
export function valuesApart(here: Level, there: Level, difference: Difference): ValueApart[] {
  const [mine, theirs] = [here, there].map(side => recordAt(side, difference.record, difference.id))
  return difference.fields.flatMap(field => apart(mine?.[field], theirs?.[field], [field]))
}

function apart(here: unknown, there: unknown, path: readonly string[]): ValueApart[] {
  const found: ValueApart[] = []
  const waiting: ValueApart[] = [{ path, here, there }]
  for (let at = waiting.pop(); at; at = waiting.pop()) {
    const within = partsOf(at)
    if (within) waiting.push(...within.reverse())
    else if (!isEqual(at.here, at.there)) found.push(at)
  }
  return found
}

/** What two values are made of, part by part; null where they are told as a whole. */
function partsOf({ path, here, there }: ValueApart): ValueApart[] | null {
  if (isRecord(here) && isRecord(there))
    return [...new Set([...Object.keys(here), ...Object.keys(there)])].map(key => ({
      path: [...path, key],
      here: here[key],
      there: there[key],
    }))
  if (!Array.isArray(here) || !Array.isArray(there) || here.length !== there.length || here.length > LONG) return null
  const isOne = here.length <= 4 && [here, there].every(list => list.every(each => typeof each === 'number'))
  return isOne ? null : here.map((each, i) => ({ path: [...path, String(i + 1)], here: each, there: there[i] }))
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
