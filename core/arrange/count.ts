import { hasCorners, layoutOf, mostOnPath, pathCount } from './path-layout'
import type { FanRule, LineRule, Rule } from './rule'

/** No rule makes more copies than this. */
export const MOST_COPIES = 1_000_000

/** How many copies a line really has: as many as fit, where they are to fit. */
export function lineCount({ count, measure, along, least }: LineRule): number {
  // A hair's breadth of slack, so that 3 m holds four at 1 m.
  return measure === 'fit' ? Math.floor(Math.hypot(...along) / least + 1e-9) + 1 : count
}

/** How many copies stand in a row of a fan. */
export function fanRowCount({ first, counts, given, radius, depth }: FanRule, row: number): number {
  if (counts === 'given') return given[Math.min(row, given.length - 1)]!
  if (counts === 'same' || first === 1 || radius === 0) return first
  return Math.max(1, Math.floor((first - 1) * Math.abs((radius + row * depth) / radius) + 1e-9) + 1)
}

/** The index of the first copy of each row of a fan. */
export function fanRowStarts(rule: FanRule): number[] {
  const starts: number[] = []
  for (let row = 0, start = 0; row < rule.rows; row++) {
    starts.push(start)
    start += fanRowCount(rule, row)
  }
  return starts
}

/** How many copies a rule makes. A mirror makes one, beside what it mirrors. */
export function countOf(rule: Rule): number {
  switch (rule.rule) {
    case 'line': return lineCount(rule)
    case 'grid': return rule.counts[0] * rule.counts[1] * rule.counts[2]
    case 'ring': return rule.count
    case 'path': return pathCount(rule)
    case 'mirror': return 1
    case 'fan': {
      if (rule.counts === 'same') return rule.rows * rule.first
      let sum = 0
      for (let row = 0; row < rule.rows && sum <= MOST_COPIES; row++) sum += fanRowCount(rule, row)
      return sum
    }
  }
}

/** No fewer than a rule makes, without laying out a path: what is too many has to be refused before it is worked out. */
export function mostOf(rule: Rule): number {
  return rule.rule === 'path' ? mostOnPath(rule) : countOf(rule)
}

/** Row, column and layer of a copy. What stands in one line has columns alone. */
export type CopyPlace = readonly [row: number, column: number, layer: number]

/** What a copy is of its row, or of its path. */
export type CopyPart = 'first' | 'middle' | 'last' | 'corner'

/** The layer of corners: they are beside the stretches, by the number of their point. */
const CORNER = 1

const cornersOf = (rule: Rule) => rule.rule === 'path' ? layoutOf(rule).corners : []

/** The place of each copy of a rule by its index, and the other way round. */
export class CopyPlaces {
  readonly count: number
  /** Of each row of a fan, or stretch of a path with corners: the index of its first copy. */
  private readonly starts: readonly number[]
  /** Copies that are no corners. */
  private readonly pieces: number
  private readonly isCornered: boolean

  constructor(private readonly rule: Rule) {
    this.count = countOf(rule)
    this.pieces = this.count - cornersOf(rule).length
    this.isCornered = rule.rule === 'path' && hasCorners(rule)
    this.starts = rule.rule === 'fan' ? fanRowStarts(rule) : rule.rule === 'path' ? layoutOf(rule).runs.map(run => run.first) : []
  }

  at(index: number): CopyPlace {
    const { rule, starts, pieces } = this
    if (index >= pieces) return [cornersOf(rule)[index - pieces]!, 0, CORNER]
    if (rule.rule === 'grid') {
      const [columns, layers] = rule.counts
      return [Math.floor(index / (columns * layers)), index % columns, Math.floor(index / columns) % layers]
    }
    if (rule.rule !== 'fan' && !this.isCornered) return [0, index, 0]
    let [low, high] = [0, starts.length - 1]
    while (low < high) {
      const middle = Math.ceil((low + high) / 2)
      if (starts[middle]! <= index) low = middle
      else high = middle - 1
    }
    return [low, index - starts[low]!, 0]
  }

  /** Whether a copy begins or ends its row or path, or stands at a corner of one. */
  partAt(index: number): CopyPart {
    const [, column] = this.at(index)
    if (index >= this.pieces) return 'corner'
    if (!this.isCornered) return column === 0 ? 'first' : index === this.count - 1 || this.at(index + 1)[1] === 0 ? 'last' : 'middle'
    // Round a closed path there is no end.
    if (this.rule.rule === 'path' && this.rule.closed) return 'middle'
    return index === 0 ? 'first' : index === this.pieces - 1 ? 'last' : 'middle'
  }

  /**
   * Names a copy so that it stays the same one when counts change: its place in the line or ring; its row, column and layer; its
   * stretch, place in that and whether it is a corner.
   */
  keyAt(index: number): string {
    const [row, column, layer] = this.at(index)
    if (this.rule.rule === 'grid' || this.isCornered) return `${row},${column},${layer}`
    return this.rule.rule === 'fan' ? `${row},${column}` : String(index)
  }

  /** @returns the copy of that name; null if there is none at present */
  indexOf(key: string): number | null {
    if (!/^\d+(,\d+){0,2}$/.test(key)) return null
    const { rule } = this
    const [a = 0, b = 0, c = 0] = key.split(',').map(Number)
    let index = a
    if (rule.rule === 'grid') {
      const [columns, layers, rows] = rule.counts
      if (a >= rows || b >= columns || c >= layers) return null
      index = (a * layers + c) * columns + b
    }
    else if (rule.rule === 'fan') {
      if (a >= rule.rows || b >= fanRowCount(rule, a)) return null
      index = this.starts[a]! + b
    }
    else if (this.isCornered) {
      index = c === CORNER ? this.pieces + cornersOf(rule).indexOf(a) : (this.starts[a] ?? this.count) + b
    }
    return index < this.count && this.keyAt(index) === key ? index : null
  }
}
