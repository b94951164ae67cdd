import { computed } from 'vue'
import { Vector3 } from 'three'
import type { Kind } from '~~/core/level/kinds'
import { KIND_NAMES } from '~~/core/level/kinds'
import { censusOf } from '~~/core/scene/census'
import { useLevel } from '~/editor/level'
import { useStageSession } from '~/editor/stage-session'

/** The level in numbers: how many of what, how large, how heavy, and what was done last. */
export function useLevelNumbers() {
  const level = useLevel()
  const session = useStageSession()

  const counts = computed(() => {
    const found = new Map<Kind, number>(KIND_NAMES.map(kind => [kind, 0]))
    for (const { kind } of level.view.placements()) found.set(kind, found.get(kind)! + 1)
    return [...found].filter(([, count]) => count > 0).map(([kind, count]) => ({ kind, count }))
  })

  const census = computed(() => censusOf(level.view))

  /** Of all that is shown, copies as well: the stage has counted them. */
  const triangles = computed(() => session.stats?.triangles ?? 0)

  const size = computed(() => {
    // The index changes along with the level.
    void level.view
    const box = level.index.bounds()
    return box.isEmpty() ? null : box.getSize(new Vector3()).toArray()
  })

  const lastChanges = computed(() =>
    level.undoSteps
      .slice(-3)
      .map(({ label }) => label)
      .reverse(),
  )

  return { counts, census, triangles, size, lastChanges }
}
