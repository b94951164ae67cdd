import { describe, expect, it } from 'vitest'
import { parseQuantity, printShort } from './quantity'
import { otherMeaning, withMark } from './mark'

describe('decimal marks', () => {
  // What each typed text is taken for, and whether it could have meant something else to whoever writes with a dot.
  it.each([
    ['1,5', 1.5, null],
    ['1.5', 1.5, null],
    ['1,500', 1.5, '1500'],
    ['1.500', 1.5, null],
    ['0,500', 0.5, null],
    ['12,250 m', 12.25, '12250'],
    ['1234,500', 1234.5, null],
    ['1,5000', 1.5, null],
    ['1,50', 1.5, null],
    [',500', 0.5, null],
    ['2 m + 1,500 m', 3.5, '1500'],
    ['5\' 6 1/2"', 1.6891, null],
    ['-1,250', -1.25, '1250'],
  ])('%s is %d', (text, value, other) => {
    const read = parseQuantity(text, 'length')
    expect(read).toMatchObject({ ok: true })
    if (read.ok) expect(read.value).toBeCloseTo(value, 12)
    expect(otherMeaning(text, '.')?.other ?? null).toBe(other)
  })

  it('are in doubt the other way round for who writes with a comma', () => {
    expect(otherMeaning('1.500', ',')).toEqual({ taken: '1,500', other: '1500' })
    expect(otherMeaning('1,500', ',')).toBeNull()
  })

  it('with thousands besides are refused, and nothing is guessed', () => {
    expect(parseQuantity('1,500,000', 'length')).toMatchObject({ ok: false })
    expect(parseQuantity('1.500,25', 'length')).toMatchObject({ ok: false })
  })

  it('written with either are read as the same number', () => {
    for (const value of [0, -0.25, 1.5, 1234.567, 1e-3, 99.999])
      for (const mark of ['.', ','] as const) {
        const text = withMark(printShort(value, 'length', 'm', 4), mark)
        expect(text.includes(mark === ',' ? '.' : ',')).toBe(false)
        const read = parseQuantity(text, 'length', 'm')
        expect(read.ok && read.value).toBeCloseTo(value, 4)
      }
  })
})
