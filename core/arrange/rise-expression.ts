import { parseExpression } from '../units/expression'

/**
 * What an expression can use: whole numbers counted from 0; `along`, `across` and `up` from 0 to 1; `random` from 0 to
 * 1.
 */
export const RISE_NAMES = ['row', 'column', 'layer', 'index', 'along', 'across', 'up', 'count', 'random'] as const
export type RiseValues = Record<(typeof RISE_NAMES)[number], number>

export type ParsedRise = { ok: true; heightOf: (values: RiseValues) => number } | { ok: false; error: string }

const known = new Map<string, ParsedRise>()
/** Expressions kept ready; every letter typed makes a new one. */
const MOST_KNOWN = 100

/**
 * Reads an expression for heights, such as `0.3 * row` or `row % 2 == 0 ? 0 : 0.1`. Angles are in radians.
 *
 * @returns a function that answers metres, or 0 where the result is no finite number; or what is wrong, in words. An
 *   expression that is read can be worked out for all values: every name and every branch has been looked at.
 */
export function parseRise(text: string): ParsedRise {
  let found = known.get(text)
  if (!found) {
    if (known.size >= MOST_KNOWN) known.clear()
    known.set(text, (found = readRise(text)))
  }
  return found
}

function readRise(text: string): ParsedRise {
  const read = parseExpression(text, RISE_NAMES)
  if (!read.ok) return read
  const heightOf = (values: RiseValues) => {
    const value = read.run(values)
    // Zero has no sign here.
    return Number.isFinite(value) ? Math.min(Math.max(value, -100_000), 100_000) + 0 : 0
  }
  return { ok: true, heightOf }
}
