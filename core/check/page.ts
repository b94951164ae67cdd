import { copyOf } from '../scene/copy-id'
import type { Finding, LevelCheck } from './check'

/** What was found in one part of a level. */
export type CheckPage = {
  findings: Finding[]
  /** The subject that the next page begins with; null after the last. */
  next: string | null
  /** How much is done with it and all before it, from 0 to 1. */
  share: number
}

/**
 * Looks at a level from one of its subjects on, in the order of their ids, as far as there is time. All pages together
 * have each finding once: what things on two pages have with each other is on the page of the one that comes first. So
 * nothing has to be known of the pages before, however the level was read.
 *
 * @param from a subject, also one that is there no more; the first when left out
 * @param isEnough asked now and then, but not before a few subjects were looked at
 */
export function checkPage(check: LevelCheck, from: string | undefined, isEnough: () => boolean): CheckPage {
  const subjects = check.subjects().sort()
  const isOver = (id: string) => from !== undefined && id < from
  const rest = subjects.filter(id => !isOver(id))
  let looked = 0
  for (const share of check.lookThrough(rest)) {
    looked = Math.round(share * rest.length)
    if (looked > 0 && isEnough()) break
    looked = rest.length
  }
  return {
    findings: check.findings.filter(
      ({ things }) => !things.some(thing => isOver(copyOf(thing)?.arrangementId ?? thing)),
    ),
    next: rest[looked] ?? null,
    share: rest.length === 0 ? 1 : 1 - (rest.length - looked) / subjects.length,
  }
}
