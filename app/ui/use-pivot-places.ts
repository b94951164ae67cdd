import { computed } from 'vue'
import type { PivotPlace } from '~~/core/edit/handles/pivot'
import { placeOfPivot } from '~~/core/edit/handles/pivot'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { instancesOf } from '~~/core/level/find'

const WORDS = [
  ['left', '', 'right'],
  ['bottom', '', 'top'],
  ['back', '', 'front'],
] as const

/** "bottom", "top left front", "middle". */
export function pivotPlaceName(place: PivotPlace): string {
  const words = [1, 0, 2].map(axis => WORDS[axis]![place[axis]! + 1]).filter(Boolean)
  return words.length > 0 ? words.join(' ') : 'middle'
}

/** Where the last picked thing's pivot is in its box, and whom it could be given to. */
export function usePivotPlaces() {
  const level = useLevel()
  const handling = useHandling()
  const lead = computed(() => {
    return level.selection.last === null ? null : handling.lead()
  })

  const current = computed(() => {
    if (lead.value === null) return null
    const box = level.index.extents.ownBox(lead.value)
    return box.isEmpty() ? null : placeOfPivot(box, level.view.need(lead.value).pivot)
  })

  const instances = computed(() => {
    const partId = lead.value === null ? null : level.view.need(lead.value).partId
    return partId === null ? 0 : instancesOf(level.view, partId).length
  })
  const canGive = computed(() => instances.value > 0)

  return { current, instances, canGive }
}
