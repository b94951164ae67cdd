import { markRaw } from 'vue'
import type { Dealt } from '~~/core/arrange/scatter/deal'
import type { LevelRecords } from '~~/core/level/level'
import type { Placement } from '~~/core/level/schema'
import type { LevelIndex } from '~~/core/scene/level-index'
import type { LevelView } from '~~/core/scene/level-view'
import { makeScene } from '~~/core/scene/scene'
import { useKit } from './kit'

/** A level as this page sees it, by its kit; with what its scatters have dealt, for whoever deals them. */
export type PageScene = { level: LevelView, index: LevelIndex, dealt: Map<string, Dealt> }

export function pageScene(placements: Iterable<Placement>, records: Partial<LevelRecords>): PageScene {
  const kit = useKit()
  const dealt = new Map<string, Dealt>()
  const { level, index } = makeScene(placements, records, {
    solidOf: kit.solid, tagsOf: kit.tagsOf, lampsOf: partId => kit.part(partId)?.lamps ?? [], dealt: id => dealt.get(id) ?? null,
  })
  return { level: markRaw(level), index: markRaw(index), dealt }
}
