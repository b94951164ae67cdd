/** What stands before the decimals of a number. */
export type DecimalMark = '.' | ','

/** Numbers as text, of one mark; nothing but numbers and their units may be in it. */
export const withMark = (text: string, mark: DecimalMark): string => (mark === '.' ? text : text.replaceAll('.', mark))

/** One to three digits, a mark, and exactly three: a decimal or thousands. */
const DOUBTFUL = /(?<![\d.,])([1-9]\d{0,2})([.,])(\d{3})(?![\d.,])/

/**
 * What a typed text may have meant besides what it is taken for: one mark before exactly three digits is a decimal mark
 * here and a mark of thousands elsewhere (ISO 80000-1:2022, 7.2 and 7.3, from memory: comma or dot for decimals,
 * neither of them for thousands). The mark that somebody writes decimals with is not in doubt.
 *
 * @param mine the mark of whoever typed it
 * @returns both numbers as text; null where there is no doubt
 *
 * @example
 * otherMeaning('1,500 m', '.') // { taken: '1.500', other: '1500' }
 * otherMeaning('1,5', '.') // null
 */
export function otherMeaning(text: string, mine: DecimalMark): { taken: string; other: string } | null {
  const [, whole, mark, rest] = DOUBTFUL.exec(text) ?? []
  return mark === undefined || mark === mine ? null : { taken: `${whole}${mine}${rest}`, other: `${whole}${rest}` }
}
