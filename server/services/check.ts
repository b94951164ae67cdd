import type { CheckAnswer } from '../../core/api/schema'
import { LevelCheck } from '../../core/check/check'
import { checkOf } from '../../core/check/kinds'
import { countFindings, inOrder, nameOfThing, sayFinding } from '../../core/check/report'
import { CheckSite } from '../../core/check/site'
import { isGround } from '../../core/scene/ground'
import { LevelIndex } from '../../core/scene/level-index'
import { printLengths } from '../../core/units/quantity'
import type { Database } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { ApiError } from '../utils/api-error'
import { listKit } from './kit'
import { readWholeLevel, TooLongToDeal } from './whole-level'

/** Findings that are answered; the counts are of all. */
const MOST_FINDINGS = 5000
/** Milliseconds in which a level has to be checked. */
const LONGEST = 90_000

/**
 * What is wrong with a level, by the same code as in the page. For a thread of its own.
 *
 * @throws ApiError 404; 422 if it cannot be worked out in time
 */
export async function checkLevelJob(db: Database, { id }: { id: string }): Promise<CheckAnswer> {
  const { whole, parts } = await inTransaction(db, async tx => ({ whole: await readWholeLevel(db, tx, id, true), parts: (await listKit(tx)).parts }), { ...ONE_MOMENT, accessMode: 'read only' })
  const { level, solidOf, tagsOf, revision } = whole
  const byId = new Map(parts.map(part => [part.id, part]))
  const kit = { part: (part: string) => byId.get(part), ids: () => byId.keys(), solidOf }
  const end = Date.now() + LONGEST
  try {
    const index = new LevelIndex(level, solidOf, placement => isGround(level, tagsOf, placement))
    const check = new LevelCheck(new CheckSite(level, index, kit))
    for (const share of check.all()) if (Date.now() > end) throw new ApiError(422, 'too-much', `This takes too long to check: after a minute and a half ${Math.floor(share * 100)} % was done.`)
    const { findings } = check
    const name = (thing: string) => nameOfThing({ level, kit }, thing)
    return {
      revision, counts: countFindings(findings),
      findings: inOrder(findings).slice(0, MOST_FINDINGS).map(finding => ({
        of: finding.of, severity: checkOf(finding.of).severity, things: [...finding.things], names: finding.things.map(name), amount: finding.amount, at: finding.at,
        says: sayFinding(finding, { name, length: metres => printLengths([metres], 'm', 3) }), ...finding.left === undefined ? {} : { left: finding.left },
      })),
    }
  }
  catch (error) {
    if (error instanceof TooLongToDeal) throw new ApiError(422, 'too-much', error.message)
    throw error
  }
}
