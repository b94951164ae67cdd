import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parseQuantity, printQuantity } from './quantity'

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

  // 1 in = 25.4 mm and 1 ft = 0.3048 m exactly: international yard and pound, 1959; NIST SP 811 (from memory).
  it('holds the international inch and foot', () => {
    expect(length('1in')).toBe(0.0254)
    expect(length('1ft')).toBe(0.3048)
    expect(length('12in')).toBe(length('1ft'))
    expect(length('1yd')).toBe(length('3ft'))
  })

  it.each(['', 'abc', '1 +', '2 parsec', '1,234.5', '1/0', '(1', '3 deg', 'constructor', '1;2', 'e', '2e'])('refuses %j in words', (text) => {
    const parsed = parseQuantity(text, 'length')
    expect(parsed.ok).toBe(false)
    if (!parsed.ok) expect(parsed.error.length).toBeGreaterThan(10)
  })

  it('never throws, whatever is typed', () => {
    fc.assert(fc.property(fc.string(), text => typeof parseQuantity(text, 'length').ok === 'boolean'))
  })

  it('reads back what it prints', () => {
    fc.assert(fc.property(fc.double({ min: -1e5, max: 1e5, noNaN: true }), fc.constantFrom('mm', 'cm', 'm', 'ft', 'in'), (value, unit) => {
      const printed = printQuantity(value, 'length', unit, 6)
      expect(Math.abs(length(printed, unit) - value)).toBeLessThan(1e-6)
    }))
  })
})

describe('angles and factors', () => {
  it('turns', () => {
    expect(parseQuantity('0.25 turn', 'angle')).toEqual({ ok: true, value: 90 })
    expect(parseQuantity('45°', 'angle')).toEqual({ ok: true, value: 45 })
    expect(parseQuantity('1 rad', 'angle')).toEqual({ ok: true, value: 57.295779513082 })
  })
  it('sizes', () => expect(parseQuantity('150 %', 'factor')).toEqual({ ok: true, value: 1.5 }))
  it('prints no negative zero', () => expect(printQuantity(-0.00001, 'length', 'm', 3)).toBe('0.000'))
})
