import type { Json } from '../units/json-bounds'
import { parseExpression } from '../units/expression'
import type { Recipe, Sum } from '../level/recipe'

/** Why a step cannot be done, in words. */
export class NotPossible extends Error {}

/** What inputs stand for, by their names. */
export type InputValues = Readonly<Record<string, number>>

/** What works sums out over some inputs, each once, however many things it is asked for. */
export function workingOut(values: InputValues): (sum: Sum) => number {
  const known = new Map<string, number>()
  return sum => {
    if (typeof sum === 'number') return sum
    const value = known.get(sum) ?? workOut(sum, values)
    known.set(sum, value)
    return value
  }
}

/** What a sum over inputs gives. @throws NotPossible if that is no number */
function workOut(sum: string, values: InputValues): number {
  const read = parseExpression(sum, Object.keys(values))
  if (!read.ok) throw new NotPossible(`The sum “${sum}” ${read.error}.`)
  const value = read.run(values)
  if (!Number.isFinite(value)) throw new NotPossible(`The sum “${sum}” gives no number.`)
  return value
}

/** How a sum stands within values. */
const isSum = (value: unknown): value is { '=': string } =>
  typeof value === 'object'
  && value !== null
  && Object.keys(value).length === 1
  && typeof (value as { '='?: unknown })['='] === 'string'

const REFERENCE = /^@(each|[1-9]\d{0,2}|new[1-9]\d{0,3})$/

/**
 * Values with their sums worked out, and with ids in the place of whom they name. As deep as `valuesSchema` lets them
 * be.
 *
 * @param idOf the id of whoever is named
 * @throws NotPossible if a sum gives no number, or nobody is named so
 */
export function fillIn<T extends Json>(values: T, work: (sum: Sum) => number, idOf: (who: string) => string): T {
  return JSON.parse(JSON.stringify(values), (_key, value: unknown) => {
    if (isSum(value)) return work(value['='])
    const who = typeof value === 'string' ? REFERENCE.exec(value)?.[1] : undefined
    return who === undefined ? value : idOf(who)
  }) as T
}

/** Values with names in the place of ids that have one: what `fillIn` takes back. */
export const nameIn = <T>(values: T, whoOf: (id: string) => string | undefined): T =>
  JSON.parse(JSON.stringify(values), (_key, value: unknown) => {
    const who = typeof value === 'string' ? whoOf(value) : undefined
    return who === undefined ? value : `@${who}`
  }) as T

/** All expressions of a recipe, for looking at them before it is kept. */
export function sumsOf(recipe: Recipe): string[] {
  const found: string[] = []
  JSON.stringify(recipe.steps, (key, value: unknown) => {
    if (key === '=' && typeof value === 'string') found.push(value)
    if (key === 'by') found.push(...[value].flat().filter(each => typeof each === 'string'))
    return value
  })
  return found
}
