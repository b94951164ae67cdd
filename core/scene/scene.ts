import type { LevelRecords } from '../level/level'
import type { Lamp } from '../level/part'
import type { Placement } from '../level/schema'
import type { Dealt } from '../arrange/scatter/deal'
import type { Solid } from '../mesh/solid'
import { isGround } from './ground'
import { LevelIndex } from './level-index'
import { LevelView } from './level-view'

/** A level as it is seen, with what finds things in it, which is made when it is first asked for. */
export type Scene = {
  readonly level: LevelView
  /** What is found in it; made when first asked for. */
  readonly index: LevelIndex
  /** Makes the index ready before it is asked for; gives way before each placement. */
  readonly prepare: () => Generator<void>
}

/** What a scene needs beside the level. */
export type SceneNeeds = {
  /** The mesh a shape names; undefined while it is not there. */
  solidOf: (shape: string) => Solid | undefined
  tagsOf: (partId: string) => readonly string[]
  lampsOf: (partId: string) => readonly Lamp[]
  /** What scatters have dealt; `level.redealt` says that it is another. */
  dealt: (id: string) => Dealt | null
}

/**
 * A level that is whole from the first: its copies find the ground they stand on, its scatters what they dealt, its
 * parts their lamps.
 *
 * @param inTime asked before each placement is looked at; throws if there is no time for it
 *
 * @example
 * import { createPlacement } from '../level/create'
 * const id = '00000000-0000-7000-8000-000000000001'
 * const lamp = createPlacement({ id, name: 'Lamp', kind: 'group', translation: [0, 3, 0] })
 * const needs = { solidOf: () => undefined, tagsOf: () => [], lampsOf: () => [], dealt: () => null }
 * const { level, index } = makeScene([lamp], {}, needs)
 * level.worldMatrix(id).elements[13] // 3
 * index.bounds().isEmpty() // true
 */
export function makeScene(
  placements: Iterable<Placement>,
  records: Partial<LevelRecords>,
  { solidOf, tagsOf, lampsOf, dealt }: SceneNeeds,
  inTime: () => void = () => {},
): Scene {
  let made: LevelIndex | undefined
  function* prepare(): Generator<void> {
    if (made) return
    const index = new LevelIndex(level, solidOf, true)
    yield* index.fill(() => {
      made = index
    })
  }
  const indexed = () => {
    for (const _ of prepare()) inTime()
    return made!
  }
  const level: LevelView = new LevelView(placements, records, {
    dealt,
    lampsOf,
    ground: point => indexed().groundAt(point, id => isGround(level, tagsOf, id)),
  })
  return {
    level,
    get index() {
      return indexed()
    },
    prepare,
  }
}
