import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { Quaternion, Vector3 } from 'three'
import { v7 } from 'uuid'
import type { PivotPlace } from '~~/core/edit/handles/pivot'
import { pivotOf, placeInBox } from '~~/core/edit/handles/pivot'
import type { PartFrame } from '~~/core/edit/save-part'
import { boxAlong, replaceByPart, thingsAsPart } from '~~/core/edit/save-part'
import { surfaceBelow } from '~~/core/edit/snap/rest'
import { SET_DOWN_LIMITS } from '~~/core/edit/snap/set-down'
import type { Part } from '~~/core/level/part'
import { OWN_KIT } from '~~/core/level/part'
import { topmost } from '~~/core/level/tree'
import type { Quat, Vec3 } from '~~/core/math/vectors'
import { tidy } from '~~/core/units/quantity'
import { useEdits } from '~/editor/edits'
import { useKit } from '~/editor/kit'
import { CHANGED_MEANWHILE, useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'

/**
 * Where a new part has its pivot: a place of its box, the pivot of the last picked, a point that was clicked, or the
 * ground below its middle.
 */
export type PartPivot =
  | { at: 'place'; place: PivotPlace }
  | { at: 'own' }
  | { at: 'point'; point: Vec3 }
  | { at: 'ground' }

/** Making a part of what is picked. */
export const usePartMaking = defineStore('part-making', () => {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const modes = useModes()
  const session = useStageSession()
  /** What the part is to be made of; null while nobody is asked. */
  const things = shallowRef<readonly string[] | null>(null)
  const isShown = ref(false)
  const pivot = shallowRef<PartPivot>({ at: 'place', place: [0, -1, 0] })
  const axes = ref<'world' | 'last'>('last')

  function ask(): void {
    const ids = topmost(level.view, new Set(edits.picked().filter(id => !level.view.isLocked(id))))
    if (ids.length === 0) return
    things.value = ids
    pivot.value = { at: 'place', place: [0, -1, 0] }
    axes.value = ids.length === 1 ? 'last' : 'world'
    isShown.value = true
  }

  function close(): void {
    isShown.value = false
    things.value = null
  }

  /**
   * Where the part's axes would lie; null if the things are gone, or there is nothing below them where the ground is
   * asked for.
   */
  const frame = computed((): PartFrame | null => {
    const ids = things.value?.filter(id => level.view.has(id)) ?? []
    const last = ids.at(-1)
    if (last === undefined) return null
    const rotation: Quat =
      axes.value === 'world' ? [0, 0, 0, 1] : (new Quaternion().setFromRotationMatrix(turnOf(last)).toArray() as Quat)
    const origin = originOf(ids, last, rotation)
    return origin && { origin: origin.toArray().map(tidy) as Vec3, rotation }
  })

  // Where its pivot would be is marked on the stage.
  watch(
    () => (isShown.value ? frame.value : null),
    at => session.stage?.hint(at && { target: new Vector3(...at.origin) }),
  )

  const turnOf = (id: string) => level.view.worldMatrix(id).clone().extractRotation(level.view.worldMatrix(id))

  function originOf(ids: readonly string[], last: string, rotation: Quat): Vector3 | null {
    if (pivot.value.at === 'own') return pivotOf(level.view, last)
    if (pivot.value.at === 'point') return new Vector3(...pivot.value.point)
    const box = boxAlong(level.view, level.index, ids, rotation)
    if (box.isEmpty()) return pivotOf(level.view, last)
    const place = pivot.value.at === 'place' ? pivot.value.place : ([0, -1, 0] as const)
    const point = new Vector3(...placeInBox(box, place)).applyQuaternion(new Quaternion(...rotation))
    if (pivot.value.at === 'place') return point
    const inside = new Set(ids.flatMap(id => level.view.subtree(id)))
    const { above, below } = SET_DOWN_LIMITS
    return surfaceBelow(level.index, point.setY(point.y + above), above + below, id => !inside.has(id))?.point ?? null
  }

  /** Lets the person click the point, and asks on. */
  function clickPoint(): void {
    isShown.value = false
    modes.touch('Click the point that shall be the pivot', 'point', ({ point }) => {
      pivot.value = { at: 'point', point: point.toArray() }
      isShown.value = true
      return true
    })
  }

  /**
   * Makes the part, and puts an instance in the place of what it was made of if that is wanted.
   * @returns what is wrong, to be said in the form; null if it is done
   */
  async function make(given: Pick<Part, 'name' | 'kind' | 'tags'>, replaces: boolean): Promise<string | null> {
    const ids = things.value?.filter(id => level.view.has(id)) ?? []
    if (ids.length === 0 || !frame.value) return 'What it was to be made of is not there any more.'
    const at = frame.value
    const { operations, skewed } = thingsAsPart(level.view, ids, at, v7)
    if (skewed.length > 0)
      return `${skewed.slice(0, 3).join(', ')} is skewed by what it hangs from, and would look otherwise in a part. Bake it first, or take what it hangs from as well.`
    const isStill = level.remember(ids.flatMap(id => level.view.subtree(id)))
    const id = v7()
    const wrong = await kit.attempt(() =>
      kit.make({ ...given, id, kit: kit.shownKit ?? OWN_KIT, inKit: true, operations }),
    )
    if (wrong !== null) return wrong
    close()
    if (!replaces) level.notify(`${given.name} is in the kit`, ['What it was made of is as it was.'])
    else if (!isStill()) level.notify(...CHANGED_MEANWHILE)
    else {
      const instance = v7()
      if (
        level.change(
          `Make ${given.name} a part`,
          replaceByPart(level.view, ids, instance, { id, name: given.name }, at),
          undefined,
          { replaced: new Map(ids.map(each => [each, instance])) },
        )
      )
        level.pick([instance])
    }
    return null
  }

  return { things, isShown, pivot, axes, frame, ask, close, clickPoint, make }
})
