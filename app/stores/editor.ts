import { defineStore } from 'pinia'
import { markRaw, ref, shallowRef } from 'vue'
import type { Vec3 } from '~~/core/level/schema'
import { printQuantity } from '~~/core/units/quantity'
import type { Stage, StageStats } from '../stage/stage'
import type { Readout, ToolWorld } from '../tools/gesture'
import { handlesOrigin } from '../tools/move-tool'
import { PlaceTool } from '../tools/place-tool'
import { StageInput } from '../tools/stage-input'
import { useKit } from './kit'
import { useLevel } from './level'
import { useSettings } from './settings'

export type HandleChoice = 'none' | 'move'

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

  function attach(made: Stage, canvas: HTMLCanvasElement): void {
    stage.value = markRaw(made)
    const world = toolWorld(made)
    input.value = markRaw(new StageInput(canvas, world, {
      onPointer: (at) => {
        pointer.value = at && (level.index.raycast(made.view.rayAt(at))?.point.toArray() ?? null)
      },
      onStopPlacing: stopPlacing,
    }))
    made.onDrawn = (drawn) => {
      stats.value = drawn
    }
  }

  function detach(): void {
    stopPlacing()
    input.value?.dispose()
    stage.value?.dispose()
    input.value = null
    stage.value = null
    readout.value = null
    pointer.value = null
  }

  function toolWorld(of: Stage): ToolWorld {
    return {
      stage: of,
      document: () => level.document,
      index: () => level.index,
      selection: () => level.selection,
      pick: level.pick,
      togglePick: level.togglePick,
      change: level.change,
      gridStep: settings.stepInForce,
      turnStep: () => settings.kept.turnStep,
      isLeaning: () => settings.kept.leaning,
      printLength,
      say: (said) => {
        readout.value = said
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

  /** Esc: the drag, else the placing, else the handles, else the selection. */
  function escape(): void {
    if (input.value?.cancel()) return
    if (placingPartId.value !== null) stopPlacing()
    else level.pick([])
  }

  function lookAtSelection(): void {
    const { ids } = level.selection
    if (ids.size === 0) return lookAtAll()
    stage.value?.frameBox(level.index.boundsOf([...ids].flatMap(id => level.document.subtree(id))))
  }

  function lookAtAll(): void {
    stage.value?.frameBox(level.index.bounds())
  }

  return {
    stage, input, handleChoice, placingPartId, readout, pointer, stats,
    attach, detach, printLength, placeHandles, startPlacing, stopPlacing, escape, lookAtSelection, lookAtAll,
  }
})
