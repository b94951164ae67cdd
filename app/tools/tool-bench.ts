import { Box3, BoxGeometry, Quaternion, Vector3 } from 'three'
import { LevelIndex } from '~~/core/geometry/level-index'
import { Solid } from '~~/core/geometry/solid'
import { MeshBuilder } from '~~/core/kit/mesh-builder'
import { applyChange } from '~~/core/level/change'
import { LevelDocument } from '~~/core/level/document'
import type { HandleFrame } from '~~/core/handles/handle'
import type { Constraint } from '~~/core/handles/lock'
import { pivotOf } from '~~/core/handles/pivot'
import { isBlockKey, meshOfBlockKey } from '~~/core/kit/block-key'
import type { DuplicateAs } from '~~/core/level/duplicate'
import type { Operation, Placement, Vec3 } from '~~/core/level/schema'
import type { Step } from '~~/core/snap/grid'
import { WORLD_GRID } from '~~/core/snap/grid'
import type { HugRule } from '~~/core/snap/hug'
import { SNAP_POINT_KINDS } from '~~/core/snap/vertex'
import { testId, testPlacement } from '../../tests/support'
import type { Selection, Stage } from '../stage/stage'
import type { Hints } from '../stage/snap-hints'
import { View } from '../stage/view'
import { sizeBoxFor } from './drags/size'
import type { PickFrame, PointerAt, Readout, StepKind, ToolWorld, TypedNumbers } from './gesture'

// For the tests of the tools: an editor without a page. The view, the level and the picking are real; nothing is drawn.

const plain = { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] } as const
const cube = new Solid(new MeshBuilder().add({ ...plain }, new BoxGeometry(1, 1, 1)).build())

export function toolBench(placements: Partial<Placement>[]) {
  const document = new LevelDocument(placements.map((fields, i) => testPlacement(i + 1, { kind: 'part', partId: testId(99), ...fields })))
  const solid = (shape: string) => isBlockKey(shape) ? new Solid(meshOfBlockKey(shape)) : cube
  const index = new LevelIndex(document, solid)
  const view = new View('walkaround', true, () => new Box3(new Vector3(-9, 0, -9), new Vector3(9, 3, 9)), () => {})
  view.setRect({ x: 0, y: 0, width: 800, height: 600 })
  view.lookFrom(new Vector3(0, 6, 12), new Vector3(0, 0, 0))
  const seen = {
    selection: { ids: new Set<string>(), last: null } as Selection,
    labels: [] as string[],
    readouts: [] as (Readout | null)[],
    frames: [] as (PickFrame | null)[],
    previews: [] as (readonly Operation[] | null)[],
    asked: null as TypedNumbers | null,
    hints: null as Hints | null,
    speed: 6,
    markHits: [] as { id: string, distance: number }[],
  }
  const settings = {
    steps: { grid: { size: 0.5, lattice: true }, turn: { size: 15, lattice: false }, size: { size: 0, lattice: false } } as Record<StepKind, Step>,
    axes: new Quaternion(),
    each: false,
    around: null as Vec3 | null,
    lock: null as Constraint | null,
    vertex: false,
    abut: false,
    hug: null as HugRule | null,
    duplicateAs: 'instance' as DuplicateAs,
  }
  const stage = {
    view,
    viewAt: () => view,
    handles: { light: () => true, place: () => {}, setWedge: () => {} },
    marks: { hits: () => seen.markHits, ids: () => [] },
    ghost: { show: () => {}, hide: () => {} },
    hint: (hints: Hints | null) => {
      seen.hints = hints
    },
    workIn: () => {},
    requestDraw: () => {},
    sceneChanged: () => {},
    setHovered: () => {},
  } as unknown as Stage
  const pick = (ids: Iterable<string>) => {
    const list = [...ids]
    seen.selection = { ids: new Set(list), last: list.at(-1) ?? null }
  }
  const pivot = () => pivotOf(document, seen.selection.last!)
  const frame = (): HandleFrame | null => {
    const { last, ids } = seen.selection
    if (last === null || document.isLocked(last)) return null
    return { origin: settings.around ? new Vector3(...settings.around) : pivot(), axes: settings.axes, box: sizeBoxFor(world, [...ids], settings.axes) }
  }
  const world: ToolWorld = {
    stage,
    document: () => document,
    index: () => index,
    solid,
    selection: () => seen.selection,
    pick,
    change: (label, operations) => {
      seen.labels.push(label)
      index.update(applyChange(document, operations).touched)
      return true
    },
    preview: operations => void seen.previews.push(operations),
    frame,
    around: () => settings.each ? null : settings.around ?? pivot().toArray(),
    pivotMode: () => 'own',
    duplicateAs: () => settings.duplicateAs,
    step: (kind, inverted) => inverted ? { ...settings.steps[kind], size: 0 } : settings.steps[kind],
    gridFrame: () => WORLD_GRID,
    moveSnaps: inverted => ({
      grid: { ...inverted ? { size: 0, lattice: true } : settings.steps.grid, frame: WORLD_GRID },
      abut: settings.abut, vertex: settings.vertex ? new Set(SNAP_POINT_KINDS) : null, hug: settings.hug,
    }),
    isGround: () => true,
    isLeaning: () => false,
    lock: () => settings.lock,
    setLock: (lock) => {
      settings.lock = lock
    },
    vertexOn: () => settings.vertex,
    holdVertex: (held) => {
      settings.vertex = held
    },
    startDrag: () => null,
    ask: (numbers) => {
      seen.asked = numbers
    },
    gestureDone: () => {},
    printLength: (metres, signed) => `${signed && metres >= 0 ? '+' : ''}${metres.toFixed(2)} m`,
    say: readout => void seen.readouts.push(readout),
    canPick: id => !document.isLocked(id),
    marksPickable: () => seen.markHits.length > 0,
    showFrame: frame => void seen.frames.push(frame),
    flySpeed: () => seen.speed,
    setFlySpeed: (speed) => {
      seen.speed = speed
    },
  }
  /** A pointer over a point of the world. */
  const over = (x: number, y: number, z: number, keys: Partial<PointerAt> = {}): PointerAt =>
    ({ ...view.project(new Vector3(x, y, z))!, ctrl: false, shift: false, alt: false, ...keys })
  return { document, index, view, world, seen, settings, over, pick }
}
