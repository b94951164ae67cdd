import { createEventHook } from '@vueuse/core'
import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import type { Dealt } from '~~/core/arrange/scatter/deal'
import { placeInWords } from '~~/core/level/field-words'
import { asName } from '~~/core/units/text'
import { ref, shallowRef, triggerRef } from 'vue'
import type { LevelSummary } from '~~/core/api/schema'
import { withEndsKept } from '~~/core/measure/keep-ends'
import { CopyError, withExceptions } from '~~/core/scene/copies'
import { copyOf } from '~~/core/scene/copy-id'
import { affectedBy } from '~~/core/scene/affected'
import { withAims } from '~~/core/edit/aim'
import { applyChange, ChangeError, conflicts, footprintOf, recordIn } from '~~/core/level/change'
import { TABLE_OF } from '~~/core/level/level'
import { isGround } from '~~/core/scene/ground'
import type { Unreadable } from '~~/core/level/read'
import type { Unanswered } from '~~/core/level/rebase'
import { rebase } from '~~/core/level/rebase'
import type { Change, JournalEntry, Operation, Placement } from '~~/core/level/schema'
import { mergeOperations } from '~~/core/level/merge'
import { api, ServerAway } from '~/api/client'
import type { Refusal, SaveState } from './saving/change-queue'
import { ChangeQueue } from './saving/change-queue'
import { keepQueue, leftQueues } from './saving/kept-queues'
import type { Step } from './saving/kept-steps'
import { StepKeeper } from './saving/kept-steps'
import type { SetApart } from './saving/set-apart'
import { dropApart, keepApart, listApart } from './saving/set-apart'
import { claimWindow } from './saving/window-name'
import type { Selection } from '~/stage/outlined'
import { guarded } from '~/errors/page-errors'
import { Newest } from './newest'
import { useDoor } from './door'
import { useKit } from './kit'
import type { PageScene } from './page-scene'
import { pageScene } from './page-scene'
import { useSettings } from './settings'
import { notKept } from '~/errors/or-nothing'

const noneKept = (error: unknown): never[] => {
  notKept(error)
  return []
}

/** Something that did not go as the person meant, for the notice over the stage. */
export type Notice = { title: string, lines: string[], again?: { label: string, run: () => void } }

/** Title and lines for what was worked out before waiting for the server and does not fit any more. */
export const CHANGED_MEANWHILE: [string, string[]] = ['It was changed meanwhile', ['What was to be done was worked out before that. Nothing was done; try again.']]

/** What a window that is gone left is sent so often before the level is opened; a change that the server fails on is set apart by then. */
const LEFTOVER_TRIES = 4

/** The level being worked on. Every write to its view goes through `change`, `undo`, `redo` or what others did. */
export const useLevel = defineStore('level', () => {
  const kit = useKit()
  const settings = useSettings()

  const summary = shallowRef<LevelSummary | null>(null)
  /** The level with its copies. It is not reactive itself: whoever reads it here is told by `triggerRef` after every change. */
  let scene = pageScene([], {})
  const view = shallowRef(scene.level)
  const index = shallowRef(scene.index)
  const selection = shallowRef<Selection>({ ids: new Set(), last: null })
  const saving = shallowRef<SaveState>({ kind: 'saved', revision: 0 })
  const notice = shallowRef<Notice | null>(null)
  const undoSteps = shallowRef<readonly Step[]>([])
  const redoSteps = shallowRef<readonly Step[]>([])
  /** Changes that the server did not take, until somebody decides about them. */
  const apart = shallowRef<readonly SetApart[]>([])
  const door = useDoor()
  const isShowingOnly = ref(false)
  /** What a drag or a form would do, before it is done. */
  const previewed = shallowRef<ReadonlyMap<string, Partial<Placement>>>(new Map())
  /** Of a workshop, the part and all parts it is in: none of them can be put into it. */
  const around = shallowRef<ReadonlySet<string>>(new Set())
  const touchedHook = createEventHook<[Set<string>]>()
  const reopenHook = createEventHook()
  const releaseHook = createEventHook()
  /** By change id, in the order made. */
  const unanswered = new Map<string, Unanswered>()
  let queue: ChangeQueue | undefined
  let keeper: StepKeeper | undefined
  const openings = new Newest()

  function show(next: PageScene): void {
    scene = next
    view.value = next.level
    index.value = next.index
  }

  /**
   * Opens a level: first sends what an earlier visit left on this device, then reads the level.
   * @throws ApiFailure if there is no such level; ServerAway
   */
  async function open(id: string): Promise<void> {
    close()
    const isNewest = openings.next()
    const window = await claimWindow()
    await sendLeftovers(id, window)
    const steps = new StepKeeper(id, window)
    const [{ unreadable, content: { placements, ...records }, summary: rest }, kept, setApart] = await Promise.all([
      api.level(id), steps.load().catch((error: unknown) => {
        notKept(error)
        return { undo: [], redo: [] }
      }), listApart(id).catch(noneKept), kit.load(),
    ])
    await kit.loadMissing([...new Set(placements.flatMap(({ partId }) => partId ?? []))])
    // Left again, or another level opened, while this one was loading.
    if (!isNewest()) return
    show(pageScene(placements, records))
    summary.value = rest
    queue = makeQueue(id, window, rest.revision)
    keeper = steps
    undoSteps.value = kept.undo
    redoSteps.value = kept.redo
    apart.value = setApart
    saving.value = { kind: 'saved', revision: rest.revision }
    triggerRef(view)
    tellUnreadable(unreadable)
  }

  function tellUnreadable(unreadable: readonly Unreadable[]): void {
    const lines = unreadable.slice(0, 5).map(({ name, field, message }) => `${name}: its ${placeInWords(field.split('.'))} ${message}. What hangs below it is shown; delete it, or give it a new rule by Repeat.`)
    if (lines.length > 0) tell('Not all of this can be shown as it was saved', [...lines, ...unreadable.length > 5 ? [`and ${unreadable.length - 5} more`] : []])
  }

  function close(): void {
    openings.callOff()
    queue?.close()
    queue = undefined
    keeper = undefined
    apart.value = []
    summary.value = null
    // Nothing holds on to what was open.
    show(pageScene([], {}))
    selection.value = { ids: new Set(), last: null }
    undoSteps.value = []
    redoSteps.value = []
    unanswered.clear()
    isShowingOnly.value = false
    notice.value = null
  }

  function makeQueue(levelId: string, window: string, baseRevision: number): ChangeQueue {
    return new ChangeQueue({
      send: async (request) => {
        const answer = await api.saveChanges(levelId, request)
        for (const { id } of answer.applied) unanswered.delete(id)
        return answer
      },
      keep: content => keepQueue(levelId, window, content),
      onState: (state) => {
        saving.value = state
      },
      giveWay: (others, lost, refused) => giveWay(levelId, others, lost, refused),
    }, { baseRevision, changes: [] })
  }

  function giveWay(levelId: string, others: JournalEntry[], lost: Change[], refused: Refusal | null): ReadonlySet<string> {
    const given = refused ? [refused.change] : lost
    const { kept, dropped, touched } = rebase(view.value, [...unanswered.values()], others, new Set(given.map(({ id }) => id)))
    unanswered.clear()
    for (const entry of kept) unanswered.set(entry.change.id, entry)
    const ids = new Set(dropped.map(({ id }) => id))
    setSteps(undoSteps.value.filter(step => !ids.has(step.id)), redoSteps.value.filter(step => !ids.has(step.id)))
    afterWriting(touched)
    if (refused) setApart(levelId, dropped, refused)
    else if (dropped.length > 0) tellDropped(dropped, others)
    return ids
  }

  /** Changes made before a reload or in a window that is gone. Nothing is loaded yet, so what is lost only has to be told. */
  async function sendLeftovers(levelId: string, window: string): Promise<void> {
    for (const left of await leftQueues(levelId, window).catch(noneKept)) {
      let reason = ''
      const leftover = new ChangeQueue({
        send: request => api.saveChanges(levelId, request),
        keep: content => keepQueue(levelId, left.window, content),
        onState: (state) => {
          if (state.kind === 'away') reason = state.reason
        },
        giveWay: (others, lost, refused) => {
          if (refused) setApart(levelId, [refused.change], refused)
          else tellDropped(lost, others)
          return new Set((refused ? [refused.change] : lost).map(({ id }) => id))
        },
      }, left.content)
      for (let tries = 0; !leftover.isEmpty && tries < LEFTOVER_TRIES; tries++) await leftover.settled()
      leftover.close()
      if (!leftover.isEmpty) throw new ServerAway(reason)
    }
  }

  /** Puts changes that the server does not take where they are in nobody's way. @param dropped the refused one, and what stood on it */
  function setApart(levelId: string, dropped: readonly Change[], { change: refused, reason }: Refusal): void {
    const set = dropped.map((each): SetApart => ({ change: each, reason: each.id === refused.id ? reason : `It builds on "${refused.label}", which was set apart.`, at: new Date().toISOString() }))
    for (const each of set) void keepApart(levelId, each).catch(notKept)
    apart.value = [...apart.value, ...set]
    tell(set.length === 1 ? 'A change could not be saved' : `${set.length} changes could not be saved`, [
      ...set.map(each => `"${each.change.label}": ${each.reason}`), 'Set apart beside the save state, where it can be tried again, kept as a file or dropped. All else goes on.',
    ])
  }

  /** Does a change that was set apart once more, as things are now. */
  function tryApart(each: SetApart): void {
    if (change(each.change.label, each.change.operations)) removeApart(each)
  }

  function removeApart(each: SetApart): void {
    apart.value = apart.value.filter(other => other !== each)
    if (summary.value) void dropApart(summary.value.id, each).catch(notKept)
  }

  function setSteps(undo: readonly Step[], redo: readonly Step[]): void {
    undoSteps.value = undo
    redoSteps.value = redo
    keeper?.keep({ undo, redo })
  }

  /** Says what happened to whose change, and offers to do the dropped ones again on top of the others'. */
  function tellDropped(dropped: Change[], others: JournalEntry[]): void {
    const lines = dropped.map((mine) => {
      const footprint = footprintOf([mine])
      const theirs = others.findLast(other => conflicts(footprintOf([other]), footprint))
      if (theirs) return `Your "${mine.label}" was taken back: ${theirs.author} did "${theirs.label}" on the same thing first (change ${theirs.revision}), which was kept.`
      return `Your "${mine.label}" was taken back: it built on one that was.`
    })
    tell(dropped.length === 1 ? 'A change could not be kept' : `${dropped.length} changes could not be kept`, lines, {
      label: 'Do mine again',
      run: () => {
        for (const mine of dropped) if (!change(mine.label, mine.operations)) return
      },
    })
  }

  /**
   * Applies a change, remembers how to undo it and sends it. False, with a notice, if it cannot be applied.
   *
   * @param joins changes of the same name right after each other are undone together, such as the ticks of a wheel
   */
  function change(label: string, operations: Operation[], joins?: string): boolean {
    return changeAsGiven(label, withAims(view.value, operations), joins)
  }

  /** The same with nothing added, for what was worked out before. */
  function changeAsGiven(label: string, operations: Operation[], joins?: string): boolean {
    if (operations.length === 0) return true
    const made = perform(label, operations)
    if (!made) return false
    const last = undoSteps.value.at(-1)
    const joined = joins !== undefined && last?.joins === joins
    const step: Step = joined ? { ...made.step, operations: [...made.step.operations, ...last.operations], joins } : { ...made.step, joins }
    setSteps([...joined ? undoSteps.value.slice(0, -1) : undoSteps.value, step], [])
    afterWriting(made.touched)
    return true
  }

  /** The next change joins no earlier one. */
  function endJoining(): void {
    const last = undoSteps.value.at(-1)
    if (last?.joins !== undefined) setSteps([...undoSteps.value.slice(0, -1), { ...last, joins: undefined }], redoSteps.value)
  }

  /** Shows in the ledger what operations would do; null ends that. */
  function preview(operations: readonly Operation[] | null): void {
    previewed.value = new Map((operations ?? []).flatMap(operation => operation.do === 'put' && operation.fields.parentId === undefined ? [[operation.id, operation.fields]] : []))
  }

  function undo(): void {
    const step = undoSteps.value.at(-1)
    if (!step) return
    const made = perform(`Undo: ${step.label}`, step.operations)
    setSteps(undoSteps.value.slice(0, -1), made ? [...redoSteps.value, { ...made.step, label: step.label }] : redoSteps.value)
    if (made) afterWriting(made.touched)
  }

  function redo(): void {
    const step = redoSteps.value.at(-1)
    if (!step) return
    const made = perform(step.label, step.operations)
    setSteps(made ? [...undoSteps.value, made.step] : undoSteps.value, redoSteps.value.slice(0, -1))
    if (made) afterWriting(made.touched)
  }

  /** Takes the level back to what it was after an earlier change. That is a change itself. @throws ApiFailure, ServerAway */
  async function goBack({ revision, label }: { revision: number, label: string }): Promise<void> {
    if (!summary.value) return
    await settled()
    const levelId = summary.value.id
    const back = await api.back(levelId, revision)
    if (summary.value?.id !== levelId) return
    if (unanswered.size > 0 || back.revision !== queue?.revision) throw new ServerAway('The level was changed meanwhile. Try again.')
    const operations = mergeOperations(back.operations).filter(operation => 'fields' in operation || recordIsThere(operation))
    changeAsGiven(revision === 0 ? 'Back to the beginning' : `Back to change ${revision}: ${label}`, operations)
  }

  function recordIsThere({ do: what, id }: Operation): boolean {
    const record = recordIn({ do: what })
    return record === null ? view.value.has(id) : view.value[TABLE_OF[record]].has(id)
  }

  /**
   * Applies and sends; returns the step that takes it back, and what was touched. From the moment it is applied it is on its way to
   * the server, whatever goes wrong with showing it.
   */
  function perform(label: string, wanted: Operation[]): { step: Step, touched: Set<string> } | null {
    if (door.mayOnlyRead) {
      tell('Only looking is possible with this key', ['Nothing was changed. The writing key opens more.'])
      return null
    }
    if (around.value.size > 0 && wanted.some(operation => operation.do === 'put' && operation.fields.partId && around.value.has(operation.fields.partId))) {
      tell(`"${label}" is not possible`, ['A part cannot be inside itself.'])
      return null
    }
    try {
      const made: Change = { id: v7(), label: asName(label), author: settings.kept.author, operations: withExceptions(view.value, withEndsKept(view.value, wanted)) }
      const { inverse, touched } = applyChange(view.value, made.operations)
      unanswered.set(made.id, { change: made, inverse })
      queue?.add(made)
      return { step: { id: made.id, label, operations: inverse }, touched }
    }
    catch (error) {
      if (!(error instanceof ChangeError || error instanceof CopyError)) throw error
      // What comes first is offered where it is said.
      const first = error instanceof CopyError ? { label: 'Release it', run: () => void releaseHook.trigger() } : undefined
      tell(`"${label}" is not possible`, [error.message], first)
      return null
    }
  }

  function afterWriting(written: Set<string>): void {
    const touched = affectedBy(view.value, written, id => isGround(view.value, kit.tagsOf, id))
    index.value.update(touched)
    const { ids, last } = selection.value
    if ([...ids].some(id => !view.value.has(id))) {
      // Of a copy that is gone its arrangement is left.
      const left = [...new Set([...ids].map(id => view.value.has(id) ? id : copyOf(id)?.arrangementId ?? id))].filter(id => view.value.has(id))
      selection.value = { ids: new Set(left), last: last !== null && view.value.has(last) ? last : left.at(-1) ?? null }
    }
    triggerRef(view)
    void touchedHook.trigger(touched)
    loadShapes(touched)
  }

  /** Shows the copies that a scatter has dealt anew. */
  function redealt(id: string, dealt: Dealt): void {
    scene.dealt.set(id, dealt)
    view.value.redealt(id)
    afterWriting(new Set([id]))
  }

  /** Remembers how some things are. @returns whether they are still so, such as after waiting for the server */
  function remember(ids: Iterable<string>): () => boolean {
    const seen = new Map([...ids].map(id => [id, view.value.get(id)]))
    return () => [...seen].every(([id, placement]) => view.value.get(id) === placement)
  }

  /** Resolves when everything is saved or the server has turned out to be away. */
  async function settled(): Promise<void> {
    await queue?.settled()
  }

  function pick(ids: Iterable<string>): void {
    const chosen = new Set(ids)
    selection.value = { ids: chosen, last: [...chosen].at(-1) ?? null }
  }

  /** Picks a thing, or lets go of it if it is picked. */
  function togglePick(id: string): void {
    const { ids } = selection.value
    pick(ids.has(id) ? [...ids].filter(other => other !== id) : [...ids, id])
  }

  /** Others may place parts that were made after the kit was loaded. */
  function loadShapes(touched: Set<string>): void {
    const parts = new Set([...touched].flatMap(id => view.value.get(id)?.partId ?? []))
    kit.loadMissing([...parts]).then((some) => {
      if (!some) return
      index.value.update(touched)
      void touchedHook.trigger(touched)
    }, (error: unknown) => tell('A part could not be loaded', [error instanceof Error ? error.message : String(error)]))
  }

  /** Shows only some things in this window, or all again. */
  function showOnly(ids: ReadonlySet<string> | null): void {
    view.value.showOnly = ids && new Set(ids)
    isShowingOnly.value = ids !== null
    afterWriting(new Set([...view.value.placements()].map(({ id }) => id)))
  }

  function tell(title: string, lines: string[], again?: Notice['again']): void {
    notice.value = { title, lines, again }
  }

  return { summary, view, index, selection, saving, notice, undoSteps, redoSteps, apart, isShowingOnly, previewed, around, showOnly, redealt, open, close, change, endJoining, preview, undo, redo, goBack, tryApart, removeApart, remember, settled, pick, togglePick, tell, onTouched: (listener: (touched: Set<string>) => unknown) => touchedHook.on(guarded(listener)), reopen: () => void reopenHook.trigger(), onReopen: reopenHook.on, /** Somebody wants the picked copies to be things like any other. */ onRelease: releaseHook.on }
})
