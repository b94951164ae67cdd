import { createEventHook } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, markRaw, ref, shallowRef } from 'vue'
import { sayLock } from '~~/core/edit/handles/lock'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Stage } from '~/stage/stage'
import type { Grasp, ModeWork, StageMode } from './tools/gesture'
import type { PathOptions } from './tools/path-tool'
import { PathTool } from './tools/path-tool'
import { StageInput } from './tools/stage-input'
import type { ToolNamed } from './tools/tool-id'
import type { Touched, TouchWants } from './tools/touch-tool'
import type { ToolWorld } from './tools/tool-world'
import { TouchTool } from './tools/touch-tool'
import { useHandling } from './handling'
import { useLevel } from './level'
import { useContextMenu } from './menu/context-menu'
import { useSettings } from './settings'
import { useStageSession } from './stage-session'
import { useTools } from './tools'

/** Milliseconds for which it is said what was dropped. */
const SAID_FOR = 10_000

/** Something that stays on until Escape, or another way, ends it: what is said of it while it is on, else null. */
export type Standing = { told: () => string | null; end: () => void }

/** Takes the stage in hand, and gives it to one tool after another. */
export const useModes = defineStore('modes', () => {
  const level = useLevel()
  const settings = useSettings()
  const handling = useHandling()
  const session = useStageSession()
  const tools = useTools()
  const menu = useContextMenu()
  /** What has been begun with the tool that has the stage, for saying so. */
  const work = shallowRef<Pick<ModeWork, 'what' | 'keep'> | null>(null)
  /** What was dropped last. */
  const dropped = shallowRef<{ what: string; isLast: () => boolean; resume: () => void } | null>(null)
  const isDropSaid = ref(false)
  let saying: ReturnType<typeof setTimeout> | undefined
  const standings = shallowRef<readonly Standing[]>([])
  /** Says what a press takes hold of that a feature shows over the level. */
  const graspable: ((key: string) => Grasp | null)[] = []
  const graspOf = (key: string): Grasp | null => {
    for (const answer of graspable) {
      const grasp = answer(key)
      if (grasp) return grasp
    }
    return null
  }
  const numberHook = createEventHook<[{ key: string; at: ScreenPoint }]>()

  /** Takes what may stay on, in the order in which it is said. */
  function begin(all: readonly Standing[]): void {
    standings.value = all
  }

  function attach(made: Stage, canvas: HTMLCanvasElement): void {
    session.stage = markRaw(made)
    session.input = markRaw(
      new StageInput(canvas, tools.worldOf(made), {
        onPointer: at => {
          const hit = at && level.index.raycast(made.viewAt(at).rayAt(at))
          session.pointer = hit ? { at: hit.point.toArray(), on: hit.copy ?? hit.id } : null
          if (session.panes.find(({ active }) => active)?.pane !== made.panes.activePane) session.refreshPanes()
        },
        onWork: findWork,
        onStopMode: dropOrStop,
        onPivotPlace: ({ place }) => tools.putPivotAt(place),
        // A tool that asks for numbers decides itself.
        onPress: () => !session.input?.mode && session.typed?.cancel(),
        onNumber: (key, at) => numberHook.trigger({ key, at }),
        onGrasp: graspOf,
        onMenu: menu.openOnStage,
      }),
    )
    made.onDrawn = drawn => {
      session.stats = drawn
      // These axes go along with the view.
      if (settings.kept.axes === 'view') tools.placeHandles(false)
    }
    made.setLayout(session.layout)
  }

  /** Takes what a press on such a thing does; null for what is not known to it. */
  function onGrasp(answer: (key: string) => Grasp | null): void {
    graspable.push(answer)
  }

  function detach(): void {
    endTool()
    dropped.value = null
    session.input?.dispose()
    session.stage?.dispose()
    session.reset()
    tools.kindFilter = null
    handling.editingPivot = false
    handling.lock = null
  }

  function startMode(next: StageMode): void {
    if (!session.input) return
    session.input.mode = next
    session.mode = { id: next.id, title: next.title }
    tools.placeHandles()
  }

  /** Asks for a thing or a point on the stage. @param onTouched returns whether that was all */
  function touch(title: string, wants: TouchWants, onTouched: (touched: Touched) => boolean): void {
    take(world => {
      const tool: TouchTool = new TouchTool(world, title, wants, onTouched, () => {
        // What was touched may have begun another by now.
        if (session.input?.mode === tool) stopMode()
      })
      return tool
    })
  }

  /** Draws a path on the stage; see `PathTool`. @param draws what it is a path of */
  function drawPath({ done, ...options }: PathOptions, draws: ToolNamed<'path'>['draws'] = 'arrangement'): void {
    const finish: PathOptions['done'] = (points, closed) => {
      stopMode()
      done(points, closed)
    }
    take(world => new PathTool(world, { tool: 'path', draws }, { ...options, done: finish }))
  }

  /** Gives the stage to a tool that is made for it, in place of another. */
  function take(make: (world: ToolWorld) => StageMode): void {
    stopMode()
    if (session.stage) startMode(make(tools.worldOf(session.stage)))
  }

  /** Ends what has the stage. What was begun with it is dropped, and can be brought back. */
  function stopMode(): void {
    drop()
    endTool()
  }

  function endTool(): void {
    session.input?.mode?.stop()
    if (session.input) session.input.mode = null
    session.mode = null
    work.value = null
    tools.placeHandles()
  }

  function findWork(): void {
    const now = session.input?.mode?.work?.() ?? null
    if (now?.what !== work.value?.what || (now?.keep === null) !== (work.value?.keep === null))
      work.value = now && { what: now.what, keep: now.keep }
  }

  /** Done: keeps what was begun as it is. */
  function done(): void {
    session.input?.mode?.work?.()?.keep?.()
    findWork()
  }

  /** Drops what was begun; undo, or a word, brings it back. @returns whether anything was */
  function drop(): boolean {
    const tool = session.input?.mode
    const begun = tool?.work?.()
    if (!tool || !begun || !session.mode) return false
    begun.drop()
    const after = level.undoSteps.at(-1)
    dropped.value = {
      what: begun.what,
      isLast: () => level.undoSteps.at(-1) === after,
      resume: () => {
        if (session.input?.mode !== tool) {
          stopMode()
          startMode(tool)
        }
        begun.resume()
        session.input?.hoverAgain()
        findWork()
      },
    }
    isDropSaid.value = true
    clearTimeout(saying)
    saying = setTimeout(() => (isDropSaid.value = false), SAID_FOR)
    session.input?.hoverAgain()
    findWork()
    return true
  }

  /** @returns whether something was dropped since the last change */
  function bringBack(): boolean {
    const last = dropped.value
    dropped.value = null
    if (!last?.isLast() || !session.input) return false
    last.resume()
    return true
  }

  /** Takes back the last thing done: a change, or having dropped something. */
  function undo(): void {
    if (!bringBack()) level.undo()
  }

  /** What was dropped just now, for saying how it comes back; null after a while, or when it cannot. */
  const justDropped = computed(() => (isDropSaid.value && dropped.value?.isLast() ? dropped.value.what : null))

  const undoable = computed(() =>
    dropped.value?.isLast() ? `Drop ${dropped.value.what}` : (level.undoSteps.at(-1)?.label ?? null),
  )

  /** Esc, End or the right button: drops what was begun; where nothing is, ends the tool. */
  function dropOrStop(): void {
    if (!drop()) stopMode()
  }

  /**
   * Esc: ends the drag or closes the menu; else drops what was begun; else ends every mode at once; else lets
   * everything go.
   */
  function escape(): void {
    if (session.input?.cancel()) return
    if (drop()) return
    if (menu.shown) menu.close()
    else if (told.value.length > 0) endAll()
    else level.pick([])
  }

  /** What is on that changes what a click does or what is seen, for saying so. */
  const told = computed(() => [
    ...(session.mode ? [session.mode.title] : []),
    ...(handling.editingPivot ? [handling.editsPin ? 'Moving the pin' : 'Moving the pivot, not the thing'] : []),
    ...(handling.lock ? [`The next drag is locked ${sayLock(handling.lock, settings.axes)}`] : []),
    ...(tools.kindFilter === null ? [] : [`Only ${tools.kindFilter}s can be picked`]),
    ...standings.value.flatMap(({ told: said }) => said() ?? []),
    ...(level.isShowingOnly ? ['Showing only some things'] : []),
    ...(session.cleared ? ['Clear view'] : []),
  ])

  function endAll(): void {
    handling.editingPivot = false
    handling.lock = null
    stopMode()
    tools.kindFilter = null
    session.cleared = false
    for (const standing of standings.value) standing.end()
    if (level.isShowingOnly) level.showOnly(null)
  }

  level.onTouched(() => session.input?.mode?.levelChanged?.())

  return {
    begin,
    onNumber: numberHook.on,
    onGrasp,
    graspOf,
    told,
    work,
    justDropped,
    bringBack,
    done,
    undo,
    undoable,
    attach,
    detach,
    touch,
    drawPath,
    take,
    stopMode,
    endAll,
    escape,
  }
})
