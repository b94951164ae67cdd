import type { Expression } from 'expr-eval-fork'
import { Parser } from 'expr-eval-fork'

/**
 * What an expression can use: whole numbers counted from 0; `along`, `across` and `up` from 0 to 1; `random` from 0 to
 * 1.
 */
export const RISE_NAMES = ['row', 'column', 'layer', 'index', 'along', 'across', 'up', 'count', 'random'] as const
export type RiseValues = Record<(typeof RISE_NAMES)[number], number>

/** With how many numbers each is called: at least, at most. */
const FUNCTIONS = {
  sin: [1, 1],
  cos: [1, 1],
  tan: [1, 1],
  sqrt: [1, 1],
  abs: [1, 1],
  floor: [1, 1],
  ceil: [1, 1],
  round: [1, 1],
  exp: [1, 1],
  log: [1, 1],
  pow: [2, 2],
  min: [1, Infinity],
  max: [1, Infinity],
} as const

type FunctionName = keyof typeof FUNCTIONS

/**
 * A step of a parsed expression, in the order of a stack machine; the branches of a condition are lists of their own.
 */
type Token = { type: string; value: number | string | Token[] }

/** What a part of an expression gives: comparisons say true or false. */
type Worked = number | boolean

/** A part of an expression that is ready to be worked out. */
type Ready = (values: RiseValues) => Worked

/** The operators met most, without a call each. */
const QUICK: Record<string, (a: Ready, b: Ready) => Ready> = {
  '+': (a, b) => values => +a(values) + +b(values),
  '-': (a, b) => values => +a(values) - +b(values),
  '*': (a, b) => values => +a(values) * +b(values),
  '/': (a, b) => values => +a(values) / +b(values),
}

declare module 'expr-eval-fork' {
  interface Expression {
    tokens: Token[]
    unaryOps: Record<string, (value: Worked) => Worked>
    binaryOps: Record<string, (a: Worked, b: Worked) => Worked>
  }
}

const parser = new Parser({
  allowMemberAccess: false,
  operators: { assignment: false, in: false, fndef: false, concatenate: false },
})
parser.consts = { pi: Math.PI }
parser.functions = Object.fromEntries((Object.keys(FUNCTIONS) as FunctionName[]).map(name => [name, Math[name]]))

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

/** What an expression cannot mean, in words. */
class NoRise extends Error {}

function readRise(text: string): ParsedRise {
  let expression
  try {
    expression = parser.parse(text)
    checkNumber(expression.tokens)
  } catch (error) {
    if (error instanceof NoRise) return { ok: false, error: error.message }
    return { ok: false, error: `is not complete: ${error instanceof Error ? error.message : String(error)}` }
  }
  const run = compile(expression.tokens, expression)
  const heightOf = (values: RiseValues) => {
    const value = Number(run(values))
    // Zero has no sign here.
    return Number.isFinite(value) ? Math.min(Math.max(value, -100_000), 100_000) + 0 : 0
  }
  return { ok: true, heightOf }
}

/**
 * Follows the steps with kinds of values instead of values, through every branch.
 *
 * @throws NoRise unless one number is left
 */
function checkNumber(tokens: readonly Token[]): void {
  const stack: ('number' | { function: FunctionName })[] = []
  const takeNumbers = (count: number) => {
    for (let i = 0; i < count; i++) {
      const value = stack.pop()
      if (typeof value === 'object')
        throw new NoRise(`"${value.function}" has to be called, as in ${value.function}(row)`)
      if (!value) throw new NoRise('gives no number')
    }
  }
  for (const { type, value } of tokens) {
    if (type === 'INUMBER' && typeof value === 'number') stack.push('number')
    else if (type === 'IVAR') stack.push(kindOf(String(value)))
    else if (Array.isArray(value)) {
      checkNumber(value)
      stack.push('number')
    } else if (type === 'IOP1' && value !== 'length') {
      takeNumbers(1)
      stack.push('number')
    } else if (type === 'IOP2' && value !== '[') {
      takeNumbers(2)
      stack.push('number')
    } else if (type === 'IOP3') {
      takeNumbers(3)
      stack.push('number')
    } else if (type === 'IFUNCALL') {
      const count = Number(value)
      takeNumbers(count)
      const called = stack.pop()
      if (typeof called !== 'object')
        throw new NoRise('calls what is no function; write * between a number and a bracket')
      const [least, most] = FUNCTIONS[called.function]
      if (count < least || count > most)
        throw new NoRise(
          `"${called.function}" takes ${least === most ? least : 'at least 1'} number${least > 1 ? 's' : ''}, not ${count}`,
        )
      stack.push('number')
    } else throw new NoRise('may only use numbers')
  }
  takeNumbers(1)
  if (stack.length > 0) throw new NoRise('gives more than one number')
}

/**
 * The same steps as functions within each other, several times quicker for very many values than walking through them
 * each time.
 *
 * @param tokens that `checkNumber` has followed
 */
function compile(tokens: readonly Token[], { unaryOps, binaryOps }: Pick<Expression, 'unaryOps' | 'binaryOps'>): Ready {
  const stack: Ready[] = []
  const called: ((...values: number[]) => number)[] = []
  for (const { type, value } of tokens) {
    if (Array.isArray(value)) stack.push(compile(value, { unaryOps, binaryOps }))
    else if (type === 'INUMBER') stack.push(() => value as number)
    else if (type === 'IVAR') {
      const name = String(value)
      if (Object.hasOwn(FUNCTIONS, name)) called.push(Math[name as FunctionName])
      else stack.push(values => values[name as keyof RiseValues])
    } else if (type === 'IOP1') {
      const [of, run] = [unaryOps[String(value)]!, stack.pop()!]
      stack.push(values => of(run(values)))
    } else if (type === 'IOP2') {
      const [of, b, a] = [binaryOps[String(value)]!, stack.pop()!, stack.pop()!]
      const quick = QUICK[String(value)]
      if (quick) stack.push(quick(a, b))
      else if (value === 'and') stack.push(values => (a(values) ? Boolean(b(values)) : false))
      else if (value === 'or') stack.push(values => (a(values) ? true : Boolean(b(values))))
      else stack.push(values => of(a(values), b(values)))
    } else if (type === 'IOP3') {
      const [no, yes, when] = [stack.pop()!, stack.pop()!, stack.pop()!]
      stack.push(values => (when(values) ? yes(values) : no(values)))
    } else {
      const given = stack.splice(stack.length - Number(value))
      const [of, first] = [called.pop()!, given[0]!]
      stack.push(
        given.length === 1
          ? values => of(Number(first(values)))
          : values => of(...given.map(run => Number(run(values)))),
      )
    }
  }
  return stack[0]!
}

function kindOf(name: string): 'number' | { function: FunctionName } {
  if ((RISE_NAMES as readonly string[]).includes(name)) return 'number'
  if (Object.hasOwn(FUNCTIONS, name)) return { function: name as FunctionName }
  throw new NoRise(`"${name}" is not known; use ${RISE_NAMES.join(', ')}`)
}
