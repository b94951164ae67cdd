import { Box3, BoxGeometry, Vector3 } from 'three'
import { LevelIndex } from '~~/core/geometry/level-index'
import { Solid } from '~~/core/geometry/solid'
import { MeshBuilder } from '~~/core/kit/mesh-builder'
import { applyChange } from '~~/core/level/change'
import { LevelDocument } from '~~/core/level/document'
import type { Placement } from '~~/core/level/schema'
import { testId, testPlacement } from '../../tests/support'
import type { Selection, Stage } from '../stage/stage'
import { View } from '../stage/view'
import type { PickFrame, PointerAt, Readout, ToolWorld } from './gesture'

// For the tests of the tools: an editor without a page. The view, the level and the picking are real; nothing is drawn.

const plain = { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] } as const
const cube = new Solid(new MeshBuilder().add({ ...plain }, new BoxGeometry(1, 1, 1)).build())

export function toolBench(placements: Partial<Placement>[]) {
  const document = new LevelDocument(placements.map((fields, i) => testPlacement(i + 1, { kind: 'part', partId: testId(99), ...fields })))
  const index = new LevelIndex(document, id => document.need(id).partId === null ? undefined : cube)
  const view = new View('walkaround', true, () => new Box3(new Vector3(-9, 0, -9), new Vector3(9, 3, 9)), () => {})
  view.setRect({ x: 0, y: 0, width: 800, height: 600 })
  view.lookFrom(new Vector3(0, 6, 12), new Vector3(0, 0, 0))
  const seen = {
    selection: { ids: new Set<string>(), last: null } as Selection,
    labels: [] as string[],
    readouts: [] as (Readout | null)[],
    frames: [] as (PickFrame | null)[],
    previews: [] as Map<string, unknown>[],
    speed: 6,
    markHits: [] as { id: string, distance: number }[],
  }
  const stage = {
    view,
    viewAt: () => view,
    handles: { light: () => true, place: () => {} },
    marks: { hits: () => seen.markHits, ids: () => [] },
    preview: (matrices: Map<string, unknown>) => seen.previews.push(matrices),
    requestDraw: () => {},
    sceneChanged: () => {},
    setHovered: () => {},
  } as unknown as Stage
  const pick = (ids: Iterable<string>) => {
    const list = [...ids]
    seen.selection = { ids: new Set(list), last: list.at(-1) ?? null }
  }
  const world: ToolWorld = {
    stage,
    document: () => document,
    index: () => index,
    selection: () => seen.selection,
    pick,
    change: (label, operations) => {
      seen.labels.push(label)
      index.update(applyChange(document, operations).touched)
      return true
    },
    gridStep: inverted => inverted ? 0 : 0.5,
    turnStep: () => 15,
    isLeaning: () => false,
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
  return { document, view, world, seen, over, pick }
}
