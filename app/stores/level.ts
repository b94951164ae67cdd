import { createEventHook } from '@vueuse/core'
import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { markRaw, ref, shallowRef } from 'vue'
import type { LevelSummary } from '~~/core/api/schema'
import { CopyError, copyOf, withExceptions } from '~~/core/arrange/copy'
import { hugsGround } from '~~/core/arrange/settle'
import { LevelIndex } from '~~/core/geometry/level-index'
import { applyChange, ChangeError, conflicts, footprintOf } from '~~/core/level/change'
import { LevelDocument } from '~~/core/level/document'
import { isGround } from '~~/core/level/ground'
import type { Unanswered } from '~~/core/level/rebase'
import { rebase } from '~~/core/level/rebase'
import type { Change, JournalEntry, Operation, Placement } from '~~/core/level/schema'
import { api, ServerAway } from '../api/client'
import type { SaveState } from '../saving/change-queue'
import { ChangeQueue } from '../saving/change-queue'
import { claimWindow, keepQueue, leftQueues } from '../saving/kept-queues'
import type { Selection } from '../stage/stage'
import { useKit } from './kit'
import { useSettings } from './settings'

/** Something that did not go as the person meant, for the notice over the stage. */
export type Notice = { title: string, lines: string[], again?: () => void }

type Step = { id: string, label: string, operations: Operation[], joins?: string }

/** The level being worked on. Every write to its document goes through `change`, `undo`, `redo` or what others did. */
export const useLevel = defineStore('level', () => {
  const kit = useKit()
  const settings = useSettings()

  const summary = shallowRef<LevelSummary | null>(null)
  const document = shallowRef(markRaw(new LevelDocument()))
  const index = shallowRef(markRaw(makeIndex(document.value)))
  /** Grows with every change of the document, which is not reactive itself. */
  const version = ref(0)
  const selection = shallowRef<Selection>({ ids: new Set(), last: null })
  const saving = shallowRef<SaveState>({ kind: 'saved', revision: 0 })
  const notice = shallowRef<Notice | null>(null)
  const undoSteps = shallowRef<readonly Step[]>([])
  const redoSteps = shallowRef<readonly Step[]>([])
  const isShowingOnly = ref(false)
  /** What a drag or a form would do, before it is done. */
  const previewed = shallowRef<ReadonlyMap<string, Partial<Placement>>>(new Map())
  const touchedHook = createEventHook<[Set<string>]>()
  /** By change id, in the order made. */
  const unanswered = new Map<string, Unanswered>()
  let queue: ChangeQueue | undefined
  let openings = 0

  function makeIndex(of: LevelDocument): LevelIndex {
    return new LevelIndex(of, kit.solid, id => isGround(of, kit.tagsOf, id))
  }

  /**
   * Opens a level: first sends what an earlier visit left on this device, then reads the level.
   * @throws ApiFailure if there is no such level; ServerAway
   */
  async function open(id: string): Promise<void> {
    close()
    const opening = ++openings
    const window = await claimWindow()
    await sendLeftovers(id, window)
    const [{ placements, layers, stations, blocks, ...rest }] = await Promise.all([api.level(id), kit.load()])
    // Left again, or another level opened, while this one was loading.
    if (opening !== openings) return
    document.value = markRaw(new LevelDocument(placements, layers, stations, blocks))
    index.value = markRaw(makeIndex(document.value))
    summary.value = rest
    queue = makeQueue(id, window, rest.revision)
    saving.value = { kind: 'saved', revision: rest.revision }
    version.value++
  }

  function close(): void {
    openings++
    queue?.close()
    queue = undefined
    summary.value = null
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
      giveWay,
    }, { baseRevision, changes: [] })
  }

  function giveWay(others: JournalEntry[], lost: Change[], reason: string | null): ReadonlySet<string> {
    const { kept, dropped, touched } = rebase(document.value, [...unanswered.values()], others, new Set(lost.map(({ id }) => id)))
    unanswered.clear()
    for (const entry of kept) unanswered.set(entry.change.id, entry)
    const ids = new Set(dropped.map(({ id }) => id))
    undoSteps.value = undoSteps.value.filter(step => !ids.has(step.id))
    redoSteps.value = redoSteps.value.filter(step => !ids.has(step.id))
    afterWriting(touched)
    if (dropped.length > 0) tellDropped(dropped, others, reason)
    return ids
  }

  /** Changes made before a reload or in a window that is gone. Nothing is loaded yet, so what is lost only has to be told. */
  async function sendLeftovers(levelId: string, window: string): Promise<void> {
    for (const left of await leftQueues(levelId, window)) {
      const leftover = new ChangeQueue({
        send: request => api.saveChanges(levelId, request),
        keep: content => keepQueue(levelId, left.window, content),
        onState: () => {},
        giveWay: (others, lost, reason) => {
          tellDropped(lost, others, reason)
          return new Set(lost.map(({ id }) => id))
        },
      }, left.content)
      await leftover.settled()
      leftover.close()
      if (!leftover.isEmpty) throw new ServerAway('The server cannot be reached. What you changed is kept on this device.')
    }
  }

  /** Says what happened to whose change, and offers to do the dropped ones again on top of the others'. */
  function tellDropped(dropped: Change[], others: JournalEntry[], reason: string | null): void {
    const lines = dropped.map((mine) => {
      const footprint = footprintOf([mine])
      const theirs = others.findLast(other => conflicts(footprintOf([other]), footprint))
      if (theirs) return `Your "${mine.label}" was taken back: ${theirs.author} did "${theirs.label}" on the same thing first (change ${theirs.revision}), which was kept.`
      return `Your "${mine.label}" was taken back: ${reason ?? 'it built on one that was.'}`
    })
    tell(dropped.length === 1 ? 'A change could not be kept' : `${dropped.length} changes could not be kept`, lines, () => {
      for (const mine of dropped) if (!change(mine.label, mine.operations)) return
    })
  }

  /**
   * Applies a change, remembers how to undo it and sends it. False, with a notice, if it cannot be applied.
   *
   * @param joins changes of the same name right after each other are undone together, such as the ticks of a wheel
   */
  function change(label: string, operations: Operation[], joins?: string): boolean {
    if (operations.length === 0) return true
    const made = perform(label, operations)
    if (!made) return false
    const last = undoSteps.value.at(-1)
    const joined = joins !== undefined && last?.joins === joins
    const step: Step = joined ? { ...made, operations: [...made.operations, ...last.operations], joins } : { ...made, joins }
    undoSteps.value = [...joined ? undoSteps.value.slice(0, -1) : undoSteps.value, step]
    redoSteps.value = []
    return true
  }

  /** The next change joins no earlier one. */
  function endJoining(): void {
    const last = undoSteps.value.at(-1)
    if (last?.joins !== undefined) undoSteps.value = [...undoSteps.value.slice(0, -1), { ...last, joins: undefined }]
  }

  /** Shows in the ledger what operations would do; null ends that. */
  function preview(operations: readonly Operation[] | null): void {
    previewed.value = new Map((operations ?? []).flatMap(operation => operation.do === 'put' && operation.fields.parentId === undefined ? [[operation.id, operation.fields]] : []))
  }

  function undo(): void {
    const step = undoSteps.value.at(-1)
    if (!step) return
    undoSteps.value = undoSteps.value.slice(0, -1)
    const made = perform(`Undo: ${step.label}`.slice(0, 200), step.operations)
    if (made) redoSteps.value = [...redoSteps.value, { ...made, label: step.label }]
  }

  function redo(): void {
    const step = redoSteps.value.at(-1)
    if (!step) return
    redoSteps.value = redoSteps.value.slice(0, -1)
    const made = perform(step.label, step.operations)
    if (made) undoSteps.value = [...undoSteps.value, made]
  }

  /** Applies and sends; returns the step that takes it back. */
  function perform(label: string, wanted: Operation[]): Step | null {
    try {
      const made: Change = { id: v7(), label, author: settings.kept.author, operations: withExceptions(document.value, wanted) }
      const { inverse, touched } = applyChange(document.value, made.operations)
      afterWriting(touched)
      unanswered.set(made.id, { change: made, inverse })
      queue?.add(made)
      return { id: made.id, label, operations: inverse }
    }
    catch (error) {
      if (!(error instanceof ChangeError || error instanceof CopyError)) throw error
      tell(`"${label}" is not possible`, [error.message])
      return null
    }
  }

  function afterWriting(written: Set<string>): void {
    const touched = withMembers(written)
    index.value.update(touched)
    const { ids, last } = selection.value
    if ([...ids].some(id => !document.value.has(id))) {
      // Of a copy that is gone its arrangement is left.
      const left = [...new Set([...ids].map(id => document.value.has(id) ? id : copyOf(id)?.arrangementId ?? id))].filter(id => document.value.has(id))
      selection.value = { ids: new Set(left), last: last !== null && document.value.has(last) ? last : left.at(-1) ?? null }
    }
    version.value++
    void touchedHook.trigger(touched)
    loadShapes(touched)
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

  /** A layer shown, hidden or locked changes what is on it; a block's new shape changes its instances. */
  function withMembers(written: Set<string>): Set<string> {
    if (![...written].some(id => document.value.layers.has(id) || document.value.blocks.has(id))) return withArrangements(written)
    const isMember = ({ layerId, blockId }: Placement) => (layerId !== null && written.has(layerId)) || (blockId !== null && written.has(blockId))
    return withArrangements(new Set([...written, ...[...document.value.placements()].filter(isMember).map(({ id }) => id)]))
  }

  /** What changes a source changes the arrangements above it; of something removed it is not known any more what it hung from. */
  function withArrangements(written: Set<string>): Set<string> {
    const { arrangementIds } = document.value
    if (arrangementIds.size === 0) return written
    const all = new Set(written)
    const hugging = [...arrangementIds].filter(id => hugsGround(document.value.need(id).own))
    if (hugging.length > 0 && [...written].some(id => !document.value.has(id) || document.value.subtree(id).some(below => isGround(document.value, kit.tagsOf, below)))) for (const id of hugging) all.add(id)
    for (const id of written) {
      if (!document.value.has(id)) for (const arrangement of arrangementIds) all.add(arrangement)
      else for (let at = document.value.arrangementAbove(id); at !== null; at = document.value.arrangementAbove(at)) all.add(at)
    }
    return all
  }

  /** Others may place parts that were made after the kit was loaded. */
  function loadShapes(touched: Set<string>): void {
    const parts = new Set([...touched].flatMap(id => document.value.get(id)?.partId ?? []))
    kit.loadMissing(parts).then((some) => {
      if (!some) return
      index.value.update(touched)
      void touchedHook.trigger(touched)
    }, (error: unknown) => tell('A part could not be loaded', [error instanceof Error ? error.message : String(error)]))
  }

  /** Shows only some things in this window, or all again. */
  function showOnly(ids: ReadonlySet<string> | null): void {
    document.value.showOnly = ids && new Set(ids)
    isShowingOnly.value = ids !== null
    afterWriting(new Set([...document.value.placements()].map(({ id }) => id)))
  }

  function tell(title: string, lines: string[], again?: () => void): void {
    notice.value = { title, lines, again }
  }

  return { summary, document, index, version, selection, saving, notice, undoSteps, redoSteps, isShowingOnly, previewed, showOnly, open, close, change, endJoining, preview, undo, redo, settled, pick, togglePick, tell, onTouched: touchedHook.on }
})
