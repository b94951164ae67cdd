import fc from 'fast-check'
import type { Unit } from 'mathjs'
import { evaluate } from 'mathjs'
import { describe, expect, it } from 'vitest'
import { parseQuantity, printArea, printLengths, printQuantity, printShort } from './quantity'

const length = (text: string, unit?: string) => {
  const parsed = parseQuantity(text, 'length', unit)
  if (!parsed.ok) throw new Error(parsed.error)
  return parsed.value
}

describe('lengths', () => {
  it.each([
    ['1.5m + 20cm', 1.7],
    ['24 in', 0.6096],
    ['2ft 6in', 0.762],
    ['2\' 6"', 0.762],
    ['-2ft 6in', -0.762],
    ['-0,5', -0.5],
    [',5', 0.5],
    ['1,5 m', 1.5],
    ['3 * (1 - 0.25)', 2.25],
    ['2 * 3m', 6],
    ['1e-3', 0.001],
    ['0.1 + 0.2', 0.3],
    ['−2', -2],
    ['1 km - 1', 999],
    ['10CM', 0.1],
  ])('%s is %d m', (text, metres) => expect(length(text)).toBe(metres))

  it('takes bare numbers in the unit worked in', () => {
    expect(length('50', 'cm')).toBe(0.5)
    expect(length('1m + 20', 'cm')).toBe(1.2)
    expect(length('12', 'in')).toBe(0.3048)
  })

  // How builders write feet and inches, and parts of them: common practice of the trade, no source.
  it.each([
    ['1/2"', 0.5 * 0.0254],
    ['1/2 in', 0.5 * 0.0254],
    ['½"', 0.5 * 0.0254],
    ['6½ inches', 6.5 * 0.0254],
    ['6 1/2"', 6.5 * 0.0254],
    ['6-1/2"', 6.5 * 0.0254],
    ['6 - 1/2"', 6 - 0.5 * 0.0254],
    ['5\'-6"', 5.5 * 0.3048],
    ['5\'-6-1/2"', 5 * 0.3048 + 6.5 * 0.0254],
    ['5\' - 6"', 4.5 * 0.3048],
    ['5\'6 1/2"', 5 * 0.3048 + 6.5 * 0.0254],
    ['5’ 6 1/2”', 5 * 0.3048 + 6.5 * 0.0254],
    ['5′6″', 5.5 * 0.3048],
    ["5'6", 5.5 * 0.3048],
    ['2ft3', 2.25 * 0.3048],
    ['2 feet 3 inches', 2.25 * 0.3048],
    ['1 foot', 0.3048],
    ["-5'6", -5.5 * 0.3048],
    ['(1/2)in', 0.5 * 0.0254],
    ['(1 + 1/2) ft', 1.5 * 0.3048],
    ["6''", 6 * 0.0254],
    ['3 metres', 3],
    ['1 m 20 cm', 1.2],
    ['1/4 km', 250],
    ['5,5"', 5.5 * 0.0254],
    ['(1,5 + 0,5) * 2', 4],
    ['3m / 1m * 2m', 6],
    ['3 m × 2 ÷ 4', 1.5],
    ['2^3 cm', null],
    ['10-1/2m', 9.5],
    ['2ft-1ft', 0.3048],
    ["5'-1m", 0.524],
    ['5ft-6', 5 * 0.3048 - 6],
  ] as const)('%s is what a builder means', (text, metres) => {
    if (metres === null) expect(parseQuantity(text, 'length').ok).toBe(false)
    else expect(length(text)).toBeCloseTo(metres, 12)
  })

  it.each([
    ['1m*1m', '1m*1m', 'not a length'],
    ['1 / 2ft', '1 / 2ft', null],
    ['1/(2m)', '1/(2m)', 'not a length'],
    ['3m/1m', '3m/1m', 'ratio'],
    ['3m + 1m*1m', '1m*1m', 'one kind'],
    ['1m20', '20', 'no unit'],
    ['6" 5\'', "5'", 'larger unit'],
    ['5ft-6in', '-6in', 'spaces around'],
    ["5'-6", '-6', 'spaces around'],
    ['2 + 3 parsec', 'parsec', 'not understood'],
    ['4 + 45°', '°', 'not understood'],
    ['1,234.5', '1,234', 'thousands'],
    ['(1 + 2', '(', 'never closed'],
    ['1 + 2)', ')', 'never opened'],
    ['2 * * 3', '*', 'missing'],
    ['2 3', '3', 'missing'],
    ['3m^2', '2', 'plain numbers'],
    ['(3m) ft', 'ft', 'unit already'],
    ['1 €', '€', 'not understood'],
  ] as const)('%s is refused at %s', (text, where, why) => {
    const parsed = parseQuantity(text, 'length')
    if (why === null) return expect(parsed).toEqual({ ok: true, value: 0.1524 })
    expect(parsed).toMatchObject({ ok: false, error: expect.stringContaining(why) })
    if (!parsed.ok) expect(text.slice(parsed.at, parsed.end)).toBe(where)
  })

  it('agrees with a general-purpose library on sums with units (mathjs)', () => {
    const amount = fc
      .tuple(fc.integer({ min: 1, max: 400 }), fc.constantFrom('mm', 'cm', 'm', 'km', 'in', 'ft', 'yd'))
      .map(([number, unit]) => `${number / 8} ${unit}`)
    const factor = fc.integer({ min: 1, max: 40 }).map(number => String(number / 4))
    const { sum } = fc.letrec<{ sum: string }>(tie => ({
      sum: fc.oneof(
        { maxDepth: 4 },
        amount,
        fc.tuple(tie('sum'), fc.constantFrom('+', '-'), tie('sum')).map(([a, sign, b]) => `(${a} ${sign} ${b})`),
        fc.tuple(factor, tie('sum')).map(([by, of]) => `${by} * ${of}`),
        fc.tuple(tie('sum'), factor).map(([of, by]) => `(${of} / ${by})`),
        tie('sum').map(of => `-(${of})`),
        fc.tuple(tie('sum'), amount, amount).map(([of, over, by]) => `${of} * (${over}) / (${by})`),
      ),
    }))
    fc.assert(
      fc.property(
        sum.filter(text => text.length <= 200),
        text => {
          const theirs = (evaluate(text.replaceAll('yd', 'yard')) as Unit).toNumber('m')
          expect(Math.abs(length(text) - theirs)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(theirs)))
        },
      ),
      { numRuns: 400 },
    )
  })

  it('reads feet, inches and their parts as they are printed', () => {
    fc.assert(
      fc.property(
        fc.nat(99),
        fc.nat(11),
        fc.integer({ min: 1, max: 63 }),
        fc.constantFrom(2, 4, 8, 16, 32, 64),
        (feet, inches, part, of) => {
          fc.pre(part < of)
          const metres = feet * 0.3048 + (inches + part / of) * 0.0254
          for (const text of [
            `${feet}'${inches} ${part}/${of}"`,
            `${feet}'-${inches}-${part}/${of}"`,
            `${feet} ft ${inches} ${part}/${of} in`,
            `${feet}ft${inches} ${part}/${of}`,
          ])
            expect(length(text)).toBeCloseTo(metres, 12)
        },
      ),
    )
  })

  // 1 in = 25.4 mm and 1 ft = 0.3048 m exactly: international yard and pound, 1959; NIST SP 811 (from memory).
  it('holds the international inch and foot', () => {
    expect(length('1in')).toBe(0.0254)
    expect(length('1ft')).toBe(0.3048)
    expect(length('12in')).toBe(length('1ft'))
    expect(length('1yd')).toBe(length('3ft'))
  })

  it.each(['', 'abc', '1 +', '2 parsec', '1,234.5', '1/0', '(1', '3 deg', 'constructor', '1;2', 'e', '2e'])(
    'refuses %j in words',
    text => {
      const parsed = parseQuantity(text, 'length')
      expect(parsed.ok).toBe(false)
      if (!parsed.ok) expect(parsed.error.length).toBeGreaterThan(10)
    },
  )

  it('never throws, whatever is typed', () => {
    fc.assert(fc.property(fc.string(), text => typeof parseQuantity(text, 'length').ok === 'boolean'))
  })

  it('reads back what it prints', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1e5, max: 1e5, noNaN: true }),
        fc.constantFrom('mm', 'cm', 'm', 'ft', 'in'),
        (value, unit) => {
          const printed = printQuantity(value, 'length', unit, 6)
          expect(Math.abs(length(printed, unit) - value)).toBeLessThan(1e-6)
        },
      ),
    )
  })
})

describe('angles and factors', () => {
  it('turns', () => {
    expect(parseQuantity('0.25 turn', 'angle')).toEqual({ ok: true, value: 90 })
    expect(parseQuantity('45°', 'angle')).toEqual({ ok: true, value: 45 })
    expect(parseQuantity('1/4 turn', 'angle')).toEqual({ ok: true, value: 90 })
    // 1° = 60′, 1′ = 60″ (NIST SP 811, 2008, table 6, from memory).
    expect(parseQuantity("30°15'", 'angle')).toEqual({ ok: true, value: 30.25 })
    expect(parseQuantity('30° 15′ 36″', 'angle')).toEqual({ ok: true, value: 30.26 })
    expect(parseQuantity("-0°30'", 'angle')).toEqual({ ok: true, value: -0.5 })
    expect(parseQuantity('1 rad', 'angle')).toEqual({ ok: true, value: 57.295779513082 })
  })
  it('sizes', () => {
    expect(parseQuantity('150 %', 'factor')).toEqual({ ok: true, value: 1.5 })
    expect(parseQuantity('50% * 50%', 'factor')).toEqual({ ok: true, value: 0.25 })
    expect(parseQuantity('1/3', 'factor')).toEqual({ ok: true, value: 0.333333333333 })
    expect(parseQuantity('10 + 50%', 'factor', '%')).toEqual({ ok: true, value: 0.6 })
  })
  it('prints feet and inches with the fractions of a rule, and reads them again', () => {
    // 1 in = 25.4 mm exactly (international yard and pound, 1959).
    expect(
      [0, 0.3048, 1.6891, 0.0127, -1.6891, 0.3175, 0.0015875, 3.048, 0.30479].map(metres =>
        printQuantity(metres, 'length', 'ft-in', 0),
      ),
    ).toEqual(['0"', "1'", '5\' 6 1/2"', '1/2"', '-5\' 6 1/2"', '1\' 1/2"', '1/16"', "10'", "1'"])
    fc.assert(
      fc.property(fc.double({ min: -500, max: 500, noNaN: true }), metres => {
        const read = parseQuantity(printQuantity(metres, 'length', 'ft-in', 0), 'length', 'ft-in')
        expect(read.ok && Math.abs(read.value - metres)).toBeLessThan(0.0254 / 32 + 1e-9)
      }),
    )
    expect(parseQuantity('2', 'length', 'ft-in')).toEqual({ ok: true, value: 0.6096 })
  })

  it('leaves out what a short number does not need', () => {
    expect([
      printShort(1.5, 'length', 'm', 3),
      printShort(100, 'length', 'mm', 0),
      printShort(0.25, 'angle', undefined, 2),
      printShort(2, 'length', 'm', 3),
    ]).toEqual(['1.5', '100000', '0.25', '2'])
    expect([
      printLengths([1.2], 'm', 3),
      printLengths([1, 0.3048], 'ft-in', 3),
      printArea(2, 'cm'),
      printArea(0.09290304, 'ft-in'),
    ]).toEqual(['1.200 m', "3' 3 3/8\" × 1'", '2.000 m²', '1.000 ft²'])
  })

  it('prints no negative zero', () => expect(printQuantity(-0.00001, 'length', 'm', 3)).toBe('0.000'))
})
