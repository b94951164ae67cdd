import { useDebounceFn } from '@vueuse/core'
import { Box3 } from 'three'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Condition } from '~~/core/learn/conditions'
import { isSo, named } from '~~/core/learn/conditions'
import type { Exercise } from '~~/core/learn/exercise'
import type { ExerciseName } from '~~/core/learn/exercises'
import { EXERCISE_NAMES, EXERCISES } from '~~/core/learn/exercises'
import { isRecordThere } from '~~/core/level/change'
import type { Operation } from '~~/core/level/schema'
import { api, whatFailed } from '~/api/client'
import { useKeptHere } from '~/editor/kept-here'
import { useLevel } from '~/editor/level'
import { useStageSession } from '~/editor/stage-session'
import { readProgress } from './progress'

/** Milliseconds after the last change in which it is not looked whether an exercise is done. */
const CALM = 150

/** What only the page as a whole knows: whether a camera is looked through, and how many files were handed over. */
export type SeenByPage = { isThrough: boolean; handedOver: number }

/** The exercises on the practice level: which one is on, whether it is done, and how far somebody is. */
export const useFirstSteps = defineStore('first-steps', () => {
  const level = useLevel()
  const session = useStageSession()
  const progress = useKeptHere('first-steps', readProgress)
  const isOn = ref(false)
  const current = ref<ExerciseName>(EXERCISE_NAMES[0]!)
  const page = shallowRef<SeenByPage>({ isThrough: false, handedOver: 0 })
  const failed = ref('')

  const exercise = computed((): Exercise => EXERCISES[current.value])
  const number = computed(() => EXERCISE_NAMES.indexOf(current.value) + 1)
  const isDone = computed(() => progress.value.done.includes(current.value))
  const doneCount = computed(() => EXERCISE_NAMES.filter(name => progress.value.done.includes(name)).length)
  /** Whether the open level is the one that the exercises are about. */
  const isYard = () => named(level.view, 'Mark for the crate').length > 0

  /** Goes on where somebody was. */
  function begin(): void {
    if (!isYard()) return
    isOn.value = true
    current.value = nextOpen(0) ?? EXERCISE_NAMES[0]!
    lookLater()
  }

  function end(): void {
    isOn.value = false
    failed.value = ''
  }

  const isOpen = (name: ExerciseName) => !progress.value.done.includes(name) && !progress.value.skipped.includes(name)
  const nextOpen = (from: number) => [...EXERCISE_NAMES.slice(from), ...EXERCISE_NAMES.slice(0, from)].find(isOpen)

  function goTo(name: ExerciseName): void {
    current.value = name
    failed.value = ''
    lookLater()
  }

  /** Goes on to the next that is not done; after the last it is over. */
  function next(): void {
    const found = nextOpen(number.value)
    if (found) goTo(found)
    else end()
  }

  function skip(): void {
    if (isOpen(current.value))
      progress.value = { ...progress.value, skipped: [...progress.value.skipped, current.value] }
    next()
  }

  /** Whether it is so, whatever was done for it. */
  function look(): void {
    const view = session.stage?.view
    if (!isOn.value || isDone.value || !view || session.readout) return
    const yard = {
      level: level.view,
      index: level.index,
      view: { eye: view.eye.toArray(), target: view.target.toArray() },
      picked: level.selection.ids,
      ...page.value,
    }
    if (!exercise.value.until.every(condition => isSo(condition, yard))) return
    const { done, skipped } = progress.value
    progress.value = { done: [...done, current.value], skipped: skipped.filter(name => name !== current.value) }
  }
  const lookLater = useDebounceFn(look, CALM)
  level.onTouched(() => isOn.value && void lookLater())
  level.onApplied(() => isOn.value && void lookLater())
  watch([() => level.selection, () => session.stats, () => session.readout, page], () => isOn.value && void lookLater())
  watch(() => level.session, end)

  /** Shows on the stage what the exercise is about. */
  function where(): void {
    const ids = exercise.value.things.flatMap(name => named(level.view, name)).flatMap(id => level.view.subtree(id))
    const box = level.index.extents.boundsOf(ids, new Box3())
    if (!box.isEmpty()) session.stage?.frameBox(box.expandByScalar(1))
  }

  /** Puts what the exercise is about as it was at the beginning, to do it again. */
  async function again(): Promise<void> {
    failed.value = ''
    try {
      const { summary } = level
      if (!summary) return
      await level.settled()
      const about = new Set(exercise.value.things.flatMap(name => named(level.view, name)))
      const { operations } = await api.back(summary.id, 0)
      const wanted = operations
        .filter(operation => isAbout(operation, about))
        .filter(operation => 'fields' in operation || isRecordThere(level.view, operation))
      progress.value = { ...progress.value, done: progress.value.done.filter(name => name !== current.value) }
      level.changeAsGiven(`Again: ${exercise.value.name}`, wanted)
    } catch (error) {
      failed.value = whatFailed(error)
    }
  }

  /** What was put back is of these things, or was made since for what the exercise asks. */
  function isAbout(operation: Operation, about: ReadonlySet<string>): boolean {
    const { do: what, id } = operation
    const asksFor = (kind: Condition['kind']) => exercise.value.until.some(condition => condition.kind === kind)
    if (what === 'put') return about.has(id)
    if (what === 'remove-measure') return asksFor('taped')
    if (what !== 'remove' || !asksFor('scattered') || !level.view.has(id)) return false
    return level.view.scatters.some(scatter => level.view.isWithin(id, scatter))
  }

  return {
    isOn,
    current,
    exercise,
    number,
    isDone,
    doneCount,
    progress,
    failed,
    page,
    isYard,
    begin,
    end,
    goTo,
    next,
    skip,
    where,
    again,
  }
})
