import { describe, expect, it } from 'vitest'
import { lineOfText, plainText } from './text'

const refused = (schema: ReturnType<typeof plainText>, text: string) => schema.safeParse(text).error?.issues[0]?.message

describe('text', () => {
  it('may be of any script, with whole pairs of surrogates', () => {
    for (const text of ['Kiosk', 'Бакен', '灯籠', '🏮 lantern', 'a "quoted" & b'])
      expect(lineOfText(50).parse(text)).toBe(text)
  })

  it('is refused, not cleaned, where it is no text', () => {
    expect(refused(plainText(50), 'half \ud83c of a pair')).toContain('surrogate')
    expect(refused(plainText(50), '\udfee')).toContain('surrogate')
    expect(refused(plainText(50), 'a\u0000b')).toContain('control')
    expect(refused(plainText(50), '<b>')).toContain('<')
    expect(refused(plainText(3), 'abcd')).toContain('3 characters')
  })

  it('of one line has no line breaks and is not blank; of several lines may', () => {
    expect(refused(lineOfText(50), 'a\nb')).toContain('one line')
    expect(refused(lineOfText(50), 'a\u2028b')).toContain('one line')
    expect(refused(lineOfText(50), '   ')).toContain('empty')
    expect(lineOfText(50).parse('  quay  ')).toBe('quay')
    expect(plainText(50).parse('a\nb\tc')).toBe('a\nb\tc')
  })
})
