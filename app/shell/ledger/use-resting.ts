import { computed } from 'vue'
import { Vector3 } from 'three'
import { isSkewed } from '~~/core/level/tree'
import { surfaceBelow } from '~~/core/edit/snap/rest'
import type { Operation } from '~~/core/level/schema'
import { previewMatrices } from '~~/core/scene/preview'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { useTools } from '~/editor/tools'

/** Nearer to the surface than this a thing is on it, in metres. */
const TOUCHING = 0.001
/** Crumbs of single precision. */
const CRUMB = 1e-6
const [DOWN, UP] = [new Vector3(0, -1, 0), new Vector3(0, 1, 0)]

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
    // What many copies stand on is not one thing.
    if (id === null || level.view.arrangementIds.has(id)) return null
    const shift = shiftOf(id)
    if (!shift) return null
    const own = level.view.subtree(id)
    const [lowest, highest] = [level.index.extents.extreme(own, DOWN), level.index.extents.extreme(own, UP)]
    if (!lowest || !highest) return null
    const among = new Set(own)
    const foot = lowest.middle.add(shift)
    // What it is sunk into is looked for up to its middle; what is higher is above it.
    const from = foot.clone().setY((foot.y + highest.reach + shift.y) / 2 + TOUCHING)
    const found = surfaceBelow(level.index, from, 100, other => !among.has(other))
    const gap = found ? foot.y - found.point.y : foot.y
    const name = found ? level.view.need(found.id).name : 'the ground plane'
    if (Math.abs(gap) < TOUCHING - CRUMB) return `Rests on ${name}`
    if (gap < 0) return `${tools.printLength(-gap)} ${found ? 'into' : 'below'} ${name}`
    return `${tools.printLength(gap)} above ${name}`
  })

  /** How far a drag that goes on has moved a thing so far; null if it does more than that. */
  function shiftOf(id: string): Vector3 | null {
    if (level.previewed.size === 0) return new Vector3()
    const above = [...level.previewed].filter(([each]) => level.view.has(each) && level.view.isWithin(id, each))
    const moved = previewMatrices(
      level.view,
      above.map(([each, fields]): Operation => ({ do: 'put', id: each, fields })),
    ).get(id)
    if (!moved) return new Vector3()
    const now = level.view.worldMatrix(id)
    const isMove = now.elements.every((value, i) => i >= 12 || Math.abs(value - moved.elements[i]!) < CRUMB)
    return isMove ? new Vector3().setFromMatrixPosition(moved).sub(new Vector3().setFromMatrixPosition(now)) : null
  }

  const skewed = computed(() => {
    return lead.value !== null && level.view.need(lead.value).parentId !== null && isSkewed(level.view, lead.value)
  })

  return { restsOn, skewed }
}
