import { Parser } from 'expr-eval-fork'

/** What a field holds. Lengths are metres inside, angles degrees, factors plain numbers. */
export type Quantity = 'length' | 'angle' | 'factor'

export type Parsed = { ok: true, value: number } | { ok: false, error: string }

/**
 * How many of the quantity's base unit one of each unit is.
 * Inch and foot: exact since the international yard and pound agreement of 1959 (NIST SP 811).
 */
const UNITS: Record<Quantity, Record<string, number>> = {
  length: {
    'mm': 0.001, 'cm': 0.01, 'dm': 0.1, 'm': 1, 'km': 1000,
    'in': 0.0254, '"': 0.0254, '″': 0.0254, 'ft': 0.3048, '\'': 0.3048, '′': 0.3048, 'yd': 0.9144,
  },
  angle: { 'deg': 1, '°': 1, 'rad': 180 / Math.PI, 'turn': 360 },
  factor: { '%': 0.01, 'x': 1 },
}

/** Units a person may choose to work in. */
export const LENGTH_UNITS = ['mm', 'cm', 'm', 'ft', 'in'] as const
export type LengthUnit = (typeof LENGTH_UNITS)[number]

const parser = new Parser({ operators: { logical: false, comparison: false, assignment: false, conditional: false, in: false } })
parser.consts = {}
parser.functions = {}

const NUMBER = String.raw`(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:e[+-]?\d+)?`

/**
 * Reads a number with units and arithmetic, as typed into any field: `1.5m + 20cm`, `2ft 6in`, `24 in`, `-0,5`, `(3 - 1) * 2`.
 *
 * A number without a unit is in `unit`. Every number with a unit becomes that many of `unit` before the arithmetic is done,
 * so `2 * 3m` is six metres. Lengths written side by side belong together: `2ft 6in` is 30 inches, also after a minus.
 *
 * @param unit the unit of bare numbers; the base unit (metre, degree, 1) when left out
 * @returns the value in the quantity's base unit, or what is wrong in words for the person typing
 */
export function parseQuantity(text: string, quantity: Quantity, unit?: string): Parsed {
  const units = UNITS[quantity]
  const scale = unit === undefined ? 1 : units[unit]
  if (scale === undefined) throw new RangeError(`${unit} is no unit of ${quantity}`)
  if (text.trim() === '') return { ok: false, error: 'Type a number.' }
  if (text.length > 200) return { ok: false, error: 'That is too long for a number.' }
  if (/\d[.,]\d+[.,]\d/.test(text)) return { ok: false, error: 'Use one decimal mark, without thousands separators.' }

  const names = Object.keys(units).sort((a, b) => b.length - a.length).map(escape).join('|')
  const measured = new RegExp(String.raw`(?<![\w.,])(?:${NUMBER})\s*(?:${names})(?![a-z])(?:\s*(?:${NUMBER})\s*(?:${names})(?![a-z]))*`, 'gi')
  const single = new RegExp(String.raw`(${NUMBER})\s*(${names})(?![a-z])`, 'gi')
  const plain = text.replace(/[−–]/g, '-').replace(/×/g, '*').replace(/÷/g, '/').replace(measured, (run) => {
    const terms = [...run.matchAll(single)].map(([, number, name]) => (toNumber(number!) * units[name!.toLowerCase()]!) / scale)
    return `(${terms.join('+')})`
  }).replace(/(\d),(\d)/g, '$1.$2').replace(/(^|[^\d.]),(\d)/g, '$10.$2')

  const stranger = /[^\d\s.+\-*/^()e]/i.exec(plain) ?? /(?<!\d)e|e(?![\d+-])/i.exec(plain)
  if (stranger) {
    const known = Object.keys(units).filter(name => /^[a-z°%]+$/.test(name)).join(', ')
    return { ok: false, error: `"${wordAt(plain, stranger.index)}" is not understood here. Units: ${known}.` }
  }
  let value: number
  try {
    value = parser.evaluate(plain) * scale
  }
  catch {
    return { ok: false, error: 'That sum is not complete.' }
  }
  if (!Number.isFinite(value)) return { ok: false, error: 'The result is not a finite number.' }
  return { ok: true, value: tidy(value) }
}

/**
 * Prints a value in its base unit as `unit` shows it, with a fixed number of decimals; never "-0".
 * @param value metres, degrees or a factor
 */
export function printQuantity(value: number, quantity: Quantity, unit: string | undefined, decimals: number): string {
  const scale = unit === undefined ? 1 : UNITS[quantity][unit]
  if (scale === undefined) throw new RangeError(`${unit} is no unit of ${quantity}`)
  const text = (value / scale).toFixed(decimals)
  return Number(text) === 0 ? text.replace('-', '') : text
}

/** Takes off what binary fractions leave behind the twelfth decimal, so that 0.1 + 0.2 is 0.3. */
export function tidy(value: number): number {
  if (Math.abs(value) >= 1e6) return value
  return Number(value.toFixed(12)) + 0
}

function toNumber(text: string): number {
  return Number(text.replace(',', '.'))
}

function escape(name: string): string {
  return name.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
}

function wordAt(text: string, index: number): string {
  return /^[\p{L}]+|^./u.exec(text.slice(index))?.[0] ?? text
}
