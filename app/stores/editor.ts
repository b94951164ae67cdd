import { defineStore } from 'pinia'
import { computed, markRaw, ref, shallowRef } from 'vue'
import { Vector3 } from 'three'
import type { Handle } from '~~/core/handles/handle'
import type { Constraint } from '~~/core/handles/lock'
import type { PivotPlace } from '~~/core/handles/pivot'
import { pivotOf, setPivots, toOwn } from '~~/core/handles/pivot'
import { gripPoint } from '~~/core/handles/size'
import { shapeKey } from '~~/core/kit/block-key'
import { previewArranged, previewMatrices } from '~~/core/level/preview'
import type { Block, Kind, Operation, Vec3 } from '~~/core/level/schema'
import { printQuantity } from '~~/core/units/quantity'
import type { ViewKind } from '~~/core/view/pose'
import type { Layout } from '../stage/panes'
import type { Stage, StageStats } from '../stage/stage'
import type { Look, Rect } from '../stage/view'
import { BlockTool } from '../tools/block-tool'
import type { DragKind } from '../tools/drags/drag'
import { gripDrag, gripsInWorld } from '../tools/drags/grip'
import { moveDrag } from '../tools/drags/move'
import { pointDrag } from '../tools/drags/pivot'
import { sizeDrag } from '../tools/drags/size'
import { turnDrag } from '../tools/drags/turn'
import type { PickFrame, PointerAt, Readout, StageMode, ToolWorld, TypedNumbers } from '../tools/gesture'
import type { ThingAt } from '../tools/pick-tool'
import { PathTool } from '../tools/path-tool'
import { PlaceTool } from '../tools/place-tool'
import { StageInput } from '../tools/stage-input'
import type { Touched } from '../tools/touch-tool'
import { TouchTool } from '../tools/touch-tool'
import { useHandling } from './handling'
import { useKit } from './kit'
import { useLevel } from './level'
import { useSettings } from './settings'

/** A pane as the strips around the stage show it. */
export type PaneState = { pane: number, kind: ViewKind, look: Look, rect: Rect, fieldOfView: number, clip: { near: number, far: number }, active: boolean }

/** The stage and what is being done on it: the tools' side of the editor, with what the strips around the stage show of it. */
export const useEditor = defineStore('editor', () => {
  const level = useLevel()
  const settings = useSettings()
  const kit = useKit()
  const handling = useHandling()

  const docAndIndex = { document: () => level.document, index: () => level.index }
  const stage = shallowRef<Stage | null>(null)
  const input = shallowRef<StageInput | null>(null)
  /** What has the stage to itself, with the part if one is being placed. */
  const mode = shallowRef<{ title: string, partId?: string, drawsBlocks?: boolean } | null>(null)
  const typed = shallowRef<TypedNumbers | null>(null)
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
        if (panes.value.find(({ active }) => active)?.pane !== made.panes.activePane) refreshPanes()
      },
      onStopMode: stopMode,
      onPivotPlace: ({ place }) => putPivotAt(place),
      onMenu: (at, things) => {
        menu.value = { at, things }
      },
    }))
    made.onDrawn = (drawn) => {
      stats.value = drawn
      // These axes go along with the view.
      if (settings.kept.axes === 'view') placeHandles(false)
    }
    made.setLayout(layout.value)
  }

  function detach(): void {
    stopMode()
    input.value?.dispose()
    stage.value?.dispose()
    input.value = null
    stage.value = null
    readout.value = null
    pointer.value = null
    menu.value = null
    typed.value = null
    kindFilter.value = null
    handling.editingPivot = false
    handling.lock = null
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
      solid: kit.solid,
      preview: operations => preview(of, operations),
      frame: () => handling.frame(of.view.directions()),
      around: handling.around,
      pivotMode: () => settings.kept.pivot,
      // A drag cannot wait for the server to bake.
      duplicateAs: () => settings.kept.duplicate.as === 'instance' ? 'instance' : 'copy',
      step: settings.stepInForce,
      gridFrame: () => handling.gridFrame(of.view.directions()),
      moveSnaps: inverted => handling.moveSnaps(of.view.directions(), inverted),
      isGround: handling.isGround,
      lock: () => handling.lock,
      setLock: (lock) => {
        handling.lock = lock
      },
      vertexOn: () => handling.vertexOn,
      holdVertex: (held) => {
        handling.vertexHeld = held
      },
      startDrag: (handle, from, source) => startDrag(of, handle, source),
      ask: (numbers) => {
        typed.value = numbers
      },
      gestureDone: () => input.value?.gestureDone(),
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
  function placeHandles(draw = true): void {
    const of = stage.value
    if (!of) return
    of.handles.choose(mode.value ? 'none' : handling.editingPivot ? handling.editsPin ? 'move' : 'pivot' : handling.choice)
    of.handles.place(mode.value ? null : handling.frame(of.view.directions()))
    of.handles.setPin(settings.kept.pivot === 'pin' && handling.pin ? new Vector3(...handling.pin) : null)
    // Grips stand where the copies do, whatever the view; a frame that is drawn needs no new ones.
    const arranged = !draw ? undefined : mode.value || handling.editingPivot ? null : handling.pickedRule()
    if (arranged !== undefined) of.handles.setGrips(arranged ? gripsInWorld(docAndIndex, arranged.id, arranged.rule) : [])
    of.handles.setTurnStep(settings.kept.steps.turn.size)
    if (draw) of.requestDraw()
  }

  /** Shows on the stage and in the ledger what operations would do; null ends that. */
  function preview(of: Stage, operations: readonly Operation[] | null): void {
    level.preview(operations)
    const fresh = new Map<string, string>()
    const blocks = new Map<string, Pick<Block, 'shape' | 'color'>>(level.document.blocks)
    for (const operation of operations ?? []) {
      if (operation.do === 'put-block') blocks.set(operation.id, { ...blocks.get(operation.id), ...operation.fields } as Block)
      if (operation.do !== 'put' || level.document.has(operation.id)) continue
      const { partId, blockId } = operation.fields
      const block = blockId ? blocks.get(blockId) : undefined
      const shape = block ? shapeKey(block) : partId
      if (shape) fresh.set(operation.id, shape)
    }
    of.preview(operations ? { matrices: previewMatrices(level.document, operations), fresh, arranged: previewArranged(level.document, operations), written: new Set(operations.map(({ id }) => id)) } : undefined)
  }

  /** What a press on a handle starts, or one with a lock or on a point to be snapped anywhere on the stage. */
  function startDrag(of: Stage, handle: Handle | null, source?: Vector3): DragKind | null {
    const last = handling.lead()
    const world = toolWorld(of)
    if (handle?.do === 'grip') return last === null ? null : gripDrag(world, last, handle.index)
    const frame = handling.frame(of.view.directions())
    if (!frame || last === null) return null
    const move = handle?.do === 'move' ? handle : { kind: 'view' as const }
    if (handling.editsPin) return pinDrag(world, frame, move)
    if (handling.editingPivot) {
      return pointDrag(world, frame, move, 'Move the pivot of', point => setPivots(level.document, [last], toOwn(level.document, last, point)))
    }
    if (source || handle?.do === 'move') return moveDrag(world, frame, move, source)
    const kind = handle?.do ?? handling.choice
    if (kind === 'turn') return turnDrag(world, frame, handle?.do === 'turn' ? handle.axis : 1)
    if (kind === 'size') return frame.box && sizeDrag(world, frame, handle?.do === 'size' ? handle.grip : [1, 1, 1])
    return moveDrag(world, frame, move)
  }

  function pinDrag(world: ToolWorld, frame: NonNullable<ReturnType<typeof handling.frame>>, move: Parameters<typeof pointDrag>[2]): DragKind {
    const before = handling.pin
    const put = (point: Vector3) => {
      handling.pin = point.toArray()
      placeHandles()
      return []
    }
    const restore = () => {
      handling.pin = before
    }
    return { ...pointDrag(world, frame, move, 'Move the pin', put), restore }
  }

  /** Puts the last picked thing's pivot to one of the 27 places of its box; the thing stays where it is. */
  function putPivotAt(place: PivotPlace): void {
    const last = handling.lead()
    const box = stage.value && handling.frame(stage.value.view.directions())?.box
    if (last === null || !box) return
    const own = toOwn(level.document, last, gripPoint(box, place)).map(value => Math.round(value * 1e6) / 1e6 + 0) as Vec3
    level.change(`Move the pivot of ${level.document.need(last).name}`.slice(0, 200), setPivots(level.document, [last], own))
  }

  function togglePivotEditing(): void {
    const last = handling.lead()
    if (settings.kept.pivot === 'pin' && handling.pin === null && last !== null) handling.pin = pivotOf(level.document, last).toArray()
    handling.editingPivot = !handling.editingPivot && last !== null
    if (handling.editingPivot && handling.choice === 'none') handling.choice = 'move'
    placeHandles()
  }

  function startMode(next: StageMode, about: { partId?: string, drawsBlocks?: boolean } = {}): void {
    if (!input.value) return
    input.value.mode = next
    mode.value = { title: next.title, ...about }
    placeHandles()
  }

  function startPlacing(partId: string): void {
    stopMode()
    const part = kit.part(partId)
    const solid = kit.solid(partId)
    if (!stage.value || !part || !solid) return
    const make = () => ({ fields: { kind: 'part' as const, partId }, before: [] })
    startMode(new PlaceTool(toolWorld(stage.value), { name: part.name, solid, pivot: part.pivot, make }), { partId })
  }

  function startDrawingBlocks(): void {
    stopMode()
    if (!stage.value) return
    startMode(new BlockTool(toolWorld(stage.value), () => ({ shape: { ...settings.kept.block.shapes[settings.kept.block.kind] }, color: settings.kept.block.color })), { drawsBlocks: true })
  }

  /** Asks for a thing or a point on the stage. @param onTouched returns whether that was all */
  function touch(title: string, wants: 'thing' | 'point', onTouched: (touched: Touched) => boolean): void {
    stopMode()
    if (stage.value) startMode(new TouchTool(toolWorld(stage.value), title, wants, onTouched, stopMode))
  }

  /** Draws a path on the stage; see `PathTool`. */
  function drawPath(leaveOut: ReadonlySet<string>, show: (points: Vec3[] | null, closed: boolean) => void, done: (points: Vec3[], closed: boolean) => void): void {
    stopMode()
    if (!stage.value) return
    startMode(new PathTool(toolWorld(stage.value), leaveOut, show, (points, closed) => {
      stopMode()
      done(points, closed)
    }))
  }

  function stopMode(): void {
    input.value?.mode?.stop()
    if (input.value) input.value.mode = null
    mode.value = null
    placeHandles()
  }

  /** Esc: ends the drag or closes the menu; else ends every mode at once; else lets everything go. */
  function escape(): void {
    if (input.value?.cancel()) return
    const tool = input.value?.mode
    if (tool instanceof BlockTool && tool.cancelDrawing()) return
    if (menu.value) menu.value = null
    else if (modes.value.length > 0) endModes()
    else level.pick([])
  }

  /** What is on that changes what a click does or what is seen, for saying so. */
  const modes = computed(() => [
    ...mode.value ? [mode.value.title] : [],
    ...handling.editingPivot ? [handling.editsPin ? 'Moving the pin' : 'Moving the pivot, not the thing'] : [],
    ...handling.lock ? [`The next drag is locked ${lockName(handling.lock)}`] : [],
    ...kindFilter.value === null ? [] : [`Only ${kindFilter.value}s can be picked`],
    ...level.isShowingOnly ? ['Showing only some things'] : [],
    ...cleared.value ? ['Clear view'] : [],
  ])

  function endModes(): void {
    handling.editingPivot = false
    handling.lock = null
    stopMode()
    kindFilter.value = null
    cleared.value = false
    if (level.isShowingOnly) level.showOnly(null)
  }

  function showPreview(operations: readonly Operation[] | null): void {
    if (stage.value) preview(stage.value, operations)
  }

  function refreshPanes(): void {
    const of = stage.value
    panes.value = of?.panes.shown().map((pane) => {
      const { kind, look, rect, fieldOfView, clip } = of.panes.views[pane]!
      return { pane, kind, look, rect, fieldOfView, clip: { ...clip }, active: pane === of.panes.activePane }
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
  function changePane(change: Partial<Pick<PaneState, 'kind' | 'look' | 'fieldOfView' | 'clip'>>, pane = stage.value?.panes.activePane ?? 0): void {
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
    const box = level.index.boundsOf([...ids].flatMap(id => level.document.subtree(id)))
    for (const id of ids) if (box.isEmpty()) box.expandByPoint(new Vector3().setFromMatrixPosition(level.document.worldMatrix(id)))
    if (box.isEmpty()) return lookAtAll()
    stage.value?.frameBox(box)
  }

  function lookAtAll(): void {
    stage.value?.frameBox(level.index.bounds())
  }

  return {
    stage, input, mode, typed, readout, pointer, stats, layout, panes, pickFrame, menu, kindFilter, cleared, modes,
    attach, detach, printLength, placeHandles, preview: showPreview, putPivotAt, togglePivotEditing, startPlacing, startDrawingBlocks, drawPath, touch, stopMode, escape, refreshPanes, setLayout, toggleFull, changePane, goTo, lookAtSelection, lookAtAll, canPick,
  }
})

function lockName(lock: Constraint): string {
  if (lock.kind === 'view') return 'to nothing'
  return lock.kind === 'axis' ? `to ${'XYZ'[lock.axis]}` : `out of ${'XYZ'[lock.axis]}`
}
