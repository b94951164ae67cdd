import Papa from 'papaparse'
import type { Level } from '../level/level'
import type { Difference } from './differences'
import { differencesOf } from './differences'
import type { Effect } from './effects'
import { EFFECTS, effectsOf, valuesApart, wayBetween } from './effects'
import { RECORD_NOUNS } from './nouns'

/** Which of two states is meant. */
export type Side = { name: string; revision: number }

/** What became of one state, as programs read it. */
export type Comparison = {
  from: Side
  to: Side
  /** How many records there are with each effect; one may have several. */
  counts: Record<Effect, number>
  differences: {
    kind: string
    id: string
    name: string
    effects: Effect[]
    /** Metres and degrees, in what it hangs from; of things that are in both. */
    moved?: number
    turned?: number
    /** Single values: the way to each, and what it was and is; of a list that is long, how much is in it. */
    values: { path: string; from: unknown; to: unknown }[]
  }[]
}

/** How many records there are with each effect. */
export function countEffects(all: Iterable<readonly Effect[]>): Record<Effect, number> {
  const counts = Object.fromEntries(EFFECTS.map(effect => [effect, 0])) as Record<Effect, number>
  for (const effects of all) for (const effect of effects) counts[effect]++
  return counts
}

/**
 * What became of one level: what is in the other and not in it, is not there any more, or is otherwise.
 *
 * @param from as it was
 * @param to as it is
 */
export function comparisonOf(from: Level, to: Level, sides: { from: Side; to: Side }): Comparison {
  const found = differencesOf(to, from)
  const told = found.map(difference => tell(to, from, difference))
  return { ...sides, counts: countEffects(told.map(({ effects }) => effects)), differences: told }
}

function tell(here: Level, there: Level, difference: Difference): Comparison['differences'][number] {
  const { record, id, name } = difference
  const effects = effectsOf(here, difference, 'since')
  const way = record === null ? wayBetween(here, there, id) : null
  return {
    kind: RECORD_NOUNS[record ?? 'placement'],
    id,
    name,
    effects,
    ...(way && effects.includes('moved') ? { moved: way.moved } : {}),
    ...(way && effects.includes('turned') ? { turned: way.turned } : {}),
    values: valuesApart(here, there, difference).map(({ path, here: to, there: from }) => ({
      path: path.join('.'),
      from: from ?? null,
      to: to ?? null,
    })),
  }
}

const COLUMNS = ['kind', 'name', 'id', 'what', 'moved (m)', 'turned (deg)', 'field', 'from', 'to']

/**
 * The same as a table (RFC 4180): a row for each value that differs, or one for what was added or is gone. Cells that a
 * spreadsheet would take for formulas are made text.
 */
export function comparisonTable({ differences }: Comparison): string {
  const rows = differences.flatMap(({ kind, name, id, effects, moved, turned, values }) =>
    (values.length === 0 ? [{ path: '', from: '', to: '' }] : values).map(({ path, from, to }) => [
      kind,
      name,
      id,
      effects.join(', '),
      moved === undefined ? '' : round(moved),
      turned === undefined ? '' : round(turned),
      path,
      cell(from),
      cell(to),
    ]),
  )
  return `${Papa.unparse([COLUMNS, ...rows], { escapeFormulae: true })}\r\n`
}

const round = (value: number) => Number(value.toFixed(6))
const cell = (value: unknown) => (typeof value === 'object' && value !== null ? JSON.stringify(value) : value)
