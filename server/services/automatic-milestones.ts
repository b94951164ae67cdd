import { and, desc, eq, gt, ne } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { WayMade } from '../../core/api/milestones'
import type { Change } from '../../core/level/schema'
import { asName } from '../../core/units/text'
import type { Transaction } from '../db/client'
import { levels, milestones } from '../db/schema'
import { pictureAt } from './picture-at'

/** Operations of a change from which it counts as large. */
const LARGE = 300
/** Milliseconds between two that are made by themselves before large changes. */
const BETWEEN = 10 * 60_000

/** What of a level is asked for it. */
export const automaticColumns = {
  revision: levels.revision,
  changedAt: levels.changedAt,
  placementCount: levels.placementCount,
  partId: levels.partId,
}
type Level = Pick<typeof levels.$inferSelect, keyof typeof automaticColumns>

const dayOf = (moment: Date) => moment.toISOString().slice(0, 10)
const inWords = new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeZone: 'UTC' })

/**
 * Makes a milestone of a level as it is before changes, in the same transaction: before the first of a day, and before
 * large ones. It is a row alone; what the level was like is written down later.
 *
 * @param level as it was before them
 */
export async function markBefore(
  tx: Transaction,
  levelId: string,
  level: Level,
  fresh: readonly Change[],
  now = new Date(),
): Promise<void> {
  // What is in a workshop is kept with its part, and of an empty level nothing can be lost.
  if (level.partId !== null || level.placementCount === 0) return
  const large = fresh.find(({ operations }) => operations.length >= LARGE)
  const made: WayMade | null = dayOf(level.changedAt) < dayOf(now) ? 'day' : large ? 'large' : null
  if (made === null) return
  const [last] = await tx
    .select({ revision: milestones.revision, made: milestones.made, madeAt: milestones.madeAt })
    .from(milestones)
    .where(and(eq(milestones.levelId, levelId), gt(milestones.madeAt, new Date(now.getTime() - BETWEEN))))
    .orderBy(desc(milestones.revision))
    .limit(1)
  if (last && (made === 'large' || last.revision === level.revision)) return
  await tx.insert(milestones).values({
    id: v7(),
    levelId,
    revision: level.revision,
    name: asName(made === 'day' ? `Before ${inWords.format(now)}` : `Before “${large!.label}”`),
    about: '',
    made,
    by: fresh[0]!.author,
    madeAt: now,
    ...(await pictureAt(tx, levelId, level.revision)),
  })
}

/** Whether a milestone was made by itself. */
export const isAutomatic = ne(milestones.made, 'by hand')
