import { v7 } from 'uuid'
import type { Copied } from '~~/core/level/copied'
import { puttingRelations } from '~~/core/edit/copied'
import type { Operation } from '~~/core/level/schema'
import { asItStands } from '~~/core/relate/as-it-stands'
import { carriedWith } from '~~/core/relate/carried'
import { changedRelations } from '~~/core/relate/changed'
import type { Unmet } from '~~/core/relate/keep'
import { withRelations } from '~~/core/relate/keep'
import { inTheWayOf, relationsRefused } from '~~/core/relate/refuse'
import { sayOf, sayUnmet } from '~~/core/relate/say'
import { keptShownAnew } from '~~/core/relate/shown-anew'
import type { Offer } from '~~/core/relate/definition'
import type { LevelIndex } from '~~/core/scene/level-index'
import type { LevelView } from '~~/core/scene/level-view'
import { counted } from '~~/core/units/plural'

/** What is needed of the level to let what is kept in it follow. */
type Needs = {
  view: () => LevelView
  index: () => LevelIndex
  /**
   * Does a change with nothing added, and then `after`: at once, or when it is answered where something is asked first.
   *
   * @returns whether it is done
   */
  doAsGiven: (label: string, operations: Operation[], joins?: string, after?: () => void) => boolean
  /** Whether copies stay kept to what the first are kept to. */
  areCopiesKept: () => boolean
  /** Says something that others may take the place of, unless something louder is said. */
  sayMildly: (title: string, lines: string[]) => void
}

/** Of more it is said how many there are. */
const LINES = 3

/** Lets what is kept follow changes: in the change itself, or right after it where it has to be seen first. */
export class KeptChanges {
  /** Relations of which it was said that they do not hold. */
  private told: ReadonlySet<string> = new Set()

  constructor(private readonly needs: Needs) {}

  /**
   * Does a change and all that follows from it. False, with a notice, if it cannot be done.
   *
   * @param joins undone together with what was done right before under this name
   * @param copied what it copies and replaces
   */
  change(label: string, wanted: Operation[], joins?: string, copied?: Copied): boolean {
    const { view, index, doAsGiven, areCopiesKept } = this.needs
    const carried = carriedWith(view(), wanted, copied ?? {})
    const asked = [...wanted, ...carried.operations]
    const { operations, unmet } = withRelations(view(), index(), asked)
    // What is released stays what it was.
    const outside = copied?.replaced || areCopiesKept() ? carried.ofCopies : []
    const isMore = copied !== undefined || keptShownAnew(view(), operations).length > 0
    const together = isMore ? (joins ?? v7()) : joins
    const letGo = this.letGoBy(asked, operations)
    return doAsGiven(label, operations, together, () => {
      const anew = keptShownAnew(view(), operations)
      const shown = anew.length > 0 ? this.follow(label, anew, together) : []
      const lost = this.keepAsTheyStand(label, [...carried.amongCopies, ...outside], carried.ofReplaced, together)
      const left = carried.ofCopies.length - outside.length
      this.tell([
        ...new Set([...this.unmetLines(unmet), ...shown]),
        ...letGo,
        ...(lost > 0
          ? [`${counted(lost, 'link')} made no sense any more, and ${lost === 1 ? 'is' : 'are'} dropped.`]
          : []),
        ...(left > 0
          ? [
              `${counted(left, 'link')} to other things ${left === 1 ? 'was' : 'were'} not copied, as chosen under Duplicate.`,
            ]
          : []),
      ])
    })
  }

  /** Lets what is kept follow things that show something else now: only once they do it is known where that is. */
  followShown(label: string, ids: readonly string[]): void {
    this.tell(this.follow(label, ids))
  }

  /** @returns what could not be, in words */
  private follow(label: string, ids: readonly string[], joins?: string): string[] {
    const { view, index, doAsGiven } = this.needs
    const there = ids.filter(id => view().has(id))
    const { operations, unmet } = withRelations(view(), index(), [], there)
    doAsGiven(label, operations, joins)
    return this.unmetLines(unmet)
  }

  /** Keeps copies, and what came into the place of something, as they stand. @returns how many make no sense there */
  private keepAsTheyStand(
    label: string,
    ofCopies: readonly Offer[],
    ofReplaced: readonly Offer[],
    joins?: string,
  ): number {
    const { view, index, doAsGiven } = this.needs
    const kept = ofCopies.flatMap(offer => asItStands(view(), index(), offer) ?? [])
    // Several things may have become one, of which only so much can be kept.
    const replaced: Offer[] = []
    for (const offer of ofReplaced) {
      const next = asItStands(view(), index(), offer)
      if (
        next
        && !inTheWayOf(view(), index(), next, replaced)
        && relationsRefused(view(), puttingRelations([...replaced, next], v7)) === null
      )
        replaced.push(next)
    }
    const puts = puttingRelations([...kept, ...replaced], v7)
    if (puts.length > 0) doAsGiven(label, withRelations(view(), index(), puts).operations, joins)
    return ofCopies.length - kept.length + ofReplaced.length - replaced.length
  }

  /** What is let go of though nobody asked for that, in words; not what is of something that goes itself. */
  private letGoBy(asked: readonly Operation[], operations: readonly Operation[]): string[] {
    const level = this.needs.view()
    const wanted = new Set(asked.map(({ id }) => id))
    const gone = new Set(asked.flatMap(({ do: what, id }) => (what === 'remove' ? [id] : [])))
    const found = changedRelations(level, operations).filter(
      ({ before, after }) => after === null && !wanted.has(before.id) && !gone.has(before.held),
    )
    return [...found.slice(0, LINES).map(({ before }) => `Let go: ${sayOf(level, before)}.`), ...more(found.length)]
  }

  /** What is kept and could not be, in words, once for as long as it is so. */
  private unmetLines(unmet: readonly Unmet[]): string[] {
    const fresh = unmet.filter(({ relation }) => !this.told.has(relation.id))
    this.told = new Set(unmet.map(({ relation }) => relation.id))
    if (fresh.length === 0) return []
    return [
      ...fresh.slice(0, LINES).map(each => sayUnmet(this.needs.view(), each)),
      ...more(fresh.length),
      'What could not be stayed where it was.',
    ]
  }

  private tell(lines: string[]): void {
    if (lines.length > 0) this.needs.sayMildly('Not all stays as it was kept', lines)
  }
}

const more = (count: number) => (count > LINES ? [`and ${count - LINES} more`] : [])
