import fc from 'fast-check'
import type { z } from 'zod'

// Values made from a Zod schema, so that whatever a route comes to take is tried without anybody thinking of it.

/**
 * What stands in for a schema that a walk over its parts cannot hit by itself, such as ids of things that are there.
 */
export type Known = ReadonlyMap<z.ZodType, fc.Arbitrary<unknown>>

/** Values that mostly fit a schema; refinements across fields may still refuse some. */
export function fitting(schema: z.ZodType, known: Known): fc.Arbitrary<unknown> {
  const own = known.get(schema)
  if (own) return own
  const inner = (each: unknown) => fitting(each as z.ZodType, known)
  const def = schema.def as unknown as Record<string, unknown> & { type: string }
  const bag = schema._zod.bag as {
    minimum?: number
    maximum?: number
    format?: string
    patterns?: Set<RegExp>
    minLength?: number
    maxLength?: number
  }
  switch (def.type) {
    case 'string':
      return textLike(bag)
    case 'number':
      return numberLike(bag)
    case 'unknown':
      return fc.jsonValue()
    case 'boolean':
      return fc.boolean()
    case 'literal':
      return fc.constantFrom(...(def.values as unknown[]))
    case 'enum':
      return fc.constantFrom(...Object.values(def.entries as Record<string, unknown>))
    case 'optional':
    case 'undefined':
      return def.innerType ? fc.option(inner(def.innerType), { nil: undefined }) : fc.constant(undefined)
    case 'nullable':
      return fc.option(inner(def.innerType), { nil: null })
    case 'default':
      return inner(def.innerType)
    // What comes before a schema makes its values of others; what comes after it, others of its values.
    case 'pipe':
      return inner((def.in as z.ZodType).def.type === 'transform' ? def.out : def.in)
    case 'array':
      return fc.array(inner(def.element), {
        minLength: lengthOf(schema).least,
        maxLength: Math.min(lengthOf(schema).most, lengthOf(schema).least + 2),
      })
    case 'tuple':
      return fc.tuple(...(def.items as unknown[]).map(inner))
    case 'union':
      return fc.oneof(...(def.options as unknown[]).map(inner))
    case 'record':
      return fc.dictionary(inner(def.keyType) as fc.Arbitrary<string>, inner(def.valueType), { maxKeys: 4 })
    case 'object': {
      const shape = Object.entries(def.shape as Record<string, z.ZodType>)
      return fc
        .record(Object.fromEntries(shape.map(([key, value]) => [key, inner(value)])))
        .map(value => JSON.parse(JSON.stringify(value)) as unknown)
    }
    default:
      throw new Error(`there are no values for a schema of type ${def.type} yet`)
  }
}

function lengthOf(schema: z.ZodType): { least: number; most: number } {
  const { minimum = 0, maximum = Infinity } = schema._zod.bag as { minimum?: number; maximum?: number }
  return { least: minimum, most: maximum }
}

function textLike({
  format,
  patterns,
  maximum,
}: {
  format?: string
  patterns?: Set<RegExp>
  maximum?: number
}): fc.Arbitrary<string> {
  const [pattern] = patterns ?? []
  if (format === 'uuid') return fc.uuid()
  if (pattern) return fc.stringMatching(pattern)
  return fc.oneof(
    fc.constantFrom('Lantern', 'Quay 4', 'Ж', '灯', 'a, b', '0.3 * row'),
    fc.string({ minLength: 1, maxLength: Math.min(maximum ?? 20, 20) }),
  )
}

function numberLike({
  minimum = -1e9,
  maximum = 1e9,
  format,
}: {
  minimum?: number
  maximum?: number
  format?: string
}): fc.Arbitrary<number> {
  const [least, most] = [Math.max(minimum, -1e9), Math.min(maximum, 1e9)]
  // Small numbers mostly: of all that can be a count or a length, nearly everything would be enormous.
  const small = fc.integer({
    min: Math.ceil(Math.max(least, -6)),
    max: Math.floor(Math.min(most, Math.max(least, -6) + 12)),
  })
  if (format?.includes('int'))
    return fc.oneof(
      { arbitrary: small, weight: 8 },
      { arbitrary: fc.integer({ min: Math.ceil(least), max: Math.floor(most) }), weight: 1 },
    )
  return fc.oneof(
    { arbitrary: small, weight: 4 },
    { arbitrary: fc.double({ min: Math.max(least, -20), max: Math.min(most, 20), noNaN: true }), weight: 4 },
    { arbitrary: fc.constantFrom(least, most), weight: 1 },
  )
}

/** What nobody sends who means well. */
const HOSTILE: readonly unknown[] = [
  null,
  true,
  0,
  -0,
  -1,
  0.5,
  1e308,
  -1e308,
  5e-324,
  2 ** 31,
  2 ** 53,
  '',
  ' ',
  'x'.repeat(100_000),
  '\u0000',
  'a\u0000b',
  '\ud83c',
  '\udfee\ud83c',
  '<script>alert(1)</script>',
  "'; drop table levels; --",
  '../../../etc/passwd',
  '${7*7}',
  '00000000-0000-0000-0000-000000000000',
  [],
  {},
  [[[[[[]]]]]],
  [null],
  { a: 1 },
  Array.from({ length: 1000 }, () => 0),
  'NaN',
  'constructor',
  '__proto__',
]

/** A value with one place in it spoilt: something else there, gone, twice, or something more. */
export function spoilt(value: fc.Arbitrary<unknown>): fc.Arbitrary<unknown> {
  return fc
    .tuple(value, fc.nat(), fc.constantFrom(...HOSTILE), fc.constantFrom('replace', 'remove', 'add', 'repeat'))
    .map(([whole, at, hostile, how]) => {
      const copy = structuredClone(whole)
      const places = placesIn(copy)
      if (places.length === 0) return hostile
      const { parent, key } = places[at % places.length]!
      if (how === 'add')
        Object.defineProperty(parent, Array.isArray(parent) ? parent.length : 'unknown', {
          value: hostile,
          enumerable: true,
          writable: true,
          configurable: true,
        })
      else if (how === 'remove' && !Array.isArray(parent)) delete (parent as Record<string, unknown>)[key]
      else if (how === 'repeat' && Array.isArray(parent)) parent.push(structuredClone(parent[Number(key)]))
      else (parent as Record<string, unknown>)[key] = hostile
      return copy
    })
}

function placesIn(value: unknown): { parent: object; key: string }[] {
  if (typeof value !== 'object' || value === null) return []
  return Object.entries(value).flatMap(([key, inner]) => [{ parent: value, key }, ...placesIn(inner)])
}
