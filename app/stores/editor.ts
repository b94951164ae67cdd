import { defineStore } from 'pinia'
import { computed, markRaw, ref, shallowRef } from 'vue'
import { Vector3 } from 'three'
import type { Kind, Vec3 } from '~~/core/level/schema'
import { printQuantity } from '~~/core/units/quantity'
import type { ViewKind } from '~~/core/view/pose'
import type { Layout, Stage, StageStats } from '../stage/stage'
import type { Look, Rect } from '../stage/view'
import type { PickFrame, PointerAt, Readout, ToolWorld } from '../tools/gesture'
import { handlesOrigin } from '../tools/move-tool'
import type { ThingAt } from '../tools/pick-tool'
import { PlaceTool } from '../tools/place-tool'
import { StageInput } from '../tools/stage-input'
import { useKit } from './kit'
import { useLevel } from './level'
import { useSettings } from './settings'

export type HandleChoice = 'none' | 'move'

/** A pane as the strips around the stage show it. */
export type PaneState = { pane: number, kind: ViewKind, look: Look, rect: Rect, fieldOfView: number, clip: { near: number, far: number }, active: boolean }

/** The stage and what is being done on it: the tools' side of the editor, with what the strips around the stage show of it. */
export const useEditor = defineStore('editor', () => {
  const level = useLevel()
  const settings = useSettings()
  const kit = useKit()

  const stage = shallowRef<Stage | null>(null)
  const input = shallowRef<StageInput | null>(null)
  const handleChoice = ref<HandleChoice>('move')
  const placingPartId = ref<string | null>(null)
  const readout = shallowRef<Readout | null>(null)
  const pointer = shallowRef<Vec3 | null>(null)
  const stats = shallowRef<StageStats | null>(null)
  const layout = ref<Layout>('one')
  const panes = shallowRef<PaneState[]>([])
  const pickFrame = shallowRef<PickFrame | null>(null)
  const menu = shallowRef<{ at: PointerAt, things: ThingAt[] } | null>(null)
  /** Only things of this kind can be picked; null for all. */
  const kindFilter = ref<Kind | null>(null)
  const cleared = ref(false)

  function attach(made: Stage, canvas: HTMLCanvasElement): void {
    stage.value = markRaw(made)
    input.value = markRaw(new StageInput(canvas, toolWorld(made), {
      onPointer: (at) => {
        pointer.value = at && (level.index.raycast(made.viewAt(at).rayAt(at))?.point.toArray() ?? null)
        if (panes.value.find(({ active }) => active)?.pane !== made.activePane) refreshPanes()
      },
      onStopPlacing: stopPlacing,
      onMenu: (at, things) => {
        menu.value = { at, things }
      },
    }))
    made.onDrawn = (drawn) => {
      stats.value = drawn
    }
    made.setLayout(layout.value)
  }

  function detach(): void {
    stopPlacing()
    input.value?.dispose()
    stage.value?.dispose()
    input.value = null
    stage.value = null
    readout.value = null
    pointer.value = null
    menu.value = null
    kindFilter.value = null
    layout.value = 'one'
  }

  function canPick(id: string): boolean {
    return !level.document.isLocked(id) && (kindFilter.value === null || level.document.need(id).kind === kindFilter.value)
  }

  function toolWorld(of: Stage): ToolWorld {
    return {
      stage: of,
      document: () => level.document,
      index: () => level.index,
      selection: () => level.selection,
      pick: level.pick,
      change: level.change,
      gridStep: settings.stepInForce,
      turnStep: () => settings.kept.turnStep,
      isLeaning: () => settings.kept.leaning,
      printLength,
      say: (said) => {
        readout.value = said
      },
      canPick,
      marksPickable: () => settings.kept.marksPickable || (kindFilter.value !== null && kindFilter.value !== 'part'),
      showFrame: (frame) => {
        pickFrame.value = frame
      },
      flySpeed: () => settings.kept.flySpeeds[level.summary?.id ?? ''] ?? 6,
      setFlySpeed: (speed) => {
        if (level.summary) settings.kept.flySpeeds[level.summary.id] = speed
      },
    }
  }

  /** A length in the unit worked in, with the unit. */
  function printLength(metres: number, signed = false): string {
    const { unit } = settings.kept
    const text = printQuantity(metres, 'length', unit, settings.decimals)
    return `${signed && metres >= 0 ? '+' : ''}${text} ${unit}`
  }

  /** Shows the handles where the selection stands, or none. */
  function placeHandles(): void {
    const shown = handleChoice.value === 'move' && placingPartId.value === null
    stage.value?.handles.place(shown ? handlesOrigin(level.document, level.selection) : null)
    stage.value?.requestDraw()
  }

  function startPlacing(partId: string): void {
    stopPlacing()
    const part = kit.part(partId)
    const solid = kit.solid(partId)
    if (!stage.value || !input.value || !part || !solid) return
    input.value.placing = new PlaceTool(toolWorld(stage.value), part, solid)
    placingPartId.value = partId
  }

  function stopPlacing(): void {
    input.value?.placing?.stop()
    if (input.value) input.value.placing = null
    placingPartId.value = null
    placeHandles()
  }

  /** Esc: ends the drag or closes the menu; else ends every mode at once; else lets everything go. */
  function escape(): void {
    if (input.value?.cancel()) return
    if (menu.value) menu.value = null
    else if (modes.value.length > 0) endModes()
    else level.pick([])
  }

  /** What is on that changes what a click does or what is seen, for saying so. */
  const modes = computed(() => [
    ...placingPartId.value === null ? [] : [`Placing ${kit.part(placingPartId.value)?.name ?? ''}`],
    ...kindFilter.value === null ? [] : [`Only ${kindFilter.value}s can be picked`],
    ...level.isShowingOnly ? ['Showing only some things'] : [],
    ...cleared.value ? ['Clear view'] : [],
  ])

  function endModes(): void {
    stopPlacing()
    kindFilter.value = null
    cleared.value = false
    if (level.isShowingOnly) level.showOnly(null)
  }

  function refreshPanes(): void {
    const of = stage.value
    panes.value = of?.shownPanes().map((pane) => {
      const { kind, look, rect, fieldOfView, clip } = of.views[pane]!
      return { pane, kind, look, rect, fieldOfView, clip: { ...clip }, active: pane === of.activePane }
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

  /** Changes how a pane looks at the world; the active one if none is named. */
  function changePane(change: Partial<Pick<PaneState, 'kind' | 'look' | 'fieldOfView' | 'clip'>>, pane = stage.value?.activePane ?? 0): void {
    const view = stage.value?.views[pane]
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
    const box = level.index.boundsOf([...ids].flatMap(id => level.document.subtree(id)))
    for (const id of ids) if (box.isEmpty()) box.expandByPoint(new Vector3().setFromMatrixPosition(level.document.worldMatrix(id)))
    if (box.isEmpty()) return lookAtAll()
    stage.value?.frameBox(box)
  }

  function lookAtAll(): void {
    stage.value?.frameBox(level.index.bounds())
  }

  return {
    stage, input, handleChoice, placingPartId, readout, pointer, stats, layout, panes, pickFrame, menu, kindFilter, cleared, modes,
    attach, detach, printLength, placeHandles, startPlacing, stopPlacing, escape, refreshPanes, setLayout, toggleFull, changePane, goTo, lookAtSelection, lookAtAll, canPick,
  }
})
