import { createPinia, setActivePinia } from 'pinia'
import type { Quaternion } from 'three'
import { Box3, BoxGeometry, Vector3 } from 'three'
import { markRaw } from 'vue'
import type { DuplicateAs } from '~~/core/edit/duplicate'
import type { Constraint } from '~~/core/edit/handles/lock'
import type { GridStep } from '~~/core/edit/snap/grid'
import type { Operation, Placement } from '~~/core/level/schema'
import type { Quat, Vec3 } from '~~/core/math/vectors'
import { MeshBuilder } from '~~/core/mesh/mesh-builder'
import { testId, testPlacement } from '../../tests/support'
import type { Hints } from '~/stage/snap-hints'
import type { Stage } from '~/stage/stage'
import { View } from '~/stage/view'
import { useHandling } from './handling'
import { useKit } from './kit'
import { useLevel } from './level'
import { useSettings } from './settings'
import { useStageSession } from './stage-session'
import { useTools } from './tools'
import type { PickFrame, PointerAt, Readout, TypedNumbers } from './tools/gesture'
import type { StepKind, ToolWorld } from './tools/tool-world'

// For the tests of tools and stores: the editor without a page. Stores, view, level and picking are the real ones;
// nothing is drawn, and no server is asked.

const plain = { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] } as const
const cube = new MeshBuilder().add({ ...plain }, new BoxGeometry(1, 1, 1)).build()

/** @param placements of a part that is a cube of 1 m, unless they say otherwise; with the ids of `testId` from 1 on */
export function testEditor(placements: Partial<Placement>[]) {
  setActivePinia(createPinia())
  const [kit, settings, handling, session, tools] = [
    useKit(),
    useSettings(),
    useHandling(),
    useStageSession(),
    useTools(),
  ]
  const store = useLevel()
  const placed = placements.map((fields, i) => testPlacement(i + 1, { kind: 'part', partId: testId(99), ...fields }))
  for (const { partId } of placed) if (partId !== null) kit.shapes.put(partId, 'cube', cube)
  Object.assign(kit, { loadMissing: () => Promise.resolve(false) })
  store.show(placed, {})
  Object.assign(store, { summary: { id: testId(1000), name: 'Yard' } })
  const { level, index } = store.session

  const view = new View(
    'walkaround',
    true,
    () => new Box3(new Vector3(-9, 0, -9), new Vector3(9, 3, 9)),
    () => {},
  )
  view.setRect({ x: 0, y: 0, width: 800, height: 600 })
  view.lookFrom(new Vector3(0, 6, 12), new Vector3(0, 0, 0))
  const seen = {
    readouts: [] as (Readout | null)[],
    frames: [] as (PickFrame | null)[],
    previews: [] as (readonly Operation[] | null)[],
    hints: null as Hints | null,
    markHits: [] as { id: string; distance: number }[],
    get selection() {
      return store.selection
    },
    /** What was done, in order. */
    get labels() {
      return store.undoSteps.map(({ label }) => label)
    },
    get asked(): TypedNumbers | null {
      return session.typed
    },
    get speed() {
      return world.flySpeed()
    },
  }
  const stage = {
    view,
    viewAt: () => view,
    handles: {
      choose: () => {},
      light: () => true,
      place: () => {},
      setWedge: () => {},
      setPin: () => {},
      setGrips: () => {},
      setTurnStep: () => {},
      asideOf: () => ({ x: 0, y: 0 }),
    },
    shown: { marks: { hits: () => seen.markHits, ids: () => [], shown: () => [] } },
    ghost: { show: () => {}, hide: () => {} },
    layer: () => ({ set: () => {}, outline: () => {}, brush: () => {}, tint: () => {} }),
    numberAt: () => null,
    graspAt: () => null,
    panes: { shown: () => [], activePane: 0, views: [view] },
    hint: (hints: Hints | null) => {
      seen.hints = hints
    },
    preview: () => {},
    workIn: () => {},
    picture: () => Promise.resolve(null),
    requestDraw: () => {},
    requestOverlay: () => {},
    moves: () => {},
    sceneChanged: () => {},
    setHovered: () => {},
  } as unknown as Stage
  session.stage = markRaw(stage)

  Object.assign(settings.kept, { unit: 'm', axes: 'world', pivot: 'own' })
  settings.kept.steps.grid = { on: true, size: 0.5, lattice: true }
  handling.choice = 'all'
  /** What is on, as a person would have it by the rail and keys. */
  const set = {
    steps: (steps: Partial<Record<StepKind, GridStep>>) => {
      for (const [kind, step] of Object.entries(steps)) settings.kept.steps[kind as StepKind] = { on: true, ...step }
    },
    axes: (axes: Quaternion) => {
      settings.kept.axes = 'borrowed'
      handling.borrowed = { axes: axes.toArray() as Quat, from: 'the test' }
    },
    around: (point: Vec3 | 'each') => {
      settings.kept.pivot = point === 'each' ? 'each' : 'pin'
      if (point !== 'each') handling.pin = point
    },
    lock: (lock: Constraint | null) => {
      handling.lock = lock
    },
    duplicateAs: (as: DuplicateAs) => {
      settings.kept.duplicate.as = as
    },
  }

  const real = tools.worldOf(stage)
  const world: ToolWorld = {
    ...real,
    preview: operations => {
      seen.previews.push(operations)
      real.preview(operations)
    },
    say: readout => {
      seen.readouts.push(readout)
      real.say(readout)
    },
    showFrame: frame => {
      seen.frames.push(frame)
      real.showFrame(frame)
    },
    // Marks that are there may be picked.
    marksPickable: () => seen.markHits.length > 0,
  }
  /** A pointer over a point of the world. */
  const over = (x: number, y: number, z: number, keys: Partial<PointerAt> = {}): PointerAt => ({
    ...view.project(new Vector3(x, y, z))!,
    ctrl: false,
    shift: false,
    alt: false,
    ...keys,
  })
  return { level, index, view, world, seen, set, settings, handling, over, pick: store.pick }
}
