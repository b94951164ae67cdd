import type { Dealt } from '~~/core/arrange/scatter/deal'
import type { Applied } from '~~/core/level/change'
import { applyChange } from '~~/core/level/change'
import type { LevelRecords } from '~~/core/level/level'
import type { Part } from '~~/core/level/part'
import type { Rebased, Unanswered } from '~~/core/level/rebase'
import { rebase } from '~~/core/level/rebase'
import type { Change, Operation, Placement } from '~~/core/level/schema'
import { affectedBy } from '~~/core/scene/affected'
import { isGround } from '~~/core/scene/ground'
import type { Elsewhere } from '~~/core/scene/elsewhere'
import { LevelIndex } from '~~/core/scene/level-index'
import type { LevelView } from '~~/core/scene/level-view'
import type { Scene } from '~~/core/scene/scene'
import { makeScene } from '~~/core/scene/scene'
import { pause } from '~/workers/pause'
import type { DealingParts } from './dealing/dealing'
import { Dealing } from './dealing/dealing'

/** Milliseconds of work between two times that it gives way. */
const SLICE = 30

/** What a session has to know of the kit. */
export type SessionParts = DealingParts & { part: (id: string) => Part | undefined }

export type SessionEvents = {
  /** Operations were done to the level, in this order: whoever keeps one of its own does the same to that. */
  onApplied: (operations: readonly Operation[]) => void
  /** Something else is known of a scatter. */
  onKnown: (id: string) => void
  /** A scatter has other copies now. */
  onRedealt: (id: string) => void
  onFailed: (error: unknown) => void
}

/**
 * One level, open in this page: as it is seen, what is found in it, and what its scatters were dealt. Nothing of it is
 * reactive, and nothing of it outlives it: another level is another session.
 */
export class Session {
  readonly level: LevelView
  readonly dealing: Dealing
  private readonly scene: Scene
  private readonly dealt = new Map<string, Dealt>()

  constructor(
    placements: Iterable<Placement>,
    records: Partial<LevelRecords>,
    private readonly parts: SessionParts,
    private readonly events: SessionEvents,
  ) {
    this.scene = sceneOf(placements, records, parts, this.dealt)
    const { level } = this.scene
    this.level = level
    this.dealing = new Dealing(level, parts, {
      onKnown: events.onKnown,
      onFailed: events.onFailed,
      onDealt: (id, dealt) => {
        this.dealt.set(id, dealt)
        level.redealt(id)
        events.onRedealt(id)
      },
    })
  }

  /** What is found in it. */
  get index(): LevelIndex {
    return this.scene.index
  }

  /** Makes ready what is found in it, some at a time, so that the page goes on meanwhile. */
  async prepare(): Promise<void> {
    await inSlices(this.scene.prepare())
  }

  /** What finds things in a level around this one, made some at a time. @param where it lies as seen from this one */
  async indexAround(view: LevelView, where: Elsewhere): Promise<LevelIndex> {
    const index = new LevelIndex(view, this.parts.shapes.solid, true, where)
    await inSlices(index.fill())
    return index
  }

  /** Applies a change, all of it or nothing. @throws ChangeError */
  apply(operations: readonly Operation[]): Applied {
    const applied = applyChange(this.level, operations)
    this.events.onApplied(operations)
    return applied
  }

  /** Puts others' changes under those made here; see `rebase` of the core. */
  rebase(ours: readonly Unanswered[], theirs: readonly Change[], lost: ReadonlySet<string>): Rebased {
    const rebased = rebase(this.level, ours, theirs, lost)
    this.events.onApplied(rebased.applied)
    return rebased
  }

  /** Brings all up to date that hangs on what was written. @returns everything that looks otherwise now */
  follow(written: ReadonlySet<string>): Set<string> {
    const touched = affectedBy(this.level, written, id => isGround(this.level, this.parts.tagsOf, id))
    this.index.update(touched)
    this.dealing.afterTouching(touched)
    return touched
  }

  /**
   * Another level as this page sees it, with its scatters dealt: to be shown around this one. Those that cannot be
   * dealt show nothing.
   */
  async around(placements: Iterable<Placement>, records: Partial<LevelRecords>): Promise<LevelView> {
    const dealt = new Map<string, Dealt>()
    const { level } = sceneOf(placements, records, this.parts, dealt)
    await this.dealing.dealFor(level, (id, its) => dealt.set(id, its), this.events.onFailed)
    return level
  }

  /** Ends what works for it. */
  close(): void {
    this.dealing.end()
  }
}

async function inSlices(work: Generator<void>): Promise<void> {
  let begun = performance.now()
  for (const _ of work) {
    if (performance.now() - begun < SLICE) continue
    await pause()
    begun = performance.now()
  }
}

function sceneOf(
  placements: Iterable<Placement>,
  records: Partial<LevelRecords>,
  { shapes, tagsOf, part }: SessionParts,
  dealt: ReadonlyMap<string, Dealt>,
) {
  return makeScene(placements, records, {
    solidOf: shapes.solid,
    tagsOf,
    lampsOf: id => part(id)?.lamps ?? [],
    dealt: id => dealt.get(id) ?? null,
  })
}
