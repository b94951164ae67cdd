import isEqual from 'fast-deep-equal'
import { nounOf } from './nouns'
import type { Level } from '../level/level'
import { TABLE_OF } from '../level/level'
import type { Placement, RecordName } from '../level/schema'
import { RECORD_NAMES } from '../level/schema'

/** What has been changed of a record since both sides began with the same: here, there, or on both. */
export type Since = 'here' | 'there' | 'both'

/** A record that is not the same on two sides: here, which is worked on, and there, which it is compared with. */
export type Difference = {
  /** The kind of record and its id. */
  key: string
  /** Null for a placement. */
  record: RecordName | null
  id: string
  /** What it is called, here if it is here. */
  name: string
  is: 'only here' | 'only there' | 'on both'
  /** The fields that differ, of what is on both sides. */
  fields: readonly string[]
  /** Of these, those that were changed here alone; none where it is not known how both began. */
  mine: readonly string[]
  /** Null where it is not known how both began. */
  since: Since | null
}

/** A record, whatever its kind. */
type AnyRecord = { id: string } & Record<string, unknown>

export const keyOf = (record: RecordName | null, id: string) => `${record ?? ''}/${id}`

/** A record of a level; undefined if it is not there. */
export function recordAt(level: Level, record: RecordName | null, id: string): AnyRecord | undefined {
  return (record === null ? level.get(id) : level[TABLE_OF[record]].get(id)) as AnyRecord | undefined
}

/** All records of a kind. */
function* recordsAt(level: Level, record: RecordName | null): Generator<AnyRecord> {
  const all: Iterable<Placement | { id: string }> =
    record === null ? level.placements() : level[TABLE_OF[record]].values()
  for (const each of all) yield each as AnyRecord
}

const KINDS_OF_RECORDS: readonly (RecordName | null)[] = [null, ...RECORD_NAMES]

/**
 * What is not the same in two levels, record by record: first things, then the small records. Nothing of it has to do
 * with where copies and what hangs from others come to stand: that follows.
 *
 * @param base how both began, if that is known: it says on which side each field was changed
 *
 * @example
 * import { createPlacement } from '../level/create'
 * import { Level } from '../level/level'
 * const stall = createPlacement({ id: '00000000-0000-7000-8000-000000000001', name: 'Stall', kind: 'group' })
 * const [found] = differencesOf(new Level([stall]), new Level([{ ...stall, hidden: true }]))
 * [found.is, found.fields] // ['on both', ['hidden']]
 */
export function differencesOf(here: Level, there: Level, base: Level | null = null): Difference[] {
  const found: Difference[] = []
  for (const record of KINDS_OF_RECORDS) {
    for (const mine of recordsAt(here, record)) {
      const made = differenceOf(here, there, base, record, mine.id)
      if (made) found.push(made)
    }
    for (const { id } of recordsAt(there, record)) {
      if (recordAt(here, record, id)) continue
      const made = differenceOf(here, there, base, record, id)
      if (made) found.push(made)
    }
  }
  return found
}

/** The same of one record; null if it is the same on both sides, or on neither. */
export function differenceOf(
  here: Level,
  there: Level,
  base: Level | null,
  record: RecordName | null,
  id: string,
): Difference | null {
  const [mine, theirs] = [recordAt(here, record, id), recordAt(there, record, id)]
  const shown = mine ?? theirs
  if (!shown || mine === theirs) return null
  const fields = mine && theirs ? fieldsApart(mine, theirs) : []
  if (mine && theirs && fields.length === 0) return null
  const before = base && recordAt(base, record, id)
  const name = nounOf(mine ? here : there, record, shown)
  const made = { key: keyOf(record, id), record, id, name, fields, mine: NONE, since: null }
  if (!mine || !theirs)
    return { ...made, is: mine ? 'only here' : 'only there', since: base && sinceOfOne(shown, before, Boolean(mine)) }
  if (!base) return { ...made, is: 'on both' }
  // What both have added by themselves, such as from one file, was changed on both sides.
  if (!before) return { ...made, is: 'on both', since: 'both' }
  const changedHere = fields.filter(field => !isEqual(mine[field], before[field]))
  const changedThere = fields.filter(field => !isEqual(theirs[field], before[field]))
  const own = changedHere.filter(field => !changedThere.includes(field))
  return {
    ...made,
    is: 'on both',
    mine: own,
    since: changedThere.length === 0 ? 'here' : own.length < changedHere.length ? 'both' : 'there',
  }
}

const NONE: readonly string[] = []

/** The fields in which two records differ. */
export function fieldsApart(a: Readonly<Record<string, unknown>>, b: Readonly<Record<string, unknown>>): string[] {
  const fields = Object.keys(a)
  for (const field of Object.keys(b)) if (!(field in a)) fields.push(field)
  return fields.filter(field => a[field] !== b[field] && !isEqual(a[field], b[field]))
}

/** What became of a record that is on one side only. */
function sinceOfOne(shown: AnyRecord, before: AnyRecord | null | undefined, isHere: boolean): Since {
  const [own, other] = isHere ? (['here', 'there'] as const) : (['there', 'here'] as const)
  if (!before) return own
  return isEqual(shown, before) ? other : 'both'
}
