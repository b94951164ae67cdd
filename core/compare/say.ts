import { fieldWord } from '../level/field-words'
import { quatToDegrees } from '../math/transform'
import type { Quat } from '../math/vectors'
import type { WrittenAxes } from '../units/height'
import type { ValueApart } from './effects'

/** How values are put into words: lengths in metres, and what an id names, if that is known. */
export type Words = {
  length: (metres: number) => string
  named: (id: string) => string | undefined
  axes: WrittenAxes
}

/** One value as people read it, on both sides. */
export type SaidValue = { what: string; here: string; there: string }

/** A value that differs, in words. */
export const sayApart = ({ path, here, there }: ValueApart, words: Words): SaidValue => ({
  what: path
    .filter((step, i) => i === 0 || !SAYS_NOTHING.has(step))
    .map((step, i) => (/^\d+$/.test(step) ? step : wordOf(step, i)))
    .filter(Boolean)
    .join(' '),
  here: sayValue(here, path, words),
  there: sayValue(there, path, words),
})

/** Names of fields that only hold others. */
const SAYS_NOTHING: ReadonlySet<string> = new Set(['rule', 'shape', 'value'])

const wordOf = (step: string, at: number) => (at === 0 && step === 'own' ? '' : fieldWord(step))

const LENGTHS: ReadonlySet<string> = new Set(['translation', 'pivot', 'point', 'at', 'eye', 'target'])

function sayValue(value: unknown, path: readonly string[], words: Words): string {
  if (value === undefined || value === null) return 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number') return rounded(value)
  if (typeof value === 'string') return words.named(value) ?? value
  if (!Array.isArray(value)) return 'something else'
  if (path[0] === 'rotation') return sayTurn(value as unknown as Quat, words.axes)
  if (value.length > 4 || !value.every(each => typeof each === 'number')) return `${value.length} in all`
  const last = path.at(-1)!
  if (LENGTHS.has(last) && value.length === 3) return words.axes.numbers(value).map(words.length).join(', ')
  return (last === 'scale' ? words.axes.sorted<number>(value) : value).map(rounded).join(', ')
}

/** As the ledger has it. */
const sayTurn = (rotation: Quat, axes: WrittenAxes): string =>
  axes
    .numbers(quatToDegrees(rotation))
    .map(angle => `${rounded(angle)}°`)
    .join(', ')

const rounded = (value: number) => String(Number(value.toFixed(4)) || 0)
