import type { Parsed, Quantity } from './quantity'
import { parseQuantity, tidy } from './quantity'

/** A number typed into a field: taken as it is, or used to change the number that is there. */
export type Entry = { operator: '' | '+' | '*' | '/'; value: number }

export type ParsedEntry = { ok: true; entry: Entry } | Extract<Parsed, { ok: false }>

/**
 * Reads a number, or a change of one with the operator first: `+0.5` and `-= 20cm` add, `*2` and `/3` multiply. A minus
 * alone is a negative number.
 *
 * @param operators those that are understood here; without them the text is just a number
 */
export function parseEntry(text: string, quantity: Quantity, unit: string | undefined, operators: string): ParsedEntry {
  const [, first, equals, rest] = /^\s*([+\-*/×÷])(=?)(.*)$/s.exec(text) ?? []
  const sign = first === '-' && equals === '=' ? '+' : ({ '×': '*', '÷': '/' }[first ?? ''] ?? first)
  if (!sign || !'+*/'.includes(sign) || !operators.includes(sign)) {
    const parsed = parseQuantity(text, quantity, unit)
    return parsed.ok ? { ok: true, entry: { operator: '', value: parsed.value } } : parsed
  }
  const parsed = sign === '+' ? parseQuantity(rest!, quantity, unit) : parseQuantity(rest!, 'factor')
  const before = text.length - rest!.length
  if (!parsed.ok) return { ...parsed, at: parsed.at + before, end: parsed.end + before }
  if (sign === '/' && parsed.value === 0)
    return { ok: false, error: 'Nothing can be divided by 0.', at: before, end: text.length }
  return {
    ok: true,
    entry: { operator: sign as Entry['operator'], value: first === '-' ? -parsed.value : parsed.value },
  }
}

/** What was typed of a number that is written the other way, of the number itself. @param sign -1 for such a one */
export const directed = ({ operator, value }: Entry, sign: 1 | -1): Entry => ({
  operator,
  // + 0: nothing typed is -0.
  value: operator === '' || operator === '+' ? value * sign + 0 : value,
})

/** The number an entry makes of one that is there. */
export function applyEntry({ operator, value }: Entry, now: number): number {
  switch (operator) {
    case '+':
      return tidy(now + value)
    case '*':
      return tidy(now * value)
    case '/':
      return tidy(now / value)
    default:
      return value
  }
}
