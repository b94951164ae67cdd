import { Parser } from 'expr-eval-fork'
import fc from 'fast-check'
import { evaluate } from 'mathjs'
import { describe, expect, it } from 'vitest'
import { ruleMatrices } from './rules'
import type { Rise } from './rise'
import { riseSchema } from './rise'
import { heightAt } from './rise'
import { parseRise, RISE_NAMES } from './rise-expression'
import { RULES } from './rules'

const [grid] = [RULES.grid.first]
const heights = (rise: Rise, rows = 5, columns = 1) => {
  const out = ruleMatrices({ ...grid, counts: [columns, 1, rows], rise })
  return Array.from({ length: rows * columns }, (_, i) => Math.round(out[i * 16 + 13]! * 1e9) / 1e9)
}
const values = { row: 3, column: 2, layer: 1, index: 17, along: 0.75, across: 0.5, up: 0.2, count: 40, random: 0.3 }

describe('a profile', () => {
  it('goes straight from point to point, or smoothly without leaving them', () => {
    expect(
      heights({
        by: 'profile',
        points: [
          [0, 0],
          [0.5, 1],
          [1, 1.5],
        ],
        smooth: false,
      }),
    ).toEqual([0, 0.5, 1, 1.25, 1.5])
    const place = fc.integer({ min: 1, max: 99 })
    fc.assert(
      fc.property(
        fc.uniqueArray(place, { minLength: 1, maxLength: 6 }),
        fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 8, maxLength: 8 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (between, tall, at) => {
          const places = [0, ...between.sort((a, b) => a - b).map(value => value / 100), 1]
          const points = places.map((x, i): [number, number] => [x, tall[i]!])
          for (const [x, y] of points) expect(heightAt(points, x, true)).toBeCloseTo(y, 9)
          // Monotone between neighbours: never above the higher nor below the lower of them (Fritsch and Carlson 1980).
          const after = Math.max(
            1,
            points.findIndex(([x]) => x >= at),
          )
          const [low, high] = [
            Math.min(points[after - 1]![1], points[after]![1]),
            Math.max(points[after - 1]![1], points[after]![1]),
          ]
          expect(heightAt(points, at, true)).toBeGreaterThanOrEqual(low - 1e-9)
          expect(heightAt(points, at, true)).toBeLessThanOrEqual(high + 1e-9)
        },
      ),
    )
  })
})

describe('an expression', () => {
  it('gives the heights it says, for each copy', () => {
    expect(heights({ by: 'expression', text: '0.3 * row' }, 4)).toEqual([0, 0.3, 0.6, 0.9])
    expect(heights({ by: 'expression', text: 'column % 2 == 0 ? 0 : row' }, 2, 3)).toEqual([0, 0, 0, 0, 1, 0])
    expect(heights({ by: 'expression', text: 'count - index' }, 3)).toEqual([3, 2, 1])
  })

  it('agrees with mathjs on arithmetic', () => {
    for (const text of [
      '0.3 * row + 0.1 * column ^ 2',
      '-(along - across) / up',
      'sin(along * pi) * 2',
      'floor(index / 4) * 0.17',
      'min(row, 2) + max(column, 5) - abs(-layer)',
      'sqrt(row) + pow(2, column)',
      '2 ^ 3 ^ 0.5',
    ]) {
      const parsed = parseRise(text)
      expect(parsed.ok && parsed.heightOf(values), text).toBeCloseTo(evaluate(text, values) as number, 12)
    }
  })

  it('is worked out as the package it is read by works it out', () => {
    const parts = fc.constantFrom(
      'row',
      'column',
      'along',
      '2',
      '0.5',
      '(row + 1)',
      'sin(up)',
      'min(row, 3)',
      '-column',
      'abs(row - 4)',
      '(row > 2 ? 1 : column)',
      '(row == 2 and column > 1 ? 3 : 4)',
      '(row > 1 or column > 1)',
    )
    const operators = fc.constantFrom('+', '-', '*', '/', '^', '%', '>', '==')
    fc.assert(
      fc.property(parts, fc.array(fc.tuple(operators, parts), { maxLength: 6 }), (first, rest) => {
        const text = first + rest.map(([operator, part]) => ` ${operator} ${part}`).join('')
        const parsed = parseRise(text)
        const expected = Number(new Parser().evaluate(text, values))
        if (parsed.ok)
          expect(parsed.heightOf(values), text).toBe(
            Number.isFinite(expected) ? Math.min(Math.max(expected, -100_000), 100_000) : 0,
          )
      }),
      { numRuns: 2000 },
    )
  })

  it('never throws: whatever is typed is read, or refused in words', () => {
    const words = fc.constantFrom(
      ...RISE_NAMES,
      '+',
      '-',
      '*',
      '/',
      '(',
      ')',
      '?',
      ':',
      '0',
      '1.5',
      '^',
      '%',
      'sin',
      'x',
      'constructor',
      '__proto__',
      '.',
      ',',
      '"a"',
      '=',
      'row(',
      '[',
      ';',
    )
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.array(words, { maxLength: 12 }).map(list => list.join(' ')),
        ),
        text => {
          const parsed = parseRise(text)
          if (parsed.ok) expect(Number.isFinite(parsed.heightOf(values))).toBe(true)
          else expect(parsed.error.length).toBeGreaterThan(5)
          expect(() => riseSchema.safeParse({ by: 'expression', text })).not.toThrow()
        },
      ),
      { numRuns: 2000 },
    )
  })

  it('is looked at in every branch and by every name, not tried for one row', () => {
    for (const [text, says] of [
      ['row > 1 ? 0.3(row-1) : 0', 'no function'],
      ['row>5 ? __proto__ : 1', '"__proto__" is not known'],
      ['row > 5 ? rows : 1', '"rows" is not known'],
      ['sin', 'has to be called'],
      ['row > 9 ? min() : 0', 'takes at least 1 number, not 0'],
      ['row > 9 ? pow(2) : 0', 'takes 2 numbers, not 1'],
      ['row(2)', 'no function'],
      ['row > 5 ? "a" : 1', 'only use numbers'],
      ['row; 2', 'only use numbers'],
      ['row > 5 ? length row : 1', 'only use numbers'],
      ['row[0]', 'only use numbers'],
    ] as const) {
      const parsed = parseRise(text)
      expect(parsed.ok ? 'read' : parsed.error, text).toContain(says)
    }
    // Whatever is read can be worked out for all values.
    const piece = fc.constantFrom('row', 'column', '2', 'sin(row)', 'min(row, 2)', '(row - 1)', 'random')
    const text = fc
      .tuple(piece, fc.constantFrom('+', '*', '>', '==', 'and', '', '?'), piece, piece)
      .map(([a, operator, b, c]) => (operator === '?' ? `${a} > 2 ? ${b} : ${c}` : `${a} ${operator} ${b}`))
    fc.assert(
      fc.property(text, fc.integer({ min: 0, max: 20 }), (each, row) => {
        const parsed = parseRise(each)
        if (parsed.ok) expect(Number.isFinite(parsed.heightOf({ ...values, row }))).toBe(true)
      }),
      { numRuns: 1000 },
    )
  })

  it('reaches nothing but numbers', () => {
    for (const text of [
      'constructor',
      'row.constructor',
      'toString()',
      'x = 3',
      '"text"',
      'f(x) = x',
      '[1, 2]',
      'random()',
    ])
      expect(parseRise(text).ok, text).toBe(false)
    // What has no finite value is level ground, not a hole in the level.
    const parsed = parseRise('1 / row')
    expect(parsed.ok && parsed.heightOf({ ...values, row: 0 })).toBe(0)
  })
})
