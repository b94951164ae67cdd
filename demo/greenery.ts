import { RULES } from '../core/arrange/rules'
import { LIMITS } from '../core/arrange/scatter/limits'
import type { Ingredient, ScatterRule } from '../core/arrange/scatter/rule'
import { FIRST_INGREDIENT } from '../core/arrange/scatter/rule'
import type { Placement } from '../core/level/schema'
import type { Vec3 } from '../core/math/vectors'
import { demoId } from './kit'
import { embankmentHeight } from './parts/quay'

type Hands = {
  group: (name: string, at?: Vec3) => string
  put: (parentId: string, name: string, partName: string, at: Vec3) => string
  add: (
    name: string,
    fields: Pick<Placement, 'kind' | 'partId' | 'parentId'> & Partial<Placement>,
    at: Vec3,
    turn: Vec3,
  ) => string
}

/** The path kept clear over the bank, from above the steps to the bench, in the bank's own axes. */
const PATH: readonly [number, number][] = [
  [0, 5.6],
  [0.4, 4],
  [1.6, 2.9],
  [3.4, 2.3],
  [5.4, 2.2],
]

/** What grows on the bank, and the leaves that have blown onto the quay: two scatters. */
export function putGreenery({ group, put, add }: Hands): void {
  const greenery = group('Greenery')
  const scatter = (name: string, rule: Omit<ScatterRule, 'type'>, at: Vec3, parts: readonly string[]) => {
    const id = add(
      name,
      { kind: 'arrangement', partId: null, parentId: greenery, own: { rule: { type: 'scatter', ...rule } } },
      at,
      [0, 0, 0],
    )
    for (const part of parts) put(id, part, part, [0, 0, 0])
  }
  const ingredients = (list: Record<string, Partial<Ingredient>>): Ingredient[] =>
    Object.entries(list).map(([part, fields], i) => ({
      ...FIRST_INGREDIENT,
      source: demoId(`placement/${part}`),
      stream: i + 1,
      ...fields,
    }))
  const bank = {
    'Grass tuft': { weight: 10, size: [0.7, 1.5] as [number, number], lean: 0.5, tilt: 6, room: 0.12 },
    'Meadow star': { weight: 3, lean: 0.3, tilt: 8, room: 0.1 },
    'Plum bell': { weight: 2, lean: 0.3, tilt: 8, room: 0.1 },
    'Reed': { weight: 1.6, size: [0.7, 1.1] as [number, number], tilt: 4, room: 0.22 },
    'Field stone': {
      weight: 1,
      size: [0.4, 1.3] as [number, number],
      lean: 1,
      height: [-0.08, -0.03] as [number, number],
      room: 0.25,
    },
  }
  const first = RULES.scatter.first
  scatter(
    'Growth on the bank',
    {
      ...first,
      seed: 12,
      on: [{ id: demoId('placement/Bank behind the quay'), stream: 1 }],
      density: 3.2,
      spread: 'clumps',
      clump: { size: 2.4, share: 0.7 },
      mix: ingredients(bank),
      limits: [
        { ...LIMITS.slope.first, from: 0, to: 38, soft: 8 },
        { ...LIMITS.height.first, from: -0.2, to: 3 },
        { ...LIMITS.things.first, from: 9, soft: 1.5, which: { by: 'tag', tag: 'water' } },
        { ...LIMITS.things.first, from: 0.35, which: { by: 'tag', tag: 'rest' } },
      ],
      paint: {
        begins: 'everywhere',
        strokes: [
          {
            on: 1,
            below: 0,
            does: 'remove',
            radius: 0.9,
            strength: 1,
            points: PATH.map(([x, z]): Vec3 => [x, embankmentHeight(x, z), z]),
          },
        ],
      },
    },
    [0, 0, -12],
    Object.keys(bank),
  )
  const leaves = {
    'Red leaf': { weight: 2, lean: 1, size: [0.7, 1.3] as [number, number] },
    'Ochre leaf': { weight: 3, lean: 1, size: [0.7, 1.3] as [number, number] },
  }
  scatter(
    'Fallen leaves',
    {
      ...first,
      seed: 5,
      on: Array.from({ length: 10 }, (_, i) => ({ id: demoId(`placement/Quay slab ${i + 1}`), stream: i + 1 })),
      density: 2.4,
      keepRoom: false,
      mix: ingredients(leaves),
      limits: [
        { ...LIMITS.things.first, from: 0.4, soft: 0.3, which: { by: 'tag', tag: 'stall' } },
        { ...LIMITS.things.first, from: 0.3, which: { by: 'tag', tag: 'iron' } },
        {
          ...LIMITS.things.first,
          from: 0.15,
          which: { by: 'chosen', ids: [demoId('placement/Square'), demoId('placement/Goods')] },
        },
        { ...LIMITS.noise.first, from: 0.35, scale: 4, soft: 0.25 },
      ],
    },
    [0, 0, 0],
    Object.keys(leaves),
  )
}
