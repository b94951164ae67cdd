import { Parser } from 'expr-eval-fork'

/** What an expression can use: whole numbers counted from 0; `along`, `across` and `up` from 0 to 1; `random` from 0 to 1. */
export const RISE_NAMES = ['row', 'column', 'layer', 'index', 'along', 'across', 'up', 'count', 'random'] as const
export type RiseValues = Record<(typeof RISE_NAMES)[number], number>

const FUNCTIONS = ['sin', 'cos', 'tan', 'sqrt', 'abs', 'floor', 'ceil', 'round', 'min', 'max', 'pow', 'exp', 'log'] as const

const parser = new Parser({ allowMemberAccess: false, operators: { assignment: false, in: false, fndef: false, concatenate: false } })
parser.consts = { pi: Math.PI }
parser.functions = Object.fromEntries(FUNCTIONS.map(name => [name, Math[name]]))

export type ParsedRise = { ok: true, heightOf: (values: RiseValues) => number } | { ok: false, error: string }

const known = new Map<string, ParsedRise>()
/** Expressions kept ready; every letter typed makes a new one. */
const MOST_KNOWN = 100

/**
 * Reads an expression for heights, such as `0.3 * row` or `row % 2 == 0 ? 0 : 0.1`. Angles are in radians.
 *
 * @returns a function that answers metres, or 0 where the result is no finite number; or what is wrong, in words
 */
export function parseRise(text: string): ParsedRise {
  let found = known.get(text)
  if (!found) {
    if (known.size >= MOST_KNOWN) known.clear()
    known.set(text, found = readRise(text))
  }
  return found
}

function readRise(text: string): ParsedRise {
  try {
    const expression = parser.parse(text)
    const stranger = expression.symbols().find(name => !(RISE_NAMES as readonly string[]).includes(name) && !(name in parser.functions))
    if (stranger) return { ok: false, error: `"${stranger}" is not known; use ${RISE_NAMES.join(', ')}` }
    const heightOf = (values: RiseValues) => {
      const value = Number(expression.evaluate(values))
      return Number.isFinite(value) ? Math.min(Math.max(value, -100_000), 100_000) : 0
    }
    // What cannot be worked out, such as a function called with nothing, shows itself only now.
    const tried: unknown = expression.evaluate({ row: 1, column: 1, layer: 1, index: 1, along: 0.5, across: 0.5, up: 0.5, count: 2, random: 0.5 })
    if (typeof tried !== 'number' && typeof tried !== 'boolean') return { ok: false, error: 'gives no number' }
    return { ok: true, heightOf }
  }
  catch (error) {
    return { ok: false, error: `is not complete: ${error instanceof Error ? error.message : String(error)}` }
  }
}
