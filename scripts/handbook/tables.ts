import { EVERYDAY_WORDS } from '../../app/features/handbook/everyday-words'
import { CHECK_NAMES, checkOf } from '../../core/check/kinds'

/** A table of Markdown: bars within cells are written otherwise. */
const table = (heads: readonly string[], rows: readonly (readonly string[])[]) =>
  [heads, heads.map(() => '---'), ...rows]
    .map(cells => `| ${cells.map(cell => cell.replaceAll('|', '/').replace(/\s+/g, ' ')).join(' | ')} |`)
    .join('\n')

const UNITS = { length: ' m', angle: '°', factor: '' }

/** What the level check looks for, and why, from the definitions of its kinds. */
export const checksTable = (): string =>
  table(
    ['finding', 'means', 'limits at first', 'is mended by'],
    CHECK_NAMES.map(name => {
      const { name: called, explains, fix, limits } = checkOf(name)
      const numbers = Object.values(limits).map(({ label, first, quantity }) => `${label} ${first}${UNITS[quantity]}`)
      return [called, explains, numbers.join(', '), fix?.does ?? '']
    }),
  )

/** Everyday words by ours. @param titleOf what a page is called; undefined if it is none */
export const wordsTable = (titleOf: (slug: string) => string | undefined): string =>
  table(
    ['you say', 'here'],
    Object.entries(EVERYDAY_WORDS).map(([ours, words]) => {
      const title = titleOf(ours)
      return [words.join(', '), title ? `[${title}](${ours}.md)` : `*${ours}*`]
    }),
  )

/** A page with the table behind one of its headings, or behind its last line, made anew. */
export function withTable(page: string, after: string, made: string): string {
  const at = page.indexOf(after)
  if (at < 0) throw new Error(`"${after}" is not in the page`)
  return `${page.slice(0, at + after.length)}\n\n${made}\n`
}
