import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import { Vector3 } from 'three'
import type { MirrorPlane } from '~~/core/edit/mirror'
import { axesAcross, bySide, mirrorPlacements } from '~~/core/edit/mirror'
import { directionsOf } from '~~/core/edit/handles/axes'
import { removeWithChildren } from '~~/core/level/edit'
import type { Operation } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import { useModes } from './modes'
import { useStageSession } from './stage-session'
import { useEdits } from './edits'
import { useHandling } from './handling'
import { useLevel } from './level'
import { useRepeating } from './repeating'

/** Mirroring what is picked across a plane: itself, a duplicate of it, or live. */
export const useMirroring = defineStore('mirroring', () => {
  const level = useLevel()
  const modes = useModes()
  const session = useStageSession()
  const edits = useEdits()
  const handling = useHandling()
  const repeating = useRepeating()

  const as = ref<'live' | 'instance' | 'copy' | 'move'>('live')
  /** Of the axes in force: the one at right angles to the plane. */
  const axis = ref<0 | 1 | 2>(0)
  const through = ref<'pivot' | 'middle' | 'world' | 'touched'>('pivot')
  const side = ref<'both' | 'plus' | 'minus'>('both')
  const point = shallowRef<Vec3 | null>(null)

  const possible = computed(() => {
    return level.selection.ids.size > 0 && repeating.movable().length > 0 && (through.value !== 'touched' || point.value !== null)
  })

  function plane(): MirrorPlane | null {
    const view = session.stage?.view
    const pivot = handling.pivot()
    if (!view || !pivot) return null
    const normal = directionsOf(handling.axes(view.directions()))[axis.value].toArray() as Vec3
    const box = level.index.extents.boundsOf(repeating.movable().flatMap(id => level.view.subtree(id)))
    const places: Record<typeof through.value, Vec3 | null> = {
      pivot: pivot.toArray(),
      middle: box.isEmpty() ? pivot.toArray() : box.getCenter(new Vector3()).toArray(),
      world: [0, 0, 0],
      touched: point.value,
    }
    const at = places[through.value]
    return at && { point: at, normal }
  }

  function touchPoint(): void {
    modes.touch('Touch a point of the plane', 'point', (touched) => {
      point.value = touched.point.toArray()
      return true
    })
  }

  function mirrorPicked(): void {
    const across = plane()
    const picked = repeating.movable()
    if (!across || picked.length === 0) return
    const sides = side.value === 'both' ? null : bySide(level.view, picked, across, side.value === 'plus' ? 1 : -1)
    const ids = sides?.on ?? picked
    if (ids.length === 0) {
      level.tell('Nothing to mirror', ['Nothing that is picked stands on the source side of the plane. Choose the other side, or all that is picked.'])
      return
    }
    const replaced = removeWithChildren(level.view, sides?.off ?? [])
    if (as.value === 'live') makeLive(ids, across, replaced)
    else {
      const { operations, skewed, tops } = mirrorPlacements(level.view, ids, across, as.value === 'move' ? null : as.value, v7)
      if (edits.restructure(edits.label('Mirror', ids), { operations: [...replaced, ...operations], skewed })) level.pick(tops)
    }
  }

  function makeLive(ids: string[], across: MirrorPlane, replaced: Operation[]): void {
    const id = v7()
    const made = repeating.arrange({ rule: { type: 'mirror', axis: 0 } }, id, { ids, at: across.point, rotation: axesAcross(across) })
    if (made && edits.restructure(edits.label('Mirror', ids), { ...made, operations: [...replaced, ...made.operations] })) level.pick([id])
  }

  return { as, axis, through, side, point, possible, touchPoint, mirrorPicked }
})
