import type { BufferGeometry } from 'three'
import { BufferAttribute, Matrix4 } from 'three'
import { TeapotGeometry } from 'three/addons/geometries/TeapotGeometry.js'
import { RULES } from '../core/arrange/rules'
import type { AddedCopies, Dealt } from '../core/arrange/scatter/deal'
import { Dealer, dealNow } from '../core/arrange/scatter/deal'
import type { Ingredient, ScatterRule } from '../core/arrange/scatter/rule'
import { FIRST_INGREDIENT } from '../core/arrange/scatter/rule'
import type { ScatterSite, Skin } from '../core/arrange/scatter/site'
import { testId } from './support'

// Scatters over made-up surfaces, for tests of several kinds.

export const IDENTITY = new Matrix4().toArray()

/** A flat square of a metre, its first corner at the origin, looking up. */
export const SQUARE: Skin = [{ positions: [0, 0, 0, 0, 0, 1, 1, 0, 0, 1, 0, 1], indices: [0, 1, 2, 3, 2, 1] }]

export function skinOf(geometry: BufferGeometry): Skin {
  const indexed = geometry.getIndex()
    ? geometry
    : geometry.clone().setIndex(
        new BufferAttribute(
          Uint32Array.from({ length: geometry.getAttribute('position').count }, (_, i) => i),
          1,
        ),
      )
  return [
    {
      positions: Float64Array.from(indexed.getAttribute('position').array),
      indices: Uint32Array.from(indexed.getIndex()!.array),
    },
  ]
}

export const teapot = () => skinOf(new TeapotGeometry(1, 6))

export const ingredient = (number: number, fields: Partial<Ingredient> = {}): Ingredient => ({
  ...FIRST_INGREDIENT,
  source: testId(100 + number),
  stream: number,
  ...fields,
})

export function scatterRule(fields: Partial<ScatterRule> = {}): ScatterRule {
  return {
    ...RULES.scatter.first,
    keepRoom: false,
    on: [{ id: testId(1), stream: 1 }],
    mix: [ingredient(1)],
    ...fields,
  }
}

/** A site with one surface, placed by a matrix, and a source for each of the rule's mix. */
export function siteFor(
  rule: ScatterRule,
  matrix: ArrayLike<number> = new Matrix4().makeScale(20, 1, 20).toArray(),
  fields: Partial<ScatterSite> = {},
): ScatterSite {
  return {
    toWorld: IDENTITY,
    surfaces: [{ stream: 1, below: 0, owner: '', shape: 'surface', matrix: Array.from(matrix) }],
    things: rule.limits.map(() => []),
    sources: rule.mix.map(({ source }) => ({ id: source, reach: 0.25 })),
    ...fields,
  }
}

export function deal(
  rule: ScatterRule,
  site: ScatterSite = siteFor(rule),
  skins: Record<string, Skin> = { surface: SQUARE },
  added: AddedCopies = {},
): Dealt {
  return dealNow(new Dealer(shape => skins[shape]).deal('a', rule, site, added))
}

export const keysOf = ({ count, keys }: Dealt) =>
  Array.from({ length: count }, (_, i) => keys.slice(i * 3, i * 3 + 3).join(','))
export const placesOf = ({ count, matrices }: Dealt) =>
  Array.from(
    { length: count },
    (_, i) => [matrices[i * 16 + 12]!, matrices[i * 16 + 13]!, matrices[i * 16 + 14]!] as [number, number, number],
  )

/** Where each copy stands, by its key. */
export function byKey(dealt: Dealt): Map<string, [number, number, number]> {
  const places = placesOf(dealt)
  return new Map(keysOf(dealt).map((key, i) => [key, places[i]!]))
}

/** Keys of those that do not stand, to the last bit, where another has them. */
export function movedFrom(
  some: Iterable<[string, readonly number[]]>,
  whole: ReadonlyMap<string, readonly number[]>,
): string[] {
  return [...some]
    .filter(([key, place]) => !place.every((value, i) => Object.is(value, whole.get(key)?.[i])))
    .map(([key]) => key)
}
