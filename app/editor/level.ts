import { createEventHook } from '@vueuse/core'
import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { markRaw, ref, shallowRef, triggerRef } from 'vue'
import type { LiveMessage } from '~~/core/api/live'
import type { Said } from '~~/core/api/people'
import { ROLE_WORDS } from '~~/core/api/roles'
import type { LevelSummary } from '~~/core/api/schema'
import type { Copied } from '~~/core/level/copied'
import { ChangeError, conflicts, footprintOf, isOfNotes, isRecordThere } from '~~/core/level/change'
import type { Overwritten } from '~~/core/level/overwritten'
import { onlyFields, overwritten, withoutFields } from '~~/core/level/overwritten'
import { fieldWord, placeInWords } from '~~/core/level/field-words'
import type { LevelRecords } from '~~/core/level/level'
import { mergeOperations } from '~~/core/level/merge'
import type { Unreadable } from '~~/core/level/read'
import type { Change, JournalEntry, Operation, Placement } from '~~/core/level/schema'
import { MOST_IN_CHANGE } from '~~/core/level/schema'
import { withEndsKept } from '~~/core/measure/keep-ends'
import { relationsRefused } from '~~/core/relate/refuse'
import { CopyError, withExceptions } from '~~/core/scene/copies'
import { copyOf } from '~~/core/scene/copy-id'
import type { Elsewhere } from '~~/core/scene/elsewhere'
import type { Finder } from '~~/core/scene/finder'
import { FinderWithAround } from '~~/core/scene/finder'
import type { LevelView } from '~~/core/scene/level-view'
import { asName } from '~~/core/units/text'
import { api, ApiFailure, ServerAway } from '~/api/client'
import { notKept, orNothing } from '~/errors/or-nothing'
import { guarded } from '~/errors/page-errors'
import type { Selection } from '~/stage/outlined'
import { useAuth } from './auth'
import { useOwnWindows } from './own-windows'
import { Again } from './again'
import { History } from './history'
import { KeptChanges } from './kept-changes'
import { useKit } from './kit'
import { Latest } from './latest'
import type { Refusal, SaveState } from './saving/change-queue'
import type { UndoStep, UndoSteps } from './saving/kept-steps'
import { StepKeeper } from './saving/kept-steps'
import type { SetApart } from './saving/set-apart'
import { dropApart, keepApart, listApart } from './saving/set-apart'
import type { Live } from './saving/live'
import { listenTo } from './saving/live'
import type { GivenUp } from './saving/sync'
import { sendLeftovers, Sync } from './saving/sync'
import { claimWindow } from './saving/window-name'
import { readLevel } from './reading/read-level'
import { useReserved } from './reserved'
import { Session } from './session'
import { useSettings } from './settings'

/** Something that did not go as the person meant, for the notice over the stage. */
export type Notice = {
  title: string
  lines: string[]
  again?: { label: string; run: () => void }
  /** Others may take its place. */
  isMild?: boolean
}

/** Milliseconds after which somebody is told no more that another did otherwise; things of it that are named. */
const [OVERRULED, LINES] = [20_000, 3]
const listed = (what: readonly string[], all: number) =>
  all > what.length ? `${what.join(', ')} and ${all - what.length} more` : what.join(', ')

/** Title and lines for what was worked out before waiting for the server and does not fit any more. */
export const CHANGED_MEANWHILE: [string, string[]] = [
  'It was changed meanwhile',
  ['What was to be done was worked out before that. Nothing was done; try again.'],
]

/** What is heard of the people in a level. */
export type Heard = Exclude<LiveMessage, { revision: number } | { kit: true } | { name: string }>

/** What is to become of what others have changed since a step that is to be taken back, or done again. */
export type StepQuestion = {
  label: string
  /** With who did it, as far as that is known. */
  found: readonly (Overwritten & { by: string | null })[]
  /** Does all of it. */
  all: () => void
  /** Does what nobody else has changed; null if that is nothing. */
  rest: (() => void) | null
}

/** Changes of others of which it is known here who made them. */
const MOST_HEARD = 500

const NO_STEPS: UndoSteps = { undo: [], redo: [] }

/**
 * The level being worked on, for everybody who shows it. Every write to it goes through `change`, `undo`, `redo` or
 * what others did.
 */
export const useLevel = defineStore('level', () => {
  const kit = useKit()
  const auth = useAuth()
  const ownWindows = useOwnWindows()
  const reserved = useReserved()
  const settings = useSettings()

  const summary = shallowRef<LevelSummary | null>(null)
  const selection = shallowRef<Selection>({ ids: new Set(), last: null })
  const saving = shallowRef<SaveState>({ kind: 'saved', revision: 0 })
  const notice = shallowRef<Notice | null>(null)
  const undoSteps = shallowRef<readonly UndoStep[]>([])
  const redoSteps = shallowRef<readonly UndoStep[]>([])
  /** Changes that the server did not take, until somebody decides about them. */
  const apart = shallowRef<readonly SetApart[]>([])
  const isShowingOnly = ref(false)
  /** What a drag or a form would do, before it is done. */
  const previewed = shallowRef<ReadonlyMap<string, Partial<Placement>>>(new Map())
  /** Of a workshop, the part and all parts it is in: none of them can be put into it. */
  const partsAround = shallowRef<ReadonlySet<string>>(new Set())
  const appliedHook = createEventHook<[readonly Operation[]]>()
  const touchedHook = createEventHook<[Set<string>]>()
  const scatterHook = createEventHook<[string]>()
  const reopenHook = createEventHook()
  const releaseHook = createEventHook()
  const takenHook = createEventHook()
  const reshapedHook = createEventHook<[ReadonlySet<string>]>()
  const deafHook = createEventHook()
  const strangeHook = createEventHook()
  const heardHook = createEventHook<[Heard]>()
  const session = shallowRef(makeSession([], {}))
  /**
   * The level with its copies. It is not reactive itself: whoever reads it here is told by `triggerRef` after every
   * change.
   */
  const view = shallowRef(session.value.level)
  const index = shallowRef(markRaw(session.value.index))
  /** The level around this one while a part is worked on, and what finds things in both. */
  const around = shallowRef<{ view: LevelView; finder: Finder } | null>(null)
  const question = shallowRef<StepQuestion | null>(null)
  /** What others did last, as far as it was heard here. */
  let heardOf: readonly JournalEntry[] = []
  let history = new History(NO_STEPS, showSteps)
  /** When something was done here last; milliseconds. */
  let doneAt = -Infinity
  let sync: Sync | undefined
  /** What is heard of the open level. */
  let live: Live | undefined
  const openings = new Latest()

  function makeSession(placements: Iterable<Placement>, records: Partial<LevelRecords>): Session {
    const parts = { shapes: kit.shapes, tagsOf: kit.tagsOf, part: kit.part, all: () => kit.all }
    const made: Session = new Session(placements, records, parts, {
      onApplied: operations => void appliedHook.trigger(operations),
      onKnown: id => void scatterHook.trigger(id),
      onRedealt: id => {
        if (session.value === made) afterWriting(new Set([id]))
      },
      onFailed: error =>
        notify('The scatter could not be worked out', [
          error instanceof Error ? error.message : String(error),
          'What was there before stays.',
        ]),
    })
    markRaw(made.level)
    return markRaw(made)
  }

  /** Shows a level in the place of the one before. */
  function show(placements: Iterable<Placement>, records: Partial<LevelRecords>): void {
    take(makeSession(placements, records))
  }

  /**
   * Lets things be snapped to those of a level around this one, once it is known what is where in it.
   *
   * @param without of it, what is worked on here
   */
  async function surroundBy(other: LevelView, { matrix, without }: Elsewhere): Promise<void> {
    const { value: made } = session
    const found = await made.indexAround(other, { matrix, without })
    // Left meanwhile, or surrounded by another one.
    if (session.value === made)
      around.value = { view: other, finder: markRaw(new FinderWithAround(index.value, found)) }
  }

  function take(made: Session): void {
    around.value = null

    session.value.close()
    session.value = made
    view.value = made.level
    index.value = markRaw(made.index)
  }

  /**
   * Opens a level: first sends what an earlier visit left on this device, then reads the level.
   * @throws ApiFailure if there is no such level; ServerAway
   */
  async function open(id: string): Promise<void> {
    close()
    const isLatest = openings.next()
    const window = await claimWindow()
    await sendLeftovers(id, window, given => giveUp(id, given))
    const keeper = new StepKeeper(id, window)
    const [
      {
        unreadable,
        content: { placements, ...records },
        summary: rest,
      },
      kept,
      setApart,
    ] = await Promise.all([
      readLevel(id),
      keeper.load().catch((error: unknown) => {
        notKept(error)
        return NO_STEPS
      }),
      listApart(id).catch((error: unknown) => {
        notKept(error)
        return []
      }),
      kit.load(),
    ])
    await kit.loadMissing([...new Set(placements.flatMap(({ partId }) => partId ?? []))])
    const made = makeSession(placements, records)
    await made.prepare()
    // Left again, or another level opened, while this one was loading.
    if (!isLatest()) {
      made.close()
      return
    }
    take(made)
    summary.value = rest
    sync = new Sync(id, window, rest.revision, {
      onState: state => {
        saving.value = state
      },
      rebase: (ours, theirs, lost) => {
        letGoOfTaken(theirs)
        heardOf = [...heardOf, ...theirs].slice(-MOST_HEARD)
        const rebased = session.value.rebase(ours, theirs, lost)
        history.without(new Set(rebased.dropped.map(dropped => dropped.id)))
        afterWriting(rebased.touched)
        tellOverruled(theirs)
        return rebased
      },
      onGivenUp: given => giveUp(id, given),
    })
    live = listenTo(id, {
      onMessage: message => {
        if ('revision' in message) sync?.hear(message.revision)
        else if ('kit' in message) readKit.run()
        else if ('name' in message) hearOfLevel(message)
        else {
          // What was told of the kit before the connection stood was missed.
          if ('you' in message) readKit.run()
          void heardHook.trigger(message)
        }
      },
      onStrange: () => void strangeHook.trigger(),
      onDeaf: () => {
        sync?.look()
        void deafHook.trigger()
      },
      onRefused: () => void askWho(id),
    })
    history = new History(kept, steps => {
      showSteps(steps)
      keeper.keep(steps)
    })
    showSteps(kept)
    apart.value = setApart
    saving.value = { kind: 'saved', revision: rest.revision }
    triggerRef(view)
    session.value.dealing.begin()
    tellUnreadable(unreadable)
  }

  function tellUnreadable(unreadable: readonly Unreadable[]): void {
    const lines = unreadable
      .slice(0, 5)
      .map(
        ({ name, field, message }) =>
          `${name}: its ${placeInWords(field.split('.'))} ${message}. What hangs below it is shown; delete it, or give it a new rule by Repeat.`,
      )
    if (lines.length > 0)
      notify('Not all of this can be shown as it was saved', [
        ...lines,
        ...(unreadable.length > 5 ? [`and ${unreadable.length - 5} more`] : []),
      ])
  }

  function close(): void {
    openings.callOff()
    live?.end()
    live = undefined
    sync?.close()
    sync = undefined
    apart.value = []
    question.value = null
    heardOf = []
    summary.value = null
    // Nothing holds on to what was open.
    show([], {})
    selection.value = { ids: new Set(), last: null }
    history = new History(NO_STEPS, showSteps)
    showSteps(NO_STEPS)
    isShowingOnly.value = false
    notice.value = null
  }

  function showSteps({ undo: undone, redo: redone }: UndoSteps): void {
    undoSteps.value = undone
    redoSteps.value = redone
  }

  /** What could not be kept is said; what the server refuses is put where it is in nobody's way. */
  function giveUp(levelId: string, { dropped, others, refused }: GivenUp): void {
    if (refused) setApart(levelId, dropped, refused)
    else tellDropped(dropped, others)
  }

  /** @param dropped the refused one, and what stood on it */
  function setApart(levelId: string, dropped: readonly Change[], { change: refused, reason }: Refusal): void {
    const set = dropped.map(
      (each): SetApart => ({
        change: each,
        reason: each.id === refused.id ? reason : `It builds on "${refused.label}", which was set apart.`,
        at: new Date().toISOString(),
      }),
    )
    for (const each of set) void keepApart(levelId, each).catch(notKept)
    apart.value = [...apart.value, ...set]
    notify(set.length === 1 ? 'A change could not be saved' : `${set.length} changes could not be saved`, [
      ...set.map(each => `"${each.change.label}": ${each.reason}`),
      'Set apart beside the save state, where it can be tried again, kept as a file or dropped. All else goes on.',
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

  /** Ends a drag that holds what others take away, with a word, before that is gone; nothing of it is done. */
  function letGoOfTaken(theirs: GivenUp['others']): void {
    const isHeld = ({ do: what, id }: Operation) => what === 'remove' && previewed.value.has(id) && view.value.has(id)
    const taking = theirs.filter(({ operations }) => operations.some(isHeld))
    if (taking.length === 0) return
    void takenHook.trigger()
    notify('What you held is gone', [
      ...taking.map(({ author, label }) => `${author} did "${label}" meanwhile.`),
      'Nothing of what you were doing with it was done.',
    ])
  }

  /** Says that another has just done otherwise with what was done here right before, and offers the way back. */
  function tellOverruled(theirs: GivenUp['others']): void {
    const step = history.lastUndo
    if (!step?.left || (notice.value && !notice.value.isMild) || performance.now() - doneAt > OVERRULED) return
    const touched = new Set(theirs.flatMap(({ operations }) => operations.map(({ id }) => id)))
    const isTouched = ({ id }: Operation) => touched.has(id)
    const found = overwritten(view.value, step.left.filter(isTouched), step.operations.filter(isTouched))
    if (found.length === 0) return
    const who = whoWrote(found[0]!.id) ?? 'Somebody'
    // In another window of one's own one knows.
    if (ownWindows.others.size > 0 && who === auth.name) return
    const what = found.slice(0, LINES).map(({ field, name }) => `${fieldWord(field)}${name ? ` of ${name}` : ''}`)
    const mine = onlyFields(step.left, found)
    notify(`${who} did otherwise right after you`, [`What they left stays: ${listed(what, found.length)}.`], {
      label: 'Put mine back',
      run: () => {
        notice.value = null
        changeAsGiven(asName(`Back to "${step.label}"`), mine)
      },
    })
  }

  /** Says what happened to whose change, and offers to do the dropped ones again on top of the others'. */
  function tellDropped(dropped: readonly Change[], others: GivenUp['others']): void {
    const lines = dropped.map(mine => {
      const footprint = footprintOf([mine])
      const theirs = others.findLast(other => conflicts(footprintOf([other]), footprint))
      if (theirs)
        return `Your "${mine.label}" was taken back: ${theirs.author} did "${theirs.label}" on the same thing first (change ${theirs.revision}), which was kept.`
      return `Your "${mine.label}" was taken back: it built on one that was.`
    })
    notify(dropped.length === 1 ? 'A change could not be kept' : `${dropped.length} changes could not be kept`, lines, {
      label: 'Do mine again',
      run: () => {
        for (const mine of dropped) if (!change(mine.label, mine.operations)) return
      },
    })
  }

  const kept = new KeptChanges({
    view: () => view.value,
    index: () => index.value,
    doAsGiven: changeAsGiven,
    areCopiesKept: () => settings.kept.duplicate.stays,
    sayMildly: (title, lines) => {
      if (!notice.value || notice.value.isMild) notify(title, lines, undefined, true)
    },
  })

  /**
   * Applies a change with all that follows from it, remembers how to undo it and sends it. False, with a notice, if it
   * cannot be applied.
   *
   * @param joins changes of the same name right after each other are undone together, such as the ticks of a wheel
   * @param copied what it copies and replaces, for what is kept of that
   */
  const change = (label: string, operations: Operation[], joins?: string, copied?: Copied): boolean =>
    kept.change(label, operations, joins, copied)

  /**
   * The same with nothing added, for what was worked out before.
   *
   * @param after done once it is, also where something is asked first
   */
  function changeAsGiven(label: string, operations: Operation[], joins?: string, after?: () => void): boolean {
    const goOn = () => changeAsGiven(label, operations, joins, after)
    if (operations.length > 0 && reserved.asks(view.value, label, operations, goOn)) return false
    if (!doNow(label, operations, joins)) return false
    after?.()
    return true
  }

  function doNow(label: string, operations: Operation[], joins?: string): boolean {
    if (operations.length === 0) return true
    const made = perform(label, operations)
    if (!made) return false
    history.add({ ...made.step, joins })
    doneAt = performance.now()
    afterWriting(made.touched)
    return true
  }

  /** Shows in the ledger what operations would do; null ends that. */
  function preview(operations: readonly Operation[] | null): void {
    previewed.value = new Map(
      (operations ?? []).flatMap(operation =>
        operation.do === 'put' && operation.fields.parentId === undefined ? [[operation.id, operation.fields]] : [],
      ),
    )
  }

  /** Takes back the last step; asks first where others have changed the same since. */
  function undo(): void {
    const step = history.lastUndo
    if (step && !asksAbout(step, undoStep)) undoStep(step.operations)
  }

  function undoStep(operations: readonly Operation[]): void {
    const step = history.lastUndo
    if (!step) return
    const goOn = () => step === history.lastUndo && undoStep(operations)
    if (reserved.asks(view.value, `Undo: ${step.label}`, operations, goOn)) return
    const made = perform(`Undo: ${step.label}`, [...operations])
    history.undone(made && { ...made.step, label: step.label })
    if (made) afterWriting(made.touched)
  }

  /** Does again what was taken back last; asks in the same way. */
  function redo(): void {
    const step = history.lastRedo
    if (step && !asksAbout(step, redoStep)) redoStep(step.operations)
  }

  function redoStep(operations: readonly Operation[]): void {
    const step = history.lastRedo
    if (!step) return
    const goOn = () => step === history.lastRedo && redoStep(operations)
    if (reserved.asks(view.value, step.label, operations, goOn)) return
    const made = perform(step.label, [...operations])
    history.redone(made && made.step)
    if (made) afterWriting(made.touched)
  }

  /** Asks what is to become of what others have changed since a step. @returns whether there is anything to ask */
  function asksAbout(step: UndoStep, goOn: (operations: readonly Operation[]) => void): boolean {
    const found = overwritten(view.value, step.left ?? [], step.operations)
    if (found.length === 0) return false
    const rest = withoutFields(step.operations, found)
    const answer = (operations: readonly Operation[]) => () => {
      question.value = null
      // Somebody may have answered by key meanwhile.
      if (step === history.lastUndo || step === history.lastRedo) goOn(operations)
    }
    question.value = {
      label: step.label,
      found: found.map(each => ({ ...each, by: whoWrote(each.id) })),
      all: answer(step.operations),
      rest: rest.length > 0 ? answer(rest) : null,
    }
    return true
  }

  /** Who of the others has changed something last, as far as that was heard here. */
  const whoWrote = (id: string): string | null =>
    heardOf.findLast(({ operations }) => operations.some(operation => operation.id === id))?.author ?? null

  /**
   * Takes the level back to what it was after an earlier change. That is a change itself.
   *
   * @throws ApiFailure, ServerAway
   */
  async function goBack({ revision, label }: { revision: number; label: string }): Promise<void> {
    if (!summary.value) return
    await settled()
    const levelId = summary.value.id
    const back = await api.back(levelId, revision)
    if (summary.value?.id !== levelId) return
    if (!sync?.isEven || back.revision !== sync.revision)
      throw new ServerAway('The level was changed meanwhile. Try again.')
    const operations = mergeOperations(back.operations).filter(
      operation => 'fields' in operation || isRecordThere(view.value, operation),
    )
    changeAsGiven(revision === 0 ? 'Back to the beginning' : `Back to change ${revision}: ${label}`, operations)
  }

  /**
   * How far the level is once all that was done here is saved.
   *
   * @throws ServerAway while something cannot be saved
   */
  async function revisionSaved(): Promise<number> {
    await settled()
    if (!sync?.isEven) throw new ServerAway('Not all that was done here is saved yet. Try again.')
    return sync.revision
  }

  /** Asks anew what one may do here; a level that is not there any more says so. */
  async function askWho(id: string): Promise<void> {
    try {
      await auth.ask(id)
    } catch (error) {
      if (error instanceof ApiFailure && error.status === 404 && summary.value?.id === id) void reopenHook.trigger()
      else orNothing(error)
    }
  }

  /**
   * Applies and sends; returns the step that takes it back, and what was touched. From the moment it is applied it is
   * on its way to the server, whatever goes wrong with showing it.
   */
  function perform(label: string, wanted: Operation[]): { step: UndoStep; touched: Set<string> } | null {
    if (auth.mayOnlyRead && !(auth.may('note') && wanted.every(isOfNotes))) {
      notify('This level is only looked at', [
        `Nothing was changed: your role here is ${ROLE_WORDS[auth.session.role]}. A keeper can give you another.`,
      ])
      return null
    }
    if (
      partsAround.value.size > 0
      && wanted.some(
        operation =>
          operation.do === 'put' && operation.fields.partId && partsAround.value.has(operation.fields.partId),
      )
    ) {
      notify(`"${label}" is not possible`, ['A part cannot be inside itself.'])
      return null
    }
    const refused = relationsRefused(view.value, wanted)
    if (refused) {
      notify(`"${label}" is not possible`, [refused])
      return null
    }
    try {
      const made: Change = {
        id: v7(),
        label: asName(label),
        author: auth.name,
        operations: withExceptions(view.value, withEndsKept(view.value, wanted)),
      }
      if (made.operations.length > MOST_IN_CHANGE) {
        const [most, asked] = [MOST_IN_CHANGE, made.operations.length].map(count => count.toLocaleString('en'))
        notify(`"${label}" is not possible at once`, [
          `One change can hold ${most} steps; this has ${asked}. Do it in parts.`,
        ])
        return null
      }
      const { inverse, touched } = session.value.apply(made.operations)
      sync?.add(made, inverse)
      return { step: { id: made.id, label, operations: inverse, left: made.operations }, touched }
    } catch (error) {
      if (!(error instanceof ChangeError || error instanceof CopyError)) throw error
      // What comes first is offered where it is said.
      const first =
        error instanceof CopyError ? { label: 'Release it', run: () => void releaseHook.trigger() } : undefined
      notify(`"${label}" is not possible`, [error.message], first)
      return null
    }
  }

  function afterWriting(written: ReadonlySet<string>): void {
    const touched = session.value.follow(written)
    letGoOfGone()
    triggerRef(view)
    void touchedHook.trigger(touched)
    loadShapes(touched)
  }

  function letGoOfGone(): void {
    const { ids, last } = selection.value
    if (![...ids].some(id => !view.value.has(id))) return
    // Of a copy that is gone its arrangement is left.
    const left = [...new Set([...ids].map(id => (view.value.has(id) ? id : (copyOf(id)?.arrangementId ?? id))))].filter(
      id => view.value.has(id),
    )
    selection.value = { ids: new Set(left), last: last !== null && view.value.has(last) ? last : (left.at(-1) ?? null) }
  }

  /** Remembers how some things are. @returns whether they are still so, such as after waiting for the server */
  function remember(ids: Iterable<string>): () => boolean {
    const seen = new Map([...ids].map(id => [id, view.value.get(id)]))
    return () => [...seen].every(([id, placement]) => view.value.get(id) === placement)
  }

  /** Resolves when everything is saved or the server has turned out to be away. */
  async function settled(): Promise<void> {
    await sync?.settled()
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
    kit.loadMissing([...parts]).then(
      some => {
        if (!some) return
        index.value.update(touched)
        void touchedHook.trigger(touched)
      },
      (error: unknown) =>
        notify('A part could not be loaded', [error instanceof Error ? error.message : String(error)]),
    )
  }

  /** Reads what others did to the kit, once for all that is heard while it is read. */
  const readKit = new Again(async () => {
    const changed = await kit.refresh()
    if (changed.size === 0) return
    void reshapedHook.trigger(changed)
    afterWriting(
      new Set([...view.value.placements()].filter(({ partId }) => changed.has(partId ?? '')).map(({ id }) => id)),
    )
  })

  /** Others have named the level otherwise, deleted it or brought it back. */
  function hearOfLevel({ level: id, name, deleted }: { level: string; name: string; deleted: boolean }): void {
    if (summary.value?.id !== id) return
    if (summary.value.name !== name) summary.value = { ...summary.value, name }
    if (deleted)
      notify(
        'This level was deleted',
        ['What is done here meanwhile is set apart beside the save state, and can be tried again once it is back.'],
        {
          label: 'Bring it back',
          run: () => void kit.online(() => api.patchLevel(id, { deleted: false }), notify),
        },
      )
    else void sync?.settled()
  }

  /** Shows only some things in this window, or all again. */
  function showOnly(ids: ReadonlySet<string> | null): void {
    view.value.showOnly = ids && new Set(ids)
    isShowingOnly.value = ids !== null
    afterWriting(new Set([...view.value.placements()].map(({ id }) => id)))
  }

  function notify(title: string, lines: string[], again?: Notice['again'], isMild?: boolean): void {
    notice.value = { title, lines, again, isMild }
  }

  return {
    summary,
    session,
    view,
    index,
    around,
    surroundBy,
    selection,
    saving,
    notice,
    question,
    undoSteps,
    redoSteps,
    apart,
    isShowingOnly,
    previewed,
    partsAround,
    open,
    show,
    close,
    change,
    changeAsGiven: (label: string, operations: Operation[]) => changeAsGiven(label, operations),
    endJoining: () => history.endJoining(),
    /** Lets what is kept follow things that show something else now. */
    followShown: (label: string, ids: readonly string[]) => kept.followShown(label, ids),
    preview,
    undo,
    redo,
    goBack,
    tryApart,
    removeApart,
    remember,
    settled,
    revisionSaved,
    pick,
    togglePick,
    showOnly,
    notify,
    /** Operations were done to the level, in this order. */
    onApplied: (listener: (operations: readonly Operation[]) => unknown) => appliedHook.on(guarded(listener)),
    /** Some things look otherwise now. */
    onTouched: (listener: (touched: Set<string>) => unknown) => touchedHook.on(guarded(listener)),
    /** Parts have other meshes now, or other lamps; what they are in is touched after that. */
    onReshaped: (listener: (parts: ReadonlySet<string>) => unknown) => reshapedHook.on(guarded(listener)),
    /** Something else is known of a scatter. */
    onScatter: (listener: (id: string) => unknown) => scatterHook.on(guarded(listener)),
    reopen: () => void reopenHook.trigger(),
    onReopen: reopenHook.on,
    /** Something is heard of the people in the level. */
    onHeard: (listener: (heard: Heard) => unknown) => heardHook.on(guarded(listener)),
    /** The server says something that is not understood. */
    onStrange: strangeHook.on,
    /** Nothing is heard of them at present. */
    onDeaf: deafHook.on,
    /** Says something to the others who have it open; nothing where nobody hears it. */
    say: (said: Said) => live?.say(said),
    /** Others took away what is held right now. */
    onTakenAway: takenHook.on,
    /** Somebody wants the picked copies to be things like any other. */
    onRelease: releaseHook.on,
  }
})
