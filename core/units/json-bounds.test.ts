import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { jsonProblem, jsonSize } from './json-bounds'

const BOUNDS = { deepest: 10, most: 1000 }

describe('a JSON value', () => {
  it('is as it should be, whatever it is, within its bounds', () => {
    fc.assert(
      fc.property(
        fc.jsonValue({ maxDepth: 8 }),
        value => void expect(jsonProblem(value, { deepest: 20, most: 1e6 })).toBeNull(),
      ),
    )
  })

  it('is refused with the place in it', () => {
    for (const [value, says] of [
      [{ a: [1, { 'b/c': '\u0000' }] }, '/a/1/b~1c is a text'],
      [{ a: ['\ud800'] }, '/a/0 is a text'],
      [JSON.parse('{"a":{"b":1e999}}'), '/a/b is a number that is too large'],
      [{ a: { '\u0000': 1 } }, '/a/\u0000 has a name'],
      [{ ['x'.repeat(2000)]: 1 }, 'has a name that is too long'],
      [Array.from({ length: 1001 }, () => 1), 'more than 1,000 values'],
      ['\udc00', 'it is a text'],
    ] as const)
      expect(jsonProblem(value, BOUNDS)).toContain(says)
  })

  it('may be nested only so deep, and a deep one takes no stack', () => {
    const nested = (depth: number) => JSON.parse('[{"a":'.repeat(depth / 2) + '0' + '}]'.repeat(depth / 2)) as unknown
    expect(jsonProblem(nested(10), BOUNDS)).toBeNull()
    expect(jsonProblem(nested(12), BOUNDS)).toContain('nested more than 10 deep')
    let deep: unknown = 0
    for (let i = 0; i < 1_000_000; i++) deep = [deep]
    expect(jsonProblem(deep, BOUNDS)).toContain('nested')
    expect(jsonProblem(deep, { deepest: 2_000_000, most: 2_000_000 })).toBeNull()
    expect(jsonSize(deep, 10_000_000)).toBe(2_000_006)
  })

  it('has about the size of its text, counted no farther than asked for', () => {
    fc.assert(
      fc.property(fc.jsonValue(), value => {
        const text = JSON.stringify(value).length
        expect(jsonSize(value, 1e9)).toBeLessThan(text * 6 + 20)
        expect(jsonSize(value, 1e9)).toBeGreaterThan(text / 7 - 20)
      }),
    )
    expect(
      jsonSize(
        Array.from({ length: 1_000_000 }, () => 'x'),
        100,
      ),
    ).toBeLessThan(110)
  })
})
