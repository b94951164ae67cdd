import { defineStore } from 'pinia'
import { Vector3 } from 'three'
import { v7 } from 'uuid'
import { computed, ref, shallowRef, watch } from 'vue'
import type { TalkedAbout } from '~~/core/measure/notes'
import { newThread, notesOf, removeThread } from '~~/core/measure/notes'
import type { Answer, Operation, Thread } from '~~/core/level/schema'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { useStageSession } from '~/editor/stage-session'

/** Metres from which a note is looked at. */
const FROM = 6

/** Notes that are talked about: which is open, which comes next, and what is written. */
export const useNotes = defineStore('notes', () => {
  const level = useLevel()
  const auth = useAuth()
  const session = useStageSession()

  /** Whether the sheet is open; the note that is read, or null for the list. */
  const isOpen = ref(false)
  const readId = ref<string | null>(null)
  /** Where a note is being written that is not there yet. */
  const draft = shallowRef<{ at: Vector3; on: string | null } | null>(null)
  const showsDone = ref(false)

  const all = computed((): TalkedAbout[] => notesOf(level.view))
  const open = computed(() => all.value.filter(({ thread }) => !thread.done))
  const listed = computed(() => (showsDone.value ? all.value : open.value))
  const read = computed(() => all.value.find(({ thread }) => thread.id === readId.value) ?? null)

  // A note that another takes away is read no longer; nor is one that was closed.
  watch(read, now => {
    if (!now) readId.value = null
  })
  watch(isOpen, now => {
    if (!now) list()
  })
  watch(
    () => level.summary?.id,
    () => {
      isOpen.value = false
      readId.value = null
      draft.value = null
    },
  )

  const mayWrite = computed(() => auth.may('note'))
  const isOwn = ({ by }: Thread | Answer) => auth.may('work') || by === auth.name
  const said = (text: string) => ({ text: text.trim(), by: auth.name, when: new Date().toISOString() })

  /** Opens a note, and looks at it. */
  function show(id: string, looks = true): void {
    isOpen.value = true
    readId.value = id
    draft.value = null
    if (looks) goTo(id)
  }

  function goTo(id: string): void {
    const view = session.stage?.view
    const at = all.value.find(({ thread }) => thread.id === id)?.at
    if (!view || !at) return
    const away = view.eye.clone().sub(view.target)
    session.lookFrom(at.clone().addScaledVector(away.normalize(), FROM), at)
  }

  /** The next note in the list from the one that is read, around its end. */
  function step(by: 1 | -1): void {
    const list = listed.value
    if (list.length === 0) return
    const at = list.findIndex(({ thread }) => thread.id === readId.value)
    const next = at < 0 ? (by > 0 ? 0 : list.length - 1) : (at + by + list.length) % list.length
    show(list[next]!.thread.id)
  }

  /** Back to the list. */
  function list(): void {
    readId.value = null
    draft.value = null
  }

  /** Begins a note where the pointer is, on what is picked, or where one looks. */
  function begin(): void {
    const { pointer } = session
    const [picked] = level.selection.ids
    const at = pointer
      ? new Vector3(...pointer.at)
      : picked
        ? new Vector3().setFromMatrixPosition(level.view.worldMatrix(picked))
        : session.stage?.view.target.clone()
    if (!at) return
    draft.value = { at, on: pointer ? pointer.on : (picked ?? null) }
    readId.value = null
    isOpen.value = true
  }

  /** Writes the note that was begun. @returns whether it is there */
  function write(text: string): boolean {
    if (!draft.value) return false
    const id = v7()
    const isDone = level.change('Write a note', [newThread(level.view, { id, ...said(text), ...draft.value })])
    if (isDone) show(id, false)
    return isDone
  }

  function answer(text: string): boolean {
    const { value: note } = read
    if (!note) return false
    const fields = { ...said(text), threadId: note.thread.id }
    return level.change('Answer a note', [{ do: 'put-answer', id: v7(), fields }])
  }

  const setDone = ({ thread }: TalkedAbout, done: boolean) =>
    level.change(done ? 'Note done' : 'Note open again', [{ do: 'put-thread', id: thread.id, fields: { done } }])

  function edit(what: Thread | Answer, text: string): boolean {
    const fields = { text: text.trim() }
    const operation: Operation =
      'threadId' in what ? { do: 'put-answer', id: what.id, fields } : { do: 'put-thread', id: what.id, fields }
    return level.change('Change a note', [operation])
  }

  function remove(what: Thread | Answer): boolean {
    return 'threadId' in what
      ? level.change('Remove an answer', [{ do: 'remove-answer', id: what.id }])
      : level.change('Remove a note', removeThread(level.view, what.id))
  }

  return {
    isOpen,
    readId,
    draft,
    showsDone,
    all,
    open,
    listed,
    read,
    mayWrite,
    isOwn,
    show,
    list,
    goTo,
    step,
    begin,
    write,
    answer,
    setDone,
    edit,
    remove,
  }
})
