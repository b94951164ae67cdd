import { defineStore } from 'pinia'
import { isArrangement } from '~~/core/arrange/arrangement'
import type { Rule } from '~~/core/arrange/rules'
import { computed, ref, shallowRef } from 'vue'
import { Quaternion, Vector3 } from 'three'
import { axesOf, localAxes, UP } from '~~/core/edit/handles/axes'
import type { ViewDirections } from '~~/core/edit/handles/axis-drag'
import type { HandleChoice, HandleFrame } from '~~/core/edit/handles/handle'
import type { Constraint } from '~~/core/edit/handles/lock'
import { pivotOf, pivotPoint } from '~~/core/edit/handles/pivot'
import type { Quat, Vec3 } from '~~/core/math/vectors'
import type { GridFrame } from '~~/core/edit/snap/grid'
import { WORLD_GRID } from '~~/core/edit/snap/grid'
import type { MoveSnaps } from '~~/core/edit/snap/snap-move'
import { surfaceBelow } from '~~/core/edit/snap/rest'
import { sizeBoxFor } from './tools/drags/size'
import { useKit } from './kit'
import { useLevel } from './level'
import { useSettings } from './settings'

/** What the surface under a thing is looked for within, in metres above and below its pivot. */
const SURFACE_REACH = { above: 1, below: 10 }

/** How things are taken hold of: the handles, whose axes they follow, around which point, and what they snap to. */
export const useHandling = defineStore('handling', () => {
  const level = useLevel()
  const settings = useSettings()
  const kit = useKit()

  const choice = ref<HandleChoice>('move')
  /** P: the handles move the pivot, or the pin, instead of the thing. */
  const editingPivot = ref(false)
  /** Along what the next drag is locked, or the one going on. */
  const lock = shallowRef<Constraint | null>(null)
  /** N is held. */
  const vertexHeld = ref(false)
  const borrowed = shallowRef<{ axes: Quat; from: string } | null>(null)
  const pin = shallowRef<Vec3 | null>(null)
  const vertexOn = computed(() => settings.kept.vertex || vertexHeld.value)
  const editsPin = computed(() => editingPivot.value && settings.kept.pivot === 'pin')

  /** The last picked thing, if the handles can stand on it. */
  function lead(): string | null {
    const { last } = level.selection
    return last !== null && level.view.has(last) && !level.view.isLocked(last) ? last : null
  }

  const movable = () => [...level.selection.ids].filter(id => level.view.has(id) && !level.view.isLocked(id))

  function axes(view: ViewDirections): Quaternion {
    const last = lead()
    if (last === null) return new Quaternion()
    return axesOf(settings.kept.axes, level.view, last, {
      view,
      surface: surfaceUnder(last),
      borrowed: borrowed.value?.axes ?? [0, 0, 0, 1],
    })
  }

  function surfaceUnder(id: string): Vector3 {
    if (settings.kept.axes !== 'surface') return UP.clone()
    const own = new Set(level.view.subtree(id))
    const pivot = pivotOf(level.view, id)
    const { above, below } = SURFACE_REACH
    return (
      surfaceBelow(level.index, pivot.setY(pivot.y + above), above + below, other => !own.has(other))?.normal
      ?? UP.clone()
    )
  }

  /** The point in force, in the world. */
  function pivot(): Vector3 | null {
    const last = lead()
    if (last === null) return null
    return pivotPoint(
      settings.kept.pivot,
      level.view,
      level.index,
      movable(),
      last,
      pin.value ?? pivotOf(level.view, last).toArray(),
    )
  }

  /** Where the handles stand; null if nothing is picked or it is locked. */
  function frame(view: ViewDirections): HandleFrame | null {
    const last = lead()
    if (last === null || choice.value === 'none') return null
    if (editingPivot.value) {
      const origin = editsPin.value ? new Vector3(...(pin.value ?? pivot()!.toArray())) : pivotOf(level.view, last)
      return {
        origin,
        axes: axes(view),
        box: editsPin.value ? null : sizeBoxFor(docAndIndex, [last], localAxes(level.view, last)),
      }
    }
    const around = axes(view)
    const boxed = choice.value === 'size' || choice.value === 'all'
    return { origin: pivot()!, axes: around, box: boxed ? sizeBoxFor(docAndIndex, movable(), around) : null }
  }

  const docAndIndex = { level: () => level.view, index: () => level.index }

  /** The point things turn and grow around; null: each its own. */
  function around(): Vec3 | null {
    return settings.kept.pivot === 'each' ? null : (pivot()?.toArray() ?? null)
  }

  /** Where the grid's lines run: along the world, or along the axes in force from where those are at home. */
  function gridFrame(view: ViewDirections): GridFrame {
    const last = lead()
    if (settings.kept.gridAlong === 'world' || settings.kept.axes === 'world' || last === null) return WORLD_GRID
    const { parentId } = level.view.need(last)
    const origin = settings.kept.axes === 'parent' && parentId !== null ? pivotOf(level.view, parentId) : new Vector3()
    return { axes: axes(view), origin }
  }

  function moveSnaps(view: ViewDirections, inverted: boolean): MoveSnaps {
    const { abut, hugOn, hug, snapPoints } = settings.kept
    return {
      grid: { ...settings.stepInForce('grid', inverted), frame: gridFrame(view) },
      abut: abut && !inverted,
      vertex: vertexOn.value ? new Set(snapPoints) : null,
      hug: hugOn ? hug : null,
      sockets: settings.kept.sockets && !inverted ? kit.socketsOf : null,
    }
  }

  /** The one picked thing if it is an arrangement, with its rule. */
  function pickedRule(): { id: string; rule: Rule } | null {
    const last = level.selection.ids.size === 1 ? lead() : null
    const own = last === null ? null : level.view.need(last).own
    return last !== null && own && isArrangement(own) && level.view.arrangementIds.has(last)
      ? { id: last, rule: own.rule }
      : null
  }

  return {
    pickedRule,
    choice,
    editingPivot,
    editsPin,
    lock,
    vertexHeld,
    vertexOn,
    borrowed,
    pin,
    lead,
    movable,
    axes,
    pivot,
    frame,
    around,
    gridFrame,
    moveSnaps,
  }
})
