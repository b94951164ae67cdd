import { cameraOwn, lightOwn, markerOwn } from '../core/level/create'
import { Matrix4, Vector3 } from 'three'
import { turnTo } from '../core/edit/aim'
import { FIRST_SKIES } from '../core/level/sky'
import type { LevelRecords } from '../core/level/level'
import type { Block, Placement } from '../core/level/schema'
import type { Quat, Vec3 } from '../core/math/vectors'
import { quatToDegrees } from '../core/math/transform'
import { LevelBuilder } from './builder'
import { EXEMPTIONS, putFindings } from './findings'
import { putGreenery } from './greenery'
import { KEPT } from './kept'
import { PRESETS, RECIPES } from './presets-and-recipes'
import { demoId } from './kit'
import { embankmentHeight } from './parts/quay'
import { LANDING_BLOCKS, putRoundLanding } from './round-landing'

export const LANTERN_QUAY = 'Lantern Quay'

const GROUND_LAYER = demoId('layer/Ground')
const MARKS_LAYER = demoId('layer/Marks')

/** The lower edge of the bank, a little below the paving, so that its foot meets the slabs. */
const BANK_BOTTOM = -0.55

const blockOf = (name: string, color: string, shape: Block['shape']): Block => ({
  id: demoId(`block/${name}`),
  color,
  shape,
})
const KIOSK = {
  floor: blockOf('floor', '#b9a58b', { type: 'slab', width: 3.6, depth: 2.6, thickness: 0.32 }),
  walls: blockOf('walls', '#c98f5a', { type: 'box', width: 2.4, height: 2.2, depth: 1.4 }),
  steps: blockOf('steps', '#b9a58b', { type: 'steps', width: 1.6, height: 0.32, depth: 0.64, count: 2 }),
}

/** Crates that were let fall onto each other and settled. */
const HEAP: readonly (readonly [Vec3, Quat])[] = [
  [
    [-8.49611, -0.00083, 0.18468],
    [-0.0001406, 0.1722208, -0.0002038, 0.9850583],
  ],
  [
    [-7.73185, -0.00058, 0.81688],
    [-0.0006647, -0.3281352, -0.0001882, 0.9446305],
  ],
  [
    [-8.06203, 0.79784, 0.16675],
    [-0.0002636, 0.4349504, -0.0005893, 0.9004542],
  ],
]

/** From the steps of the kiosk over the bridge to the bandstand, from its first point. */
const WAY: Vec3[] = [
  [0, 0, 0],
  [0, -0.32, -0.9],
  [0, 0.38, -4.95],
  [-0.4, -0.32, -9],
  [-0.9, -0.32, -9.9],
  [-3.2, -0.32, -9.75],
  [-4.85, -0.32, -10.75],
]

/** The turn, as degrees, with which -Z at one point looks at another. */
function degreesAimed(eye: Vec3, target: Vec3): Vec3 {
  return quatToDegrees(turnTo(new Vector3(...eye), new Vector3(...target), new Matrix4())!)
}

/**
 * Where the bank's grass is at a place of the level.
 *
 * @param above it: its triangles lie over the curve they are made of there
 */
function onBank(x: number, z: number, above = 0): Vec3 {
  return [x, BANK_BOTTOM + embankmentHeight(x, z + 12) + above, z]
}

/**
 * The level of the demo: a night market on a canal quay. The quay's paving lies at height 0; the canal runs along X on
 * its +Z side, 1.4 m lower; a grassed bank rises behind it.
 */
export function lanternQuay(): { placements: Placement[] } & Omit<LevelRecords, 'measures'> {
  const { placements, add, group, put } = new LevelBuilder('placement')

  const ground = add(
    'Quay ground',
    { kind: 'group', partId: null, parentId: null, layerId: GROUND_LAYER, own: { open: true } },
    [0, 0, 0],
    [0, 0, 0],
  )
  for (let column = 0; column < 5; column++) {
    for (let row = 0; row < 2; row++) {
      put(ground, `Quay slab ${column * 2 + row + 1}`, 'Quay slab 4 m', [-8 + column * 4, -0.4, -4 + row * 4])
    }
    put(ground, `Quay edge ${column + 1}`, 'Quay edge 4 m', [-8 + column * 4, -0.4, 2.4])
    put(ground, `Canal wall ${column + 1}`, 'Canal wall 4 m', [-8 + column * 4, -2.8, 2.45])
  }
  put(ground, 'Bank behind the quay', 'Embankment', [0, BANK_BOTTOM, -12])
  put(ground, 'Far landing', 'Quay slab 4 m', [8.3, -0.4, 12.75])
  put(ground, 'Far landing wall', 'Canal wall 4 m', [8.3, -2.8, 10.95], 180)
  for (const [i, x] of [-8, 0, 8, -16, -24].entries())
    put(ground, `Canal water ${i + 1}`, 'Canal water 8 m', [x, -1.4, 6.8])

  const stalls = group('Stalls')
  const stall = (name: string, cloth: string, at: Vec3, heading: number) => {
    const whole = group(name, at, [0, heading, 0], stalls)
    put(whole, `${name}: frame`, 'Stall frame', [0, 0, 0])
    put(whole, `${name}: awning`, `Awning, ${cloth}`, [0, 1.9, 0.15])
    return whole
  }
  stall('Fruit stall', 'red', [-7, 0, -4], 12)
  stall('Spice stall', 'ochre', [-3, 0, -4.6], 4)
  stall('Tea stall', 'green', [1, 0, -4.6], -4)
  stall('Lamp stall', 'red', [5, 0, -4], -12)

  const lanterns = group('Lanterns')
  const posts: Vec3[] = [
    [-9.4, 0, 1.5],
    [-5, 0, 1.5],
    [-0.6, 0, 1.5],
    [3.8, 0, 1.5],
    [8.6, 0, 1.5],
    [-9.2, 0, -3.4],
    [8.2, 0, -3.2],
  ]
  posts.forEach((at, i) => put(lanterns, `Lantern post ${i + 1}`, 'Lantern post', at))

  const waterside = group('Waterside')
  put(waterside, 'Bridge to the far bank', 'Bridge span', [8.3, -1.3, 6.8], 90)
  put(waterside, 'Jetty', 'Plank jetty', [-6.5, -1.75, 4.8])
  put(waterside, 'Green boat', 'Rowing boat', [-3.9, -1.52, 5.2], 14)
  put(waterside, 'Drifting boat', 'Rowing boat', [2.6, -1.52, 6.6], 105)
  for (let i = 0; i < 4; i++) put(waterside, `Railing ${i + 1}`, 'Railing 2 m', [-2 + i * 2, 0, 2.5])
  put(waterside, 'Steps to the bank', 'Steps flight', [0, 0, -6.6])

  const goods = group('Goods')
  put(goods, 'Crate 1', 'Crate', [-4.9, 0, -2.9], 8)
  put(goods, 'Crate 2', 'Crate', [-4, 0, -2.6], -15)
  put(goods, 'Crate 3', 'Crate', [-4.5, 0.8, -2.8], 30)
  HEAP.forEach(([at, rotation], i) =>
    add(
      `Heaped crate ${i + 1}`,
      { kind: 'part', partId: demoId('part/Crate'), parentId: goods, rotation },
      at,
      [0, 0, 0],
    ),
  )
  put(goods, 'Barrel 1', 'Barrel', [4.2, 0, -2.7])
  put(goods, 'Barrel 2', 'Barrel', [5, 0, -2.6])
  put(goods, 'Basket 1', 'Basket', [-6.6, 1.015, -3.4])
  put(goods, 'Basket 2', 'Basket', [-7.6, 1.015, -3.2])
  put(goods, 'Basket 3', 'Basket', [1.5, 1.015, -3.95])

  const square = group('Square')
  put(square, 'Bandstand', 'Bandstand floor', [1.6, 0, -0.8])
  put(square, 'Bench 1', 'Bench', [-6.4, 0, -0.6], 60)
  put(square, 'Bench 2', 'Bench', [6, 0, -0.6], -60)
  put(square, 'Glass screen', 'Glass screen', [4.6, 0, -2.1])
  put(square, 'Planter 1', 'Planter', [-3.4, 0, 1.2])
  put(square, 'Planter 2', 'Planter', [5.8, 0, 1.2])
  put(square, 'Planter on the bank', 'Planter', onBank(-5, -10.6), 20)
  put(square, 'Bench on the bank', 'Bench', onBank(3.5, -10.2, 0.05), -6)
  put(square, 'Kerb at the bank', 'Kerb 2 m', [-6, 0, -5.75])

  // Still being thought out: a ferry kiosk on the far bank, in blocks.
  const kiosk = group('Ferry kiosk, blocked out')
  const block = (name: string, blockId: string, at: Vec3, heading = 0) =>
    add(name, { kind: 'block', partId: null, blockId, parentId: kiosk }, at, [0, heading, 0])
  block('Kiosk floor', KIOSK.floor.id, [8.3, 0.32, 12.9])
  block('Kiosk walls', KIOSK.walls.id, [8.3, 0.32, 13.4])
  block('Kiosk steps', KIOSK.steps.id, [8.3, 0, 11.28], 180)

  putRoundLanding({ group, put, add })
  putGreenery({ group, put, add })

  const marks = group('Cameras and lights')
  const mark = (
    name: string,
    kind: 'camera' | 'light' | 'marker',
    own: Placement['own'],
    at: Vec3,
    turn: Vec3,
    scale: Vec3 = [1, 1, 1],
  ) => add(name, { kind, partId: null, parentId: marks, layerId: MARKS_LAYER, own, scale }, at, turn)
  // The order and the seconds are those of the cut list.
  const shot = (order: number, seconds: number, fieldOfView: number, aspect = 16 / 9) =>
    cameraOwn({ fieldOfView, aspect, cut: { order, seconds } })
  mark('Arrival from the steps', 'camera', shot(0, 4, 50), [-8.6, 1.7, 1.6], [-6, -66, 0])
  mark('Under the bridge', 'camera', shot(1, 3, 62), [5.2, -0.6, 8.6], [6, 38, 0])
  mark('Over the market', 'camera', shot(2, 4, 40, 2.39), [-6.5, 5.2, 8.6], [-22, -28, 0])
  mark('Row of lanterns', 'camera', shot(3, 2.5, 34), [8, 1.5, 2.1], [0, 82, 0])
  mark(
    'Before the bandstand',
    'camera',
    {
      ...shot(4, 5, 42, 4 / 3),
      aim: { at: [1.6, 0.15, -0.8], on: demoId('placement/Bandstand'), point: [0, 0.15, 0] },
    },
    [4.9, 2.6, 2.2],
    degreesAimed([4.9, 2.6, 2.2], [1.6, 0.15, -0.8]),
  )
  mark(
    'Afternoon sun',
    'light',
    lightOwn({ light: 'sun', color: '#fff1d6', intensity: 102_000, when: 'day' }),
    [-6, 8, 6],
    degreesAimed([-0.45, 0.8, 0.52], [0, 0, 0]),
  )
  mark(
    'Moon',
    'light',
    lightOwn({ light: 'sun', color: '#a9bfd8', intensity: 2.5, when: 'night' }),
    [6, 8, 6],
    degreesAimed([0.5, 0.7, 0.35], [0, 0, 0]),
  )
  mark(
    'Light on the bandstand',
    'light',
    lightOwn({
      light: 'spot',
      color: '#ffe3b0',
      intensity: 420,
      range: 9,
      innerCone: 18,
      outerCone: 30,
      when: 'night',
    }),
    [1.6, 4.6, 2.4],
    degreesAimed([1.6, 4.6, 2.4], [1.6, 0, -0.8]),
  )
  mark(
    'Glow of the tea stall',
    'light',
    lightOwn({ light: 'point', color: '#ffd77a', intensity: 45, range: 7, when: 'night' }),
    [1, 1.75, -4.2],
    [0, 0, 0],
  )
  mark('Visitor', 'marker', markerOwn('spawn'), [8.3, 0, 0.4], [0, -90, 0])
  mark(
    'Boats land here',
    'marker',
    markerOwn('volume', {
      text: 'Kept free for boats.',
      tags: ['water'],
      color: '#2f6f86',
      fields: [
        { key: 'boats', type: 'number', value: 3 },
        { key: 'open at night', type: 'yes-no', value: true },
      ],
    }),
    [-6.5, -1.4, 7.4],
    [0, 0, 0],
    [5.5, 1.2, 3],
  )
  mark(
    'Way to the music',
    'marker',
    markerOwn('walk', { text: 'Everybody comes this way.', points: WAY }),
    [8.3, 0.32, 11.75],
    [0, 0, 0],
  )
  putFindings({ group, put, mark, square, goods })
  mark(
    'Note for the band',
    'marker',
    markerOwn('note', { text: 'Keep the view to the water free.' }),
    [1.6, 1.4, -0.8],
    [0, 0, 0],
  )
  return {
    placements,
    layers: [
      { id: GROUND_LAYER, name: 'Ground', color: '#0e6e6e', visible: true, locked: false, order: 0 },
      { id: MARKS_LAYER, name: 'Marks', color: '#6d3a5e', visible: true, locked: false, order: 1 },
    ],
    stations: [
      {
        id: demoId('station/whole'),
        name: 'The whole quay',
        eye: [9, 9, 16],
        target: [-0.5, 0, -2],
        fieldOfView: 50,
        order: 0,
      },
      {
        id: demoId('station/bridge'),
        name: 'From the bridge',
        eye: [8.3, 2.4, 7.2],
        target: [-1, 0.6, -2],
        fieldOfView: 60,
        order: 1,
      },
      {
        id: demoId('station/stalls'),
        name: 'Along the stalls',
        eye: [-8.8, 2, -1.8],
        target: [5, 0.9, -3.6],
        fieldOfView: 60,
        order: 2,
      },
    ],
    blocks: [...Object.values(KIOSK), ...Object.values(LANDING_BLOCKS)],
    limits: [{ id: demoId('limit/off-grid'), of: 'off-grid', off: false, values: { step: 0.05 } }],
    exemptions: EXEMPTIONS,
    relations: KEPT,
    presets: PRESETS,
    recipes: RECIPES,
    threads: [
      {
        id: demoId('thread/band'),
        text: 'Is this as far as the band may come? The way along the water has to stay free.',
        by: 'Mara',
        when: '2026-11-02T18:04:00.000Z',
        done: false,
        at: { at: [1.6, 0.4, -0.8], on: null, point: [1.6, 0.4, -0.8] },
      },
      {
        id: demoId('thread/boat'),
        text: 'The boat is right there now.',
        by: 'Joon',
        when: '2026-11-01T16:20:00.000Z',
        done: true,
        at: { at: [-4, 0, 3], on: null, point: [-4, 0, 3] },
      },
    ],
    answers: [
      {
        id: demoId('answer/band'),
        threadId: demoId('thread/band'),
        text: 'Half a metre less would be better for the prams.',
        by: 'Joon',
        when: '2026-11-02T18:31:00.000Z',
      },
    ],
    skies: [
      { id: demoId('sky/day'), ...FIRST_SKIES.day },
      { id: demoId('sky/night'), ...FIRST_SKIES.night, color: '#6f87a3', ground: '#3d342b', ambient: 8, exposure: 3.4 },
    ],
  }
}
