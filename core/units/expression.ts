import type { Expression } from 'expr-eval-fork'
import { Parser } from 'expr-eval-fork'

/** What names stand for. */
type Values = Readonly<Record<string, number>>

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
type Ready = (values: Values) => Worked

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

/** An expression that can be worked out for all values of its names; or what is wrong with it, in words. */
export type ParsedExpression = { ok: true; run: (values: Values) => number } | { ok: false; error: string }

/** What an expression cannot mean, in words. */
class NoNumber extends Error {}

/**
 * Reads an expression that gives a number, such as `0.3 * row` or `row % 2 == 0 ? 0 : 0.1`. Angles are in radians.
 * Every name and every branch is looked at.
 *
 * @param text as long as whoever takes it allows
 * @param names that it may use
 *
 * @example
 * const read = parseExpression('gap * 2 + 0.1', ['gap'])
 * read.ok && read.run({ gap: 0.5 }) // 1.1
 */
export function parseExpression(text: string, names: readonly string[]): ParsedExpression {
  let expression
  try {
    expression = parser.parse(text)
    checkNumber(expression.tokens, names)
  } catch (error) {
    if (error instanceof NoNumber) return { ok: false, error: error.message }
    return { ok: false, error: `is not complete: ${error instanceof Error ? error.message : String(error)}` }
  }
  const run = compile(expression.tokens, expression)
  return { ok: true, run: values => Number(run(values)) }
}

/**
 * Follows the steps with kinds of values instead of values, through every branch.
 *
 * @throws NoNumber unless one number is left
 */
function checkNumber(tokens: readonly Token[], names: readonly string[]): void {
  const stack: ('number' | { function: FunctionName })[] = []
  const takeNumbers = (count: number) => {
    for (let i = 0; i < count; i++) {
      const value = stack.pop()
      if (typeof value === 'object')
        throw new NoNumber(`"${value.function}" has to be called, as in ${value.function}(${names[0] ?? 2})`)
      if (!value) throw new NoNumber('gives no number')
    }
  }
  for (const { type, value } of tokens) {
    if (type === 'INUMBER' && typeof value === 'number') stack.push('number')
    else if (type === 'IVAR') stack.push(kindOf(String(value), names))
    else if (Array.isArray(value)) {
      checkNumber(value, names)
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
        throw new NoNumber('calls what is no function; write * between a number and a bracket')
      const [least, most] = FUNCTIONS[called.function]
      if (count < least || count > most)
        throw new NoNumber(
          `"${called.function}" takes ${least === most ? least : 'at least 1'} number${least > 1 ? 's' : ''}, not ${count}`,
        )
      stack.push('number')
    } else throw new NoNumber('may only use numbers')
  }
  takeNumbers(1)
  if (stack.length > 0) throw new NoNumber('gives more than one number')
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
      else stack.push(values => values[name]!)
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

function kindOf(name: string, names: readonly string[]): 'number' | { function: FunctionName } {
  if (names.includes(name)) return 'number'
  if (Object.hasOwn(FUNCTIONS, name)) return { function: name as FunctionName }
  throw new NoNumber(names.length > 0 ? `"${name}" is not known; use ${names.join(', ')}` : `"${name}" is not known`)
}
