import type { CheckAnswer } from '../../core/api/schema'
import { LevelCheck } from '../../core/check/check'
import { checkOf } from '../../core/check/kinds'
import { countFindings, inOrder, nameOfThing, sayFinding } from '../../core/check/report'
import type { CheckPage } from '../../core/check/page'
import { checkPage } from '../../core/check/page'
import { CheckSite } from '../../core/check/site'
import { partSchema } from '../../core/level/part'
import { printLengths } from '../../core/units/quantity'
import type { Database } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { ApiError } from '../utils/api-error'
import { listKit } from './kit'
import { readWholeLevel, TooLongToDeal } from './whole-level'

/** Findings on one page, about: when there are so many, the next begins. */
const MANY = 5000
/** Milliseconds in which the level is made ready, and in which one page of it is looked at. */
const [READYING, LOOKING] = [60_000, 20_000]

/**
 * What is wrong with a level, by the same code as in the page. For a process of its own. What there is no time for is
 * left to the next page.
 *
 * @param from the subject to begin at, as the page before has said
 * @throws ApiError 404; 422 if a scatter cannot be worked out in time
 */
export async function checkLevelJob(db: Database, { id, from }: { id: string; from?: string }): Promise<CheckAnswer> {
  const readyBy = Date.now() + READYING
  const inTime = () => {
    if (Date.now() > readyBy)
      throw new ApiError(
        422,
        'too-much',
        'To make this level ready takes longer than a minute, so it cannot be checked here.',
      )
  }
  const { whole, parts } = await inTransaction(
    db,
    async tx => ({
      whole: await readWholeLevel(tx, id, 'surfaces', inTime),
      parts: (await listKit(tx)).parts.filter(part => partSchema.safeParse(part).success),
    }),
    { ...ONE_MOMENT, accessMode: 'read only' },
  )
  const { level, index, shapes, revision } = whole
  const byId = new Map(parts.map(part => [part.id, part]))
  const kit = { part: (part: string) => byId.get(part), ids: () => byId.keys(), solidOf: shapes.solid }
  const page = pageFrom(from, () => new LevelCheck(new CheckSite(level, index(), kit)))
  const name = (thing: string) => nameOfThing({ level, kit }, thing)
  return {
    revision,
    looked: page.share,
    next: page.next,
    counts: countFindings(page.findings),
    findings: inOrder(page.findings).map(finding => ({
      of: finding.of,
      severity: checkOf(finding.of).severity,
      things: [...finding.things],
      names: finding.things.map(name),
      amount: finding.amount,
      at: finding.at,
      says: sayFinding(finding, { name, length: metres => printLengths([metres], 'm', 3) }),
      ...(finding.left === undefined ? {} : { left: finding.left }),
    })),
  }
}

function pageFrom(from: string | undefined, make: () => LevelCheck): CheckPage {
  try {
    const check = make()
    const end = Date.now() + LOOKING
    return checkPage(check, from, () => check.count >= MANY || Date.now() > end)
  } catch (error) {
    if (error instanceof TooLongToDeal) throw new ApiError(422, 'too-much', error.message)
    throw error
  }
}
