import { describe, expect, it } from 'vitest'
import { applyEntry, parseEntry } from './entry'

const enter = (text: string, now: number, operators = '+*/') => {
  const parsed = parseEntry(text, 'length', 'm', operators)
  return parsed.ok ? applyEntry(parsed.entry, now) : parsed.error
}

describe('an entry', () => {
  it('is a number, or changes the one that is there by the operator first', () => {
    expect(enter('2.5', 1)).toBe(2.5)
    expect(enter('-2.5', 1)).toBe(-2.5)
    expect(enter('+0.2', 0.1)).toBe(0.3)
    expect(enter('+= 20cm', 1)).toBe(1.2)
    expect(enter('-= 20cm', 1)).toBe(0.8)
    expect(enter('+-0.5', 1)).toBe(0.5)
    expect(enter('*3', 0.1)).toBe(0.3)
    expect(enter('× 50%', 3)).toBe(1.5)
    expect(enter('/4', 2)).toBe(0.5)
    // An inch is 25.4 mm exactly (NIST SP 811).
    expect(enter('+24in', 0)).toBe(0.6096)
  })

  it('knows only the operators of its field', () => {
    expect(enter('+3', 1, '')).toBe(3)
    expect(enter('*3', 1, '+')).toBe('A number is missing before this.')
  })

  it('says what is wrong', () => {
    expect(enter('/0', 1)).toBe('Nothing can be divided by 0.')
    expect(enter('*2 parrots', 1)).toContain('not understood')
    expect(enter('+', 1)).toBe('Type a number.')
    // Where, in the whole of what was typed.
    expect(parseEntry(' += 2 parrots', 'length', 'm', '+')).toMatchObject({ ok: false, at: 6, end: 13 })
  })
})
