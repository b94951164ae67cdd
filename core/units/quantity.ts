import { sumOf } from './sum'
import { Refused } from './tokens'
import type { Quantity } from './units'
import { FEET_AND_INCHES, FOOT, INCH, scaleOf } from './units'

export type { Quantity } from './units'

/** A number read, or what is wrong and from where to where in the text. */
export type Parsed = { ok: true; value: number } | { ok: false; error: string; at: number; end: number }

/** Units a person may choose to work in. */
const LENGTH_UNITS = ['mm', 'cm', 'm', 'ft', 'in'] as const
export type LengthUnit = (typeof LENGTH_UNITS)[number]
/** Also feet and inches with fractions, as on a drawing. */
export const SHOWN_UNITS = [...LENGTH_UNITS, FEET_AND_INCHES] as const
export type ShownUnit = (typeof SHOWN_UNITS)[number]

const LONGEST = 200

/**
 * Reads a number with units and arithmetic, as typed into any field: `1.5m + 20cm`, `5'6 1/2"`, `24 in`, `-0,5`, `(3 -
 * 1) * 2`. A number without a unit is in `unit`; nothing is guessed where a text has no meaning as the quantity.
 *
 * @param unit the unit of bare numbers; the base unit (metre, degree, 1) when left out
 * @returns the value in the quantity's base unit, or what is wrong in words for the person typing
 *
 * @example
 * parseQuantity('1.5m + 20cm', 'length') // { ok: true, value: 1.7 }
 * parseQuantity('-0,5', 'length', 'mm') // { ok: true, value: -0.0005 }
 */
export function parseQuantity(text: string, quantity: Quantity, unit?: string): Parsed {
  const scale = scaleOf(quantity, unit)
  const refused = (error: string, at = 0, end = text.length): Parsed => ({ ok: false, error, at, end })
  if (text.trim() === '') return refused('Type a number.')
  if (text.length > LONGEST) return refused('That is too long for a number.')
  try {
    const { value: found, power, isBare } = sumOf(text, quantity, scale)
    // Factors times factors are factors; a length times a length is none.
    if (!isBare && quantity !== 'factor' && power !== 1)
      return refused(power === 0 ? `That is a ratio, not ${NAMED[quantity]}.` : `That is not ${NAMED[quantity]}.`)
    const value = isBare ? found * scale : found
    if (!Number.isFinite(value)) return refused('The result is not a finite number.')
    return { ok: true, value: tidy(value) }
  } catch (error) {
    if (error instanceof Refused) return refused(error.message, error.at, error.end)
    throw error
  }
}

const NAMED: Record<Quantity, string> = { length: 'a length', angle: 'an angle', factor: 'a factor' }

/**
 * Prints a value in its base unit as `unit` shows it, with a fixed number of decimals; never "-0".
 * @param value metres, degrees or a factor
 */
export function printQuantity(value: number, quantity: Quantity, unit: string | undefined, decimals: number): string {
  if (unit === FEET_AND_INCHES) return printFeetAndInches(value)
  const text = (value / scaleOf(quantity, unit)).toFixed(decimals)
  return Number(text) === 0 ? text.replace('-', '') : text
}

/** The same without zeros at its end. */
export function printShort(value: number, quantity: Quantity, unit: string | undefined, decimals: number): string {
  const text = printQuantity(value, quantity, unit, decimals)
  return unit === FEET_AND_INCHES || !text.includes('.') ? text : text.replace(/\.?0+$/, '')
}

/** What stands behind a number in a unit, to be told apart: nothing where each number has its marks. */
export const unitAfter = (unit: ShownUnit): string => (unit === FEET_AND_INCHES ? '' : unit)

/** Lengths with their unit, such as `1.200 m` or `0.5 × 1.2 m`. */
export function printLengths(metres: readonly number[], unit: ShownUnit, decimals: number): string {
  return `${metres.map(each => printQuantity(each, 'length', unit, decimals)).join(' × ')} ${unitAfter(unit)}`.trim()
}

/** An area with its unit: square metres, or square feet for those who work in feet or inches. */
export function printArea(squareMetres: number, unit: ShownUnit): string {
  const isMetric = ['mm', 'cm', 'm'].includes(unit)
  return `${(isMetric ? squareMetres : squareMetres / FOOT ** 2).toFixed(3)} ${isMetric ? 'm²' : 'ft²'}`
}

/** Of an inch: the finest division of a common rule. */
const FRACTIONS = 16

/** Whole feet, whole inches and sixteenths of an inch in lowest terms, such as 5' 6 1/2". */
function printFeetAndInches(metres: number): string {
  const parts = Math.round((Math.abs(metres) / INCH) * FRACTIONS)
  if (parts === 0) return '0"'
  const [feet, inches, rest] = [
    Math.floor(parts / (12 * FRACTIONS)),
    Math.floor(parts / FRACTIONS) % 12,
    parts % FRACTIONS,
  ]
  let [above, below] = [rest, FRACTIONS]
  while (above > 0 && above % 2 === 0) [above, below] = [above / 2, below / 2]
  const small = [
    ...(inches > 0 || above === 0 ? [String(inches)] : []),
    ...(above > 0 ? [`${above}/${below}`] : []),
  ].join(' ')
  const words = [
    ...(feet > 0 ? [`${feet}'`] : []),
    ...(feet > 0 && parts % (12 * FRACTIONS) === 0 ? [] : [`${small}"`]),
  ]
  return `${metres < 0 ? '-' : ''}${words.join(' ')}`
}

/** Takes off what binary fractions leave behind the twelfth decimal, so that 0.1 + 0.2 is 0.3. */
export function tidy(value: number): number {
  if (Math.abs(value) >= 1e6) return value
  return Number(value.toFixed(12)) + 0
}
