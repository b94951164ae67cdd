import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { Matrix4, Vector3 } from 'three'
import type { Pose, ViewKind } from '~~/core/math/pose'
import type { Vec3 } from '~~/core/math/vectors'
import type { Layout } from '~/stage/panes'
import type { Stage, StageStats } from '~/stage/stage'
import type { Look, Rect } from '~/stage/view'
import type { PickFrame, Readout, TypedNumbers } from './tools/gesture'
import type { StageInput } from './tools/stage-input'
import type { ToolId, ToolNamed } from './tools/tool-id'
import { useLevel } from './level'

/**
 * A pane as the strips around the stage show it. Rectangles are in pixels from the stage's top left, angles degrees,
 * distances metres.
 */
export type PaneState = {
  pane: number
  kind: ViewKind
  look: Look
  rect: Rect
  fieldOfView: number
  clip: { near: number; far: number }
  active: boolean
  /** Where the picture of the camera that it looks through is. */
  framed: Rect | null
}

/** What has the stage to itself. */
export type StageModeShown = { id: ToolId; title: string }

/** The stage while a level is open: its panes and views, and what is shown over it. */
export const useStageSession = defineStore('stage-session', () => {
  const level = useLevel()

  const stage = shallowRef<Stage | null>(null)
  const input = shallowRef<StageInput | null>(null)
  const mode = shallowRef<StageModeShown | null>(null)
  const typed = shallowRef<TypedNumbers | null>(null)
  const readout = shallowRef<Readout | null>(null)
  /** What the pointer is on: where in the world, and of which thing or copy. */
  const pointer = shallowRef<{ at: Vec3; on: string } | null>(null)
  const stats = shallowRef<StageStats | null>(null)
  const layout = ref<Layout>('one')
  const panes = shallowRef<PaneState[]>([])
  const pickFrame = shallowRef<PickFrame | null>(null)
  /** All but the stage is put away for a while. */
  const cleared = ref(false)

  /** The tool of a name, if that has the stage. */
  function held<T extends ToolId['tool']>(tool: T): ToolNamed<T> | null {
    const id = mode.value?.id
    return id?.tool === tool ? (id as ToolNamed<T>) : null
  }

  level.onTakenAway(() => void input.value?.cancel())

  /** How levels were last looked at in this window, by their ids. */
  const poses = new Map<string, Pose>()

  /**
   * Keeps how the first pane looks, for when a level is opened again.
   *
   * @param moved what is there in that level's axes
   */
  function keepPose(levelId: string, moved = new Matrix4()): void {
    const view = stage.value?.panes.views[0]
    if (view?.kind !== 'walkaround') return
    const { eye, target, height } = view.savePose()
    poses.set(levelId, { eye: eye.applyMatrix4(moved), target: target.applyMatrix4(moved), height })
  }

  /** @returns whether there was a look to go back to */
  function takePose(levelId: string): boolean {
    const pose = poses.get(levelId)
    if (pose) stage.value?.panes.views[0]!.setPose(pose)
    poses.delete(levelId)
    return pose !== undefined
  }

  /** As it is before a stage is there. */
  function reset(): void {
    for (const each of [stage, input, mode, typed, readout, pointer, stats, pickFrame]) each.value = null
    layout.value = 'one'
    panes.value = []
    cleared.value = false
  }

  function refreshPanes(): void {
    const of = stage.value
    panes.value =
      of?.panes.shown().map(pane => {
        const { kind, look, rect, fieldOfView, clip, lens, framed } = of.panes.views[pane]!
        return {
          pane,
          kind,
          look,
          rect,
          fieldOfView,
          clip: { ...clip },
          active: pane === of.panes.activePane,
          framed: lens && framed,
        }
      }) ?? []
  }

  function setLayout(next: Layout): void {
    layout.value = next
    stage.value?.setLayout(next)
    refreshPanes()
  }

  /** From several panes to the one under the pointer, and from one to four. */
  function toggleFull(): void {
    setLayout(layout.value === 'one' ? 'four' : 'one')
  }

  /** Only this view can look from anywhere. */
  function walkaround(): void {
    if (stage.value && stage.value.view.kind !== 'walkaround') changePane({ kind: 'walkaround' })
  }

  /** Looks from one point of the world at another. */
  function lookFrom(eye: Vector3, target: Vector3): void {
    walkaround()
    stage.value?.view.lookFrom(eye, target, true)
  }

  /** Changes how a pane looks at the world; the active one if none is named. */
  function changePane(
    change: Partial<Pick<PaneState, 'kind' | 'look' | 'fieldOfView' | 'clip'>>,
    pane = stage.value?.panes.activePane ?? 0,
  ): void {
    const view = stage.value?.panes.views[pane]
    if (!view) return
    const isNewKind = change.kind !== undefined && change.kind !== view.kind
    Object.assign(view, change)
    view.setPose(view.savePose())
    // From a fixed view that looks past it, nothing of the level might be seen.
    if (isNewKind && change.kind !== 'walkaround') view.frame(level.index.bounds(), false)
    refreshPanes()
  }

  /** Shifts the view along an axis: to look at a place, or by a way. */
  function goTo(axis: 0 | 1 | 2, value: number, by: boolean): void {
    const view = stage.value?.view
    view?.shiftBy(new Vector3().setComponent(axis, by ? value : value - view.target.getComponent(axis)))
  }

  function lookAtSelection(): void {
    const { ids } = level.selection
    const box = level.index.extents.boundsOf([...ids].flatMap(id => level.view.subtree(id)))
    for (const id of ids)
      if (box.isEmpty()) box.expandByPoint(new Vector3().setFromMatrixPosition(level.view.worldMatrix(id)))
    if (box.isEmpty()) return lookAtAll()
    stage.value?.frameBox(box)
  }

  /** Also what is only shown for now. */
  function lookAtAll(): void {
    stage.value?.frameBox(stage.value.everything())
  }

  return {
    stage,
    input,
    mode,
    held,
    typed,
    readout,
    pointer,
    stats,
    layout,
    panes,
    pickFrame,
    cleared,
    keepPose,
    takePose,
    reset,
    refreshPanes,
    setLayout,
    toggleFull,
    changePane,
    walkaround,
    lookFrom,
    goTo,
    lookAtSelection,
    lookAtAll,
  }
})
