import { appendFileSync } from 'node:fs'

// What is measured goes to the console as tables, and as one line of JSON each to the file that BENCH_REPORT names; of
// those `npm run bench` makes docs/measurements.md.

/** What tables are about, in the order of the page. */
const TOPICS = [
  'Opening and looking',
  'Picking and moving',
  'Repeating and scattering',
  'Checking',
  'Walking, settling, light',
  'Bringing in and handing over',
  'Serving',
] as const

type Told = {
  topic: (typeof TOPICS)[number]
  /** What the table is of, as its heading. */
  title: string
  /** What was done, on what, and with what it is compared: a sentence or two. */
  about: string
  unit: string
}

/** The same at several sizes of level. */
export type Growth = Told & {
  sizes: readonly number[]
  /** What the sizes count. */
  of: string
  /** A value for each size; null where it was not measured. */
  rows: readonly { what: string; values: readonly (number | null)[] }[]
}

/** Several things, each against a reference that was measured in the same run; less is better. */
export type Compared = Told & {
  /** What the ratios are to. */
  reference?: string
  /** Whether that does the same, so that what takes longer is said to be slower. */
  doesTheSame?: true
  rows: readonly {
    what: string
    value: number
    /** What the reference took. */
    against?: number
  }[]
}

/**
 * By how many powers of the size a value grows, from the least size to the largest that were measured: 0 where it stays
 * as it is, 1 where it grows along.
 */
export function exponentOf(sizes: readonly number[], values: readonly (number | null)[]): number | null {
  const known = sizes.flatMap((size, i) => (values[i] ? [[size, values[i]] as const] : []))
  const [first, last] = [known[0], known.at(-1)]
  return !first || !last || first === last ? null : Math.log(last[1] / first[1]) / Math.log(last[0] / first[0])
}

const figure = (value: number) =>
  value >= 100 ? Math.round(value).toLocaleString('en') : String(Number(value.toPrecision(3)))

/** @param lines what is read: the heads of the columns, then a line for each row */
function tell(kind: 'growth' | 'compared', table: Growth | Compared, lines: string[][]): void {
  const widths = lines[0]!.map((_, column) => Math.max(...lines.map(cells => cells[column]!.length)))
  const text = lines.map(cells =>
    cells.map((cell, i) => (i === 0 ? cell.padEnd(widths[0]! + 2) : cell.padStart(widths[i]! + 2))).join(''),
  )
  console.log([`${table.title}. ${table.about}`, ...text].join('\n'))
  if (process.env.BENCH_REPORT)
    appendFileSync(
      process.env.BENCH_REPORT,
      `${JSON.stringify({ kind, order: TOPICS.indexOf(table.topic), ...table, lines })}\n`,
    )
}

/** Tells of the same at several sizes. */
export function reportGrowth(table: Growth): void {
  tell('growth', table, [
    [`${table.unit}, by ${table.of}`, ...table.sizes.map(size => size.toLocaleString('en')), 'exponent'],
    ...table.rows.map(({ what, values }) => [
      what,
      ...values.map(value => (value === null ? '–' : figure(value))),
      exponentOf(table.sizes, values)?.toFixed(2) ?? '–',
    ]),
  ])
}

/** What takes longer than its reference, by more than chance. */
const isSlower = ({ value, against }: Compared['rows'][number]) => against !== undefined && value > against * 1.05

/** Tells of several things against a reference. */
export function reportCompared(table: Compared): void {
  const { reference = '', rows } = table
  const times = ({ value, against }: Compared['rows'][number]) =>
    against === undefined ? '' : `${Number((value / against).toPrecision(2))} x`
  const slower = rows.map(row => table.doesTheSame === true && isSlower(row))
  tell('compared', { ...table, rows: rows.map((row, i) => ({ ...row, slower: slower[i] })) }, [
    ['', table.unit, reference && `to ${reference}`, ''],
    ...rows.map((row, i) => [row.what, figure(row.value), times(row), slower[i] ? 'slower' : '']),
  ])
}
