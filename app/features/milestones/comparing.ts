import { Box3, Matrix4, Vector3 } from 'three'
import { useDebounceFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Effect } from '~~/core/compare/effects'
import { EFFECTS } from '~~/core/compare/effects'
import type { SaidValue } from '~~/core/compare/say'
import { sayApart } from '~~/core/compare/say'
import type { Operation } from '~~/core/level/schema'
import { counted } from '~~/core/units/plural'
import { asName } from '~~/core/units/text'
import { whatFailed } from '~/api/client'
import { reportError } from '~/errors/page-errors'
import { useKit } from '~/editor/kit'
import { CHANGED_MEANWHILE, useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import type { CompareNews, PlaceThere, Row, Which } from './compare-work'
import type { DifferenceMark, MarkedAs } from './difference-marks'
import { DifferenceMarks } from './difference-marks'
import type { Other } from './states'
import { ComparedStates } from './states'

/** Things that are marked on the stage at a time: those of the list that come first. */
const MOST_MARKED = 300
/** Milliseconds after a change in which more of them are waited for. */
const CALM = 150
/** Metres around what is looked at, besides as much as it takes up itself. */
const AROUND = 0.5

/** What is shown of the list: one effect, what was changed on both sides, or all. */
export type Shown = Effect | 'on both' | null

/** The level beside another state of it, or another level. */
export const useComparing = defineStore('comparing', () => {
  const level = useLevel()
  const kit = useKit()
  const settings = useSettings()
  const session = useStageSession()

  const other = shallowRef<Other | null>(null)
  const news = shallowRef<CompareNews | null>(null)
  const failed = ref('')
  /** Things that show parts which are gone. */
  const gone = ref(0)
  const shown = ref<Shown>(null)
  /** What is to stay as it is here, and is not looked at any more. */
  const kept = shallowRef<ReadonlySet<string>>(new Set())
  const current = ref<string | null>(null)
  const details = shallowRef<{ key: string; values: SaidValue[]; way: string } | null>(null)
  let states: ComparedStates | null = null
  let waiting: Operation[] = []

  const rows = computed((): Row[] =>
    (news.value?.rows ?? []).filter(({ key, effects, since }) => {
      if (kept.value.has(key)) return false
      if (shown.value === 'on both') return since === 'both'
      return shown.value === null || effects.includes(shown.value)
    }),
  )
  /** What was changed here alone is listed and not offered. */
  const offered = computed(() => rows.value.filter(({ since }) => since !== 'here'))
  /** By the first effect of each, in the order of effects. */
  const groups = computed(() =>
    EFFECTS.map(effect => ({ effect, rows: rows.value.filter(({ effects }) => effects[0] === effect) })).filter(
      group => group.rows.length > 0,
    ),
  )

  /** Compares the level with another state until it is ended. */
  async function begin(wanted: Other): Promise<void> {
    end()
    other.value = wanted
    const made = (states = new ComparedStates())
    try {
      await level.settled()
      const found = await made.open(level.view, wanted, kit, () => (waiting = []))
      if (states !== made || !found) return
      news.value = found.news
      gone.value = found.gone
      await send()
    } catch (error) {
      if (states !== made) return
      failed.value = whatFailed(error)
    }
  }

  function end(): void {
    states?.end()
    states = null
    other.value = null
    news.value = null
    failed.value = ''
    gone.value = 0
    shown.value = null
    kept.value = new Set()
    current.value = null
    details.value = null
    waiting = []
  }

  /** Lets the worker know what was done here since it was told last. */
  async function send(): Promise<void> {
    const made = states
    if (!made || !news.value || waiting.length === 0) return
    const operations = waiting
    waiting = []
    const told = await made.host.ask(remote => remote.change(operations))
    if (states === made && told) {
      news.value = told
      if (!told.rows.some(({ key }) => key === current.value)) current.value = null
    }
  }
  const sendSoon = useDebounceFn(() => send().catch(reportIt), CALM)
  level.onApplied(operations => {
    if (!states) return
    waiting.push(...operations)
    void sendSoon()
  })

  function reportIt(error: unknown): void {
    failed.value = whatFailed(error)
    reportError(error, 'worker')
  }

  /** Makes some of it, or all that is shown, as it is there: one change. */
  async function take(which: Which): Promise<void> {
    const made = states
    const from = other.value
    if (!made || !from) return
    try {
      await send()
      const found = await made.host.ask(remote => remote.taking(which))
      if (states !== made || !found) return
      const { operations, along, asked } = found
      if (waiting.length > 0) return level.notify(...CHANGED_MEANWHILE)
      if (operations.length === 0) return
      const what = asked === 1 && 'keys' in which ? `“${nameOf(which.keys[0]!)}”` : counted(asked, 'difference')
      const isDone = level.changeAsGiven(asName(`Take ${what} from “${from.name}”`), operations)
      if (isDone && along > 0)
        level.notify(
          `${counted(along, 'other')} came along`,
          ['What hangs from others, or shows what is not there any more, goes with them. Undo takes all of it back.'],
          undefined,
          true,
        )
    } catch (error) {
      reportIt(error)
    }
  }

  /** Whatever is shown of the list, as far as it is offered. */
  const takeShown = () =>
    take(
      shown.value === 'on both'
        ? { keys: offered.value.map(({ key }) => key) }
        : { effect: shown.value, but: [...kept.value] },
    )

  const nameOf = (key: string) => news.value?.rows.find(row => row.key === key)?.name ?? ''

  /** Lets some of it stay as it is here: it is in the list no more. */
  function keep(keys: readonly string[]): void {
    kept.value = new Set([...kept.value, ...keys])
    if (current.value !== null && kept.value.has(current.value)) current.value = null
  }

  /** Looks at one on the stage, picked if it is there, and says what differs. */
  async function look(row: Row): Promise<void> {
    current.value = row.key
    details.value = null
    const made = states
    if (!made) return
    if (row.record === null && level.view.has(row.id)) level.pick([row.id])
    const said = await made.host.ask(remote => remote.say(row.key)).catch(reportIt)
    if (states === made && current.value === row.key && said) {
      const named = (id: string) => level.view.get(id)?.name ?? said.names[id] ?? kit.part(id)?.name
      const length = (metres: number) => settings.lengths([metres])
      details.value = {
        key: row.key,
        values: said.values.map(value => sayApart(value, { named, length, axes: settings.axes })),
        way: said.way
          ? [
              said.way.moved > 0 ? `moved by ${length(said.way.moved)}` : '',
              said.way.turned > 0.0005 ? `turned by ${Number(said.way.turned.toFixed(3))}°` : '',
            ]
              .filter(Boolean)
              .join(', ')
          : '',
      }
    }
    const mark = marks.value.find(each => each.key === row.key)
    if (mark) lookAtMark(mark)
  }

  function lookAtMark({ box, here, there, ghosts }: DifferenceMark): void {
    const whole = box.clone()
    for (const at of [here, there]) if (at) whole.expandByPoint(at)
    for (const { geometries, matrices } of ghosts) reachOf(geometries, matrices, whole)
    // With what is around it: by itself it would fill the picture.
    if (!whole.isEmpty()) session.stage?.frameBox(whole.expandByVector(whole.getSize(new Vector3()).addScalar(AROUND)))
  }

  /** Goes on in the list. */
  function step(by: 1 | -1): void {
    const all = groups.value.flatMap(group => group.rows)
    if (all.length === 0) return
    const at = all.findIndex(({ key }) => key === current.value)
    void look(all[at < 0 ? (by > 0 ? 0 : all.length - 1) : (at + by + all.length) % all.length]!)
  }

  // What is marked on the stage.
  const places = shallowRef<ReadonlyMap<string, PlaceThere>>(new Map())
  const marks = computed(() =>
    rows.value
      .filter(({ record }) => record === null)
      .slice(0, MOST_MARKED)
      .map(markOf),
  )

  async function place(): Promise<void> {
    const made = states
    const keys = rows.value
      .filter(({ record, is }) => record === null && is !== 'only here')
      .slice(0, MOST_MARKED)
      .map(({ key }) => key)
    const found = made && keys.length > 0 ? await made.host.ask(remote => remote.places(keys)) : []
    if (states === made) places.value = new Map((found ?? []).map(each => [each.key, each]))
  }
  watch(() => level.session, end)
  watch(rows, () => void place().catch(reportIt))
  watch([marks, () => session.stage], () => onStage(layer => layer.set(marks.value)))
  watch([current, () => session.stage], () => onStage(layer => layer.point(current.value)))

  function markOf({ key, id, is, effects }: Row): DifferenceMark {
    const isHere = level.view.has(id)
    const there = places.value.get(key)
    const as: MarkedAs =
      is === 'only here' ? 'here' : is === 'only there' ? 'there' : isPlaced(effects) ? 'moved' : 'otherwise'
    return {
      key,
      as,
      box: isHere ? level.index.extents.boundsOf(level.view.subtree(id), new Box3()) : new Box3(),
      here: isHere ? new Vector3().setFromMatrixPosition(level.view.worldMatrix(id)) : null,
      there: there ? new Vector3(...there.at) : null,
      ghosts:
        !there || as === 'otherwise'
          ? []
          : there.shapes.flatMap(({ shape, matrices }) => {
              const solid = kit.solid(shape)
              return solid ? [{ geometries: solid.geometries, matrices }] : []
            }),
    }
  }

  function onStage(show: (layer: DifferenceMarks) => void): void {
    const { stage } = session
    if (!stage) return
    show(stage.layer(DifferenceMarks))
    stage.requestDraw()
    stage.requestOverlay()
  }

  return {
    other,
    news,
    failed,
    gone,
    shown,
    rows,
    offered,
    groups,
    current,
    details,
    begin,
    end,
    take,
    takeShown,
    keep,
    look,
    step,
  }
})

const PLACED: readonly Effect[] = ['moved', 'turned', 'sized', 'hung elsewhere', 'rule']
/** Whether it stands otherwise, so that it is shown where it was. */
const isPlaced = (effects: readonly Effect[]) => effects.some(effect => PLACED.includes(effect))

function reachOf(geometries: DifferenceMark['ghosts'][number]['geometries'], matrices: Float64Array, into: Box3): void {
  const [box, matrix] = [new Box3(), new Matrix4()]
  for (const geometry of geometries) {
    if (!geometry.boundingBox) geometry.computeBoundingBox()
    for (let i = 0; i < matrices.length; i += 16)
      into.union(box.copy(geometry.boundingBox!).applyMatrix4(matrix.fromArray(matrices, i)))
  }
}
