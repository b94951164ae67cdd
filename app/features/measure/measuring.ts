import { Box3, Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { v7 } from 'uuid'
import { localAxes } from '~~/core/edit/handles/axes'
import { scaleForMetres } from '~~/core/edit/handles/size'
import type { PointOn } from '~~/core/level/fields'
import type { Measure, Operation } from '~~/core/level/schema'
import type { Figure, Measured, Setter, Where } from '~~/core/measure/definition'
import { placeOfEnd } from '~~/core/measure/definition'
import { measureNow, MEASURES, thingsOf } from '~~/core/measure/measures'
import { keptOfTape } from '~~/core/relate/tape'
import type { Along, LengthSet } from '~~/core/measure/set-length'
import { isSlanted, SetLengthError } from '~~/core/measure/set-length'
import { copyOf } from '~~/core/scene/copy-id'
import { boxCorners } from '~~/core/scene/shown'
import { PreviewedPlaces } from '~~/core/scene/preview'
import type { Dimension } from './dimensions'
import { Dimensions } from './dimensions'
import type { ScreenBox } from '~/stage/label-place'
import type { Grasp, PointerAt, TypedNumbers } from '~/editor/tools/gesture'
import type { MeasureDraft } from './measure-tool'
import type { MeasureTask } from '~/editor/tools/tool-id'
import { EndTool } from './end-tool'
import { MeasureTool, TASK_KINDS } from './measure-tool'
import type { ToolWorld } from '~/editor/tools/tool-world'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { printQuantity } from '~~/core/units/quantity'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'

/** What each task is called where one is chosen. */
export const TASK_NAMES: Record<MeasureTask, { name: string; hint: string }> = {
  'tape': { name: 'Tape', hint: 'click two points' },
  'angle': { name: 'Angle', hint: 'click a point, the corner, another point' },
  'edges': { name: 'Angle of edges', hint: 'click two edges' },
  'slope': { name: 'Slope', hint: 'click two points' },
  'face-slope': { name: 'Slope of a face', hint: 'click a face' },
  'face': { name: 'Area of a face', hint: 'click a flat face' },
  'faces': { name: 'Area of faces', hint: 'click a face: all that it goes over into counts' },
  'loop': { name: 'Area of a loop', hint: 'click its corners, {Finish what is drawn} ends it' },
  'height': { name: 'Height above', hint: 'click a point: it is measured to what is below' },
  'clearance': { name: 'Clearance', hint: 'click one thing, then the other' },
  'length': { name: 'Length of a path', hint: 'click an arrangement along a path' },
}

/** Names the numbers of what is being measured: they lie under the pointer, and are not to be clicked. */
const DRAFT = 'draft'
/** Of more picked things sizes are not drawn. */
const MOST_SIZED = 20

/** Measures that are kept in the level, what they come to, and the sizes of what is picked. */
export const useMeasuring = defineStore('measuring', () => {
  const auth = useAuth()
  const level = useLevel()
  const settings = useSettings()
  const session = useStageSession()
  const handling = useHandling()
  const edits = useEdits()
  const tools = useTools()
  const showPreview = tools.claimPreview()
  const modes = useModes()

  const task = computed(() => session.held('measure')?.task ?? null)
  const draft = shallowRef<MeasureDraft | null>(null)
  /** The measure whose row is pointed at, or whose number is typed. */
  const chosen = ref<string | null>(null)
  /** Whether the ends of measures can be taken hold of: while their form is shown, and nothing has the stage. */
  const endsShown = computed(
    () => settings.kept.bench === 'measure' && settings.panels.showBench && session.mode === null,
  )
  /** The end that is being moved, and where it is meanwhile. */
  const moving = shallowRef<{ id: string; index: number; end: PointOn } | null>(null)
  const results = shallowRef(new Map<string, { of: Measure; measured: Measured }>())

  const measures = computed(() =>
    [...level.view.measures.values()].sort((a, b) => a.order - b.order || (a.id < b.id ? -1 : 1)),
  )

  function axes(): Quaternion {
    const { stage } = session
    return stage && settings.kept.axes !== 'world' ? handling.axes(stage.view.directions()) : new Quaternion()
  }

  /** How things stand; as they would after what is shown but not done. */
  const where = () =>
    whereWith(
      [...level.previewed]
        .filter(([id]) => level.view.has(id))
        .map(([id, fields]): Operation => ({ do: 'put', id, fields })),
    )
  /** How things stand in the level, whatever is shown meanwhile. */
  const whereItIs = () => whereWith([])

  function whereWith(shownOnly: readonly Operation[]): Where {
    const places = shownOnly.length > 0 ? new PreviewedPlaces(level.view, shownOnly) : null
    return {
      level: level.view,
      matrixOf: places?.matrixOf ?? (id => level.view.worldMatrix(id)),
      axes: axes(),
      shownBy: id => {
        const shown = level.index.shownBy(id)
        return places ? shown.map(each => places.shownAs(each)) : shown
      },
      below: (point, except) =>
        level.index.raycast(
          downFrom(point),
          id => except === null || !level.view.isWithin(id, copyOf(except)?.arrangementId ?? except),
        ),
    }
  }

  /** Whether a measure may come to something else after these were written. */
  function dependsOn(measure: Measure, touched: ReadonlySet<string>): boolean {
    if (measure.kind === 'height') return true
    const { view } = level
    for (const thing of thingsOf(measure)) {
      const id = copyOf(thing)?.arrangementId ?? thing
      for (const each of touched)
        if (
          each === id
          || each === thing
          || !view.has(each)
          || (view.has(id) && view.isWithin(id, each))
          || (view.has(each) && measure.sides.length > 0 && view.isWithin(each, id))
        )
          return true
    }
    return false
  }

  /** Works out what has changed: a measure that was written, or whose things were. Null: all of them. */
  function refresh(touched: ReadonlySet<string> | null): void {
    if (level.view.measures.size + results.value.size === 0) return draw()
    const now = where()
    const next = new Map<string, { of: Measure; measured: Measured }>()
    for (const measure of level.view.measures.values()) {
      const known = results.value.get(measure.id)
      const isKept = known?.of === measure && touched !== null && !dependsOn(measure, touched)
      next.set(measure.id, isKept ? known : { of: measure, measured: measureNow(measure, now) })
    }
    results.value = next
  }

  const print = (value: number, figure: Figure): string => {
    if (figure === 'length') return settings.lengths([value])
    if (figure === 'area') return settings.area(value)
    if (figure === 'angle') return settings.angle(value, printQuantity)
    return Number.isFinite(value)
      ? `${((Math.atan(value) * 180) / Math.PI).toFixed(2)}°  ${(value * 100).toFixed(1)} %  1:${value > 1e-9 ? (1 / value).toFixed(1) : '∞'}`
      : '90.00°'
  }

  /** @param isKept whether its last length is kept */
  const dimensionOf = (
    key: string,
    { lines, guides, numbers }: Measured,
    loud: boolean,
    isKept = false,
  ): Dimension => ({
    lines,
    guides,
    numbers: numbers.map(({ at, value, figure, leg }, i) => ({
      key: `${key} ${i}`,
      at,
      text: `${print(value, figure)}${isKept && i === numbers.length - 1 ? ' kept' : ''}`,
      of: leg === undefined || loud ? undefined : lines[leg],
    })),
    loud,
    clickable: key !== DRAFT,
  })

  /** The sizes of what is picked, along each thing's own axes or the world's, drawn at its nearest lower edges. */
  function sizes(now: Where): Dimension[] {
    const { sizes: drawn } = settings.kept.show
    if (drawn === 'off' || !session.stage) return []
    return sizedIds().flatMap((id): Dimension[] => {
      const toWorld = drawn === 'own' ? now.matrixOf(id) : new Matrix4()
      const back = toWorld.clone().invert()
      const { own, world } = boxesOf(id)
      if (own.isEmpty()) return []
      const isMoved = now.matrixOf(id) !== level.view.worldMatrix(id)
      const { min, max } = drawn === 'own' ? own : isMoved ? own.clone().applyMatrix4(now.matrixOf(id)) : world
      const eye = session.stage!.view.eye.clone().applyMatrix4(back)
      // The lower corner that is nearest to the eye: from it the three sizes go out.
      const near = new Vector3(
        eye.x > (min.x + max.x) / 2 ? max.x : min.x,
        min.y,
        eye.z > (min.z + max.z) / 2 ? max.z : min.z,
      )
      const ends = ([0, 1, 2] as const).map(axis =>
        near
          .clone()
          .setComponent(
            axis,
            near.getComponent(axis) === max.getComponent(axis) && axis !== 1
              ? min.getComponent(axis)
              : max.getComponent(axis),
          ),
      )
      const corner = near.clone().applyMatrix4(toWorld)
      const lines = ends.map(end => [corner.clone(), end.applyMatrix4(toWorld)] as const)
      return [
        {
          lines,
          guides: [],
          loud: false,
          clickable: true,
          numbers: lines.map(([a, b], axis) => ({
            key: `size ${id} ${axis}`,
            at: a.clone().lerp(b, 0.5),
            text: settings.lengths([a.distanceTo(b)]),
            of: [a, b] as const,
          })),
        },
      ]
    })
  }

  /** Boxes of what is picked, which a drag does not change; until something is written. */
  const boxes = new Map<string, { own: Box3; world: Box3 }>()

  function boxesOf(id: string): { own: Box3; world: Box3 } {
    let known = boxes.get(id)
    if (!known)
      boxes.set(
        id,
        (known = {
          own: level.index.extents.ownBox(id),
          world: level.index.extents.boundsOf(level.view.subtree(id), new Box3()),
        }),
      )
    return known
  }

  const sizedIds = () => [...level.selection.ids].filter(id => level.view.has(id)).slice(0, MOST_SIZED)

  function draw(): void {
    const { stage } = session
    if (!stage) return
    const now = where()
    const kept = settings.kept.show.measures
      ? [...results.value.values()].filter(({ of }) => !of.hidden).map(each => shownAs(each, now))
      : []
    const made = draft.value ? [dimensionOf(DRAFT, measureNow(draft.value, now), true)] : []
    stage.layer(Dimensions).set([...kept, ...sizes(now), ...made])
    stage.requestOverlay()
  }

  /** A measure as it is drawn: with its ends to take hold of, and as it would be with the one that is moved. */
  function shownAs({ of, measured }: { of: Measure; measured: Measured }, now: Where): Dimension {
    const isMoved = moving.value?.id === of.id
    return {
      ...dimensionOf(
        of.id,
        isMoved ? measureNow(withEnd(of, moving.value!), now) : measured,
        isMoved || of.id === chosen.value,
        keptOfTape(level.view, of) !== null,
      ),
      ends:
        endsShown.value && !isMoved && hasFreeEnds(of)
          ? of.ends.map((end, i) => ({ key: `${of.id} ${i}`, at: placeOfEnd(end, now).at }))
          : [],
    }
  }

  /** What a press on an end of a measure does: a drag moves it, a click lets it be put by the next one. */
  function grasp(key: string): Grasp | null {
    const [id = '', number] = key.split(' ')
    const measure = level.view.measures.get(id)
    if (!measure || !session.stage || auth.mayOnlyRead) return null
    const index = Number(number)
    const made = (end: PointOn) => withEnd(level.view.measures.get(id) ?? measure, { index, end })
    const before = measure.ends[index - 1] ?? measure.ends[index + 1]
    const tool = (world: ToolWorld) =>
      new EndTool(world, `Moving an end: ${measure.name}`, before ? placeOfEnd(before, whereItIs()).at : null, {
        show: end => {
          moving.value = end && { id, index, end }
          return end ? saysOf(made(end)) : []
        },
        keep: end => {
          if (level.view.measures.has(id)) change(measure, { ends: made(end).ends }, 'Move an end of')
        },
        done: () => modes.stopMode(),
      })
    return { drag: tool(tools.worldOf(session.stage)).drag(), click: () => modes.take(tool) }
  }

  /** What a measure comes to, in words: the main number first, then the others. */
  function saysOf(made: MeasureDraft): string[] {
    const {
      facts: [first, ...more],
      remarks,
    } = measureNow(made, where())
    return [
      ...(first ? [print(first.value, first.figure)] : []),
      ...(more.length > 0
        ? [more.map(({ label, value, figure }) => `${label} ${print(value, figure)}`).join('  ')]
        : []),
      ...remarks,
    ]
  }

  /** Begins to measure; the tool stays until it is stopped. */
  function start(next: MeasureTask): void {
    modes.take(
      world =>
        new MeasureTool(world, next, TASK_NAMES[next].name.toLowerCase(), TASK_NAMES[next].hint, {
          axes,
          show: made => {
            draft.value = made
            draw()
            return made ? saysOf(made) : []
          },
          keep,
        }),
    )
  }

  function keep(made: MeasureDraft): void {
    const name = freeMeasureName(MEASURES[made.kind].name)
    const order = Math.max(-1, ...measures.value.map(each => each.order)) + 1
    level.change(`Measure ${name}`, [{ do: 'put-measure', id: v7(), fields: { ...made, name, order, hidden: false } }])
  }

  function freeMeasureName(base: string): string {
    const taken = new Set(measures.value.map(({ name }) => name))
    for (let number = 1; ; number++) if (!taken.has(`${base} ${number}`)) return `${base} ${number}`
  }

  const change = (measure: Measure, fields: Partial<Measure>, verb = 'Change') =>
    level.change(`${verb} ${measure.name}`, [{ do: 'put-measure', id: measure.id, fields }])
  const remove = (measure: Measure) =>
    level.change(`Remove ${measure.name}`, [{ do: 'remove-measure', id: measure.id }])
  const removeAll = () =>
    level.change(
      'Remove all measures',
      measures.value.map(({ id }): Operation => ({ do: 'remove-measure', id })),
    )

  function lookAt(id: string): void {
    const { measured } = results.value.get(id) ?? {}
    const points = [...(measured?.lines ?? []), ...(measured?.guides ?? [])].flat()
    if (points.length === 0 || !session.stage) return
    session.stage.frameBox(new Box3().setFromPoints(points).expandByScalar(0.3))
  }

  /** A number on the stage was clicked: another can be typed in its place, or it is said why none can. */
  function typeNumber(key: string, at: { x: number; y: number }): void {
    const [first = '', second = '', third] = key.split(' ')
    const pointer = { ...at, ctrl: false, shift: false, alt: false }
    if (first === 'size') return typeSize(second, Number(third) as 0 | 1 | 2, pointer)
    const { of, measured } = results.value.get(first) ?? {}
    const number = measured?.numbers[Number(second)]
    if (!of || !number) return
    chosen.value = of.id
    const { set } = MEASURES[of.kind]
    if (typeof set === 'string') return say(pointer, of.name, set)
    if (auth.mayOnlyRead) return say(pointer, of.name, 'This level is only looked at.')
    typeLength(of, set, Number(second), Math.max(number.value, 0), pointer)
  }

  /** Types a length that a measure says: what it is on is moved. */
  function typeLength(
    measure: Measure,
    { set, ways, movers }: Setter,
    number: number,
    value: number,
    at: PointerAt,
  ): void {
    const { lock } = handling
    const locked = lock?.kind === 'axis' ? new Vector3().setComponent(lock.axis, 1).applyQuaternion(axes()) : null
    const names = movers(measure, level.view)
    let [along, first]: [Along | null, boolean] = [locked, false]
    let made: LengthSet | null = null
    const line = results.value.get(measure.id)!.measured.lines[number]
    const isOpen = !locked && ways && line !== undefined && isSlanted(line[1].clone().sub(line[0]))
    ask(
      at,
      `${measure.name}${lock?.kind === 'axis' ? ` along ${settings.axes.letter(lock.axis)}` : ''}`,
      value,
      metres => {
        made = set(measure, whereItIs(), { number, metres, along, first })
        return made.operations
      },
      operations => level.change(`Set ${measure.name}`, operations),
      {
        says: () => made?.says ?? null,
        avoid: [...thingsOf(measure)].flatMap(thing => whereSeen(copyOf(thing)?.arrangementId ?? thing)),
        choices: [
          ...(isOpen
            ? [
                {
                  label: 'Which way',
                  options: ['Level', 'Along the line'],
                  chosen: 0,
                  choose: (option: number) => (along = option === 0 ? 'level' : 'line'),
                },
              ]
            : []),
          ...(names.length > 1
            ? [{ label: 'What moves', options: names, chosen: 0, choose: (option: number) => (first = option === 1) }]
            : []),
        ],
      },
    )
  }

  /** Where a thing is seen, for leaving it in sight. */
  function whereSeen(id: string): ScreenBox[] {
    const box = level.view.has(id) ? level.index.extents.boundsOf(level.view.subtree(id)) : null
    return box && !box.isEmpty() && session.stage ? session.stage.view.keptClear(boxCorners(box)) : []
  }

  /** Types a size of something picked: it grows about its own point. */
  function typeSize(id: string, axis: 0 | 1 | 2, at: PointerAt): void {
    if (!level.view.has(id)) return
    const { name } = level.view.need(id)
    const title = `${settings.axes.letter(axis)} of ${name}`
    if (level.view.isLocked(id)) return say(at, title, `${name} is locked.`)
    const isOwn = settings.kept.show.sizes === 'own' || localAxes(level.view, id).angleTo(new Quaternion()) < 1e-6
    if (!isOwn) return say(at, title, 'It is turned against the world: show its sizes along its own axes to type one.')
    const now = level.index.extents.localSizeOf(id)
    if (!now) return
    ask(
      at,
      title,
      now[axis]!,
      metres => {
        if (!(metres > 0)) throw new SetLengthError('A size has to be more than 0.')
        return [{ do: 'put', id, fields: { scale: scaleForMetres(level.view.need(id), axis, metres, now[axis]!) } }]
      },
      operations => level.change(edits.label('Size', [id]), operations),
    )
  }

  function ask(
    at: PointerAt,
    title: string,
    value: number,
    make: (metres: number) => Operation[],
    commit: (operations: Operation[]) => void,
    more: Pick<TypedNumbers, 'says' | 'choices' | 'avoid'> = {},
  ): void {
    let latest: Operation[] = []
    session.typed = {
      at,
      title,
      fields: [{ label: 'Length', quantity: 'length', value }],
      ...more,
      check: ([metres]) => {
        try {
          latest = make(metres!)
          return null
        } catch (error) {
          if (!(error instanceof SetLengthError)) throw error
          return error.message
        }
      },
      change: () => showPreview(latest.filter(operation => operation.do === 'put')),
      commit: () => {
        endTyping()
        commit(latest)
      },
      cancel: endTyping,
    }
  }

  /** Says at a number why none can be typed in its place. */
  function say(at: PointerAt, title: string, why: string): void {
    session.typed = { at, title, fields: [], says: () => why, change: () => {}, commit: endTyping, cancel: endTyping }
  }

  function endTyping(): void {
    showPreview(null)
    session.typed = null
    chosen.value = null
  }

  /** All numbers of a measure as text, for the clipboard. */
  const textOf = (id: string) =>
    (results.value.get(id)?.measured.facts ?? [])
      .map(({ label, value, figure, axis }) => `${settings.axes.label(label, axis)}: ${print(value, figure)}`)
      .join('\n')

  modes.onGrasp(grasp)
  modes.onNumber(({ key, at }) => typeNumber(key, at))
  level.onTouched(touched => {
    boxes.clear()
    refresh(touched)
  })
  // A drag that is shown moves what measures are on.
  watch(
    () => level.previewed,
    (now, before) => refresh(new Set([...now.keys(), ...before.keys()])),
  )
  // By other axes than the world's, the parts of a length go with what is picked.
  watch(
    [
      () => level.summary?.id,
      () => settings.kept.axes,
      () => (settings.kept.axes === 'world' ? null : level.selection),
    ],
    () => refresh(null),
    { immediate: true },
  )
  watch(
    [
      results,
      chosen,
      moving,
      endsShown,
      () => level.selection,
      () => session.stage,
      () => settings.kept.show.measures,
      () => settings.kept.show.sizes,
      () => settings.kept.unit,
      () => settings.boardName,
    ],
    draw,
  )

  return {
    task,
    tasks: TASK_KINDS,
    measures,
    results,
    chosen,
    start,
    print,
    change,
    remove,
    removeAll,
    lookAt,
    textOf,
  }
})

const withEnd = (measure: Measure, { index, end }: { index: number; end: PointOn }): Measure => ({
  ...measure,
  ends: measure.ends.map((each, i) => (i === index ? end : each)),
})

/** Whether the ends of a measure are points that were clicked one by one: edges and faces are clicked as a whole. */
const hasFreeEnds = ({ kind, ends }: Measure) =>
  kind === 'angle' ? ends.length === 3 : kind === 'slope' ? ends.length === 2 : true

const downFrom = (point: Vector3) => new Ray(point.clone(), new Vector3(0, -1, 0))
