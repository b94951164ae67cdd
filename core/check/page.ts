import { copyOf } from '../scene/copy-id'
import type { Finding, LevelCheck } from './check'

/** What was found in one part of a level, and the subject to go on from; null if it was the last. */
export type CheckPage = { findings: Finding[]; next: number | null; subjects: number }

/**
 * Looks at a level from one of its subjects on, as far as there is time. All pages together have each finding once:
 * what things on two pages have with each other is on the page of the one that comes first.
 *
 * @param isEnough asked now and then, but not before a few subjects were looked at
 * @throws RangeError if there are not so many subjects
 */
export function checkPage(check: LevelCheck, from: number, isEnough: () => boolean): CheckPage {
  const subjects = check.subjects()
  if (from > subjects.length) throw new RangeError(`there are ${subjects.length} subjects`)
  const rest = subjects.slice(from)
  let looked = 0
  for (const share of check.lookThrough(rest)) {
    looked = Math.round(share * rest.length)
    if (looked > 0 && isEnough()) break
    looked = rest.length
  }
  const before = new Set(subjects.slice(0, from))
  const isOurs = ({ things }: Finding) => !things.some(thing => before.has(copyOf(thing)?.arrangementId ?? thing))
  return {
    findings: check.findings.filter(isOurs),
    next: from + looked < subjects.length ? from + looked : null,
    subjects: subjects.length,
  }
}
