import type { CheckAnswer } from '../../core/api/schema'
import { LevelCheck } from '../../core/check/check'
import { checkOf } from '../../core/check/kinds'
import { countFindings, inOrder, nameOfThing, sayFinding } from '../../core/check/report'
import { CheckSite } from '../../core/check/site'
import { partSchema } from '../../core/level/part'
import { printLengths } from '../../core/units/quantity'
import type { Database } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { ApiError } from '../utils/api-error'
import { listKit } from './kit'
import { readWholeLevel, TooLongToDeal } from './whole-level'

/** Findings that are answered; the counts are of all. */
const MOST_FINDINGS = 5000
/** Milliseconds from the beginning after which nothing more is looked at. */
const LONGEST = 60_000

/** There is no time for more. */
class OutOfTime extends Error {}

/**
 * What is wrong with a level, by the same code as in the page. For a process of its own. What there is no time for is
 * not looked at, and the answer says how much was.
 *
 * @throws ApiError 404; 422 if a scatter cannot be worked out in time
 */
export async function checkLevelJob(db: Database, { id }: { id: string }): Promise<CheckAnswer> {
  const end = Date.now() + LONGEST
  const inTime = () => {
    if (Date.now() > end) throw new OutOfTime()
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
  let looked = 0
  let check: LevelCheck | null = null
  try {
    check = new LevelCheck(new CheckSite(level, index(), kit))
    for (const share of check.all()) {
      looked = share
      inTime()
    }
    looked = 1
  } catch (error) {
    if (error instanceof TooLongToDeal) throw new ApiError(422, 'too-much', error.message)
    if (!(error instanceof OutOfTime)) throw error
  }
  const findings = check?.findings ?? []
  const name = (thing: string) => nameOfThing({ level, kit }, thing)
  return {
    revision,
    looked,
    counts: countFindings(findings),
    findings: inOrder(findings)
      .slice(0, MOST_FINDINGS)
      .map(finding => ({
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
