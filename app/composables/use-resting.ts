import { computed } from 'vue'
import { Vector3 } from 'three'
import { isSkewed } from '~~/core/level/tree'
import { surfaceBelow } from '~~/core/edit/snap/rest'
import { useHandling } from '~/stores/handling'
import { useLevel } from '~/stores/level'
import { useTools } from '~/stores/tools'

/** Within this of the surface a thing rests on it, in metres. */
const TOUCHING = 0.0005
const DOWN = new Vector3(0, -1, 0)

/** What the last picked thing stands on, and whether its shape is skewed by what it hangs from. */
export function useResting() {
  const level = useLevel()
  const handling = useHandling()
  const tools = useTools()

  const lead = computed(() => {
    return level.selection.last === null ? null : handling.lead()
  })

  const restsOn = computed(() => {
    const id = lead.value
    if (id === null) return null
    const own = level.view.subtree(id)
    const lowest = level.index.extents.extreme(own, DOWN)
    if (!lowest) return null
    const among = new Set(own)
    const found = surfaceBelow(level.index, lowest.middle.clone().setY(lowest.middle.y + 0.01), 100, other => !among.has(other))
    const gap = found ? lowest.middle.y - found.point.y : lowest.middle.y
    const name = found ? level.view.need(found.id).name : 'the ground plane'
    if (Math.abs(gap) < TOUCHING) return `Rests on ${name}`
    return found || gap > 0 ? `${tools.printLength(gap)} above ${name}` : null
  })

  const skewed = computed(() => {
    return lead.value !== null && level.view.need(lead.value).parentId !== null && isSkewed(level.view, lead.value)
  })

  return { restsOn, skewed }
}
