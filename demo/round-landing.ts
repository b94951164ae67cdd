import type { ArrangementOwn } from '../core/arrange/arrangement'
import { RULES } from '../core/arrange/rules'
import type { Block, Placement } from '../core/level/schema'
import type { Vec3 } from '../core/math/vectors'
import { demoId } from './kit'

// What repeats on Lantern Quay: a round landing for the band, its seats of planters, stalls, lanterns, railings and
// kerb; steps to the water; the approaches of the bridge.

const blockOf = (name: string, color: string, shape: Block['shape']): Block => ({
  id: demoId(`block/${name}`),
  color,
  shape,
})
const STONE = '#c9b98f'
export const LANDING_BLOCKS = {
  landing: blockOf('landing', STONE, { type: 'cylinder', radius: 7.5, height: 0.4, sides: 64 }),
  wall: blockOf('landing wall', '#9a8a68', { type: 'cylinder', radius: 7.35, height: 2.4, sides: 64 }),
  rack: blockOf('rack', '#8a5a34', { type: 'box', width: 1.3, height: 0.75, depth: 0.6 }),
  kerb: blockOf('kerb', '#b9a98a', { type: 'box', width: 1, height: 0.12, depth: 0.25 }),
  step: blockOf('water step', STONE, { type: 'box', width: 1.6, height: 0.6, depth: 0.32 }),
  bollard: blockOf('bridge bollard', '#4a5a60', { type: 'cone', radius: 0.2, top: 0.14, height: 0.7, sides: 24 }),
}

/** Where the round landing's middle is. */
const MIDDLE: Vec3 = [-17.3, 0, -0.8]
const [WATERSIDE_FROM, WATERSIDE_TO] = [-75, 100]

/** Points of an arc about the landing's middle, in degrees from +Z towards +X. */
const arc = (radius: number, from: number, to: number, step: number): Vec3[] =>
  Array.from({ length: Math.round(Math.abs(to - from) / step) + 1 }, (_, i) => {
    const angle = ((from + i * step * Math.sign(to - from)) * Math.PI) / 180
    return [Math.sin(angle) * radius, 0, Math.cos(angle) * radius].map(value => Math.round(value * 1e6) / 1e6) as Vec3
  })

/** How the demo puts things into the level. */
export type Putting = {
  group: (name: string, at?: Vec3, turn?: Vec3, parentId?: string | null) => string
  put: (parentId: string, name: string, partName: string, at: Vec3, heading?: number) => string
  add: (
    name: string,
    fields: Pick<Placement, 'kind' | 'partId' | 'parentId'> & Partial<Placement>,
    at: Vec3,
    turn: Vec3,
  ) => string
}

export function putRoundLanding({ group, put, add }: Putting): void {
  const [line, ring, fan, path, mirror] = [
    RULES.line.first,
    RULES.ring.first,
    RULES.fan.first,
    RULES.path.first,
    RULES.mirror.first,
  ]
  const block = (parentId: string, name: string, { id }: Block, at: Vec3, heading = 0) =>
    add(name, { kind: 'block', partId: null, blockId: id, parentId }, at, [0, heading, 0])
  const arrangement = (parentId: string, name: string, own: ArrangementOwn, at: Vec3, turn: Vec3 = [0, 0, 0]) =>
    add(name, { kind: 'arrangement', partId: null, parentId, own }, at, turn)

  const landing = group('Round landing')
  block(landing, 'Landing', LANDING_BLOCKS.landing, [MIDDLE[0], -0.402, MIDDLE[2]])
  block(landing, 'Landing wall', LANDING_BLOCKS.wall, [MIDDLE[0], -2.8, MIDDLE[2]])
  put(landing, 'Round bandstand', 'Bandstand floor', MIDDLE)

  const racks = arrangement(
    landing,
    'Planter racks',
    {
      rule: {
        ...fan,
        rows: 3,
        first: 6,
        radius: 3.4,
        depth: 0.8,
        arc: 110,
        counts: 'spacing',
        rise: { by: 'rows', height: 0.25, every: 1 },
      },
    },
    MIDDLE,
  )
  const rack = group('Planter rack', [0, 0, 0], [0, 0, 0], racks)
  block(rack, 'Rack', LANDING_BLOCKS.rack, [0, -0.5, 0])
  put(rack, 'Rack planter', 'Planter', [0, 0.25, 0])

  const stalls = arrangement(
    landing,
    'Ring of stalls',
    { rule: { ...ring, count: 4, radius: 5.5, start: 132, arc: 96, facing: 'in' } },
    MIDDLE,
  )
  const stall = group('Ring stall', [0, 0, 0], [0, 0, 0], stalls)
  put(stall, 'Ring stall: frame', 'Stall frame', [0, 0, 0])
  put(stall, 'Ring stall: awning', 'Awning, ochre', [0, 1.9, 0.15])

  const lanterns = arrangement(
    landing,
    'Lanterns along the edge',
    { rule: { ...path, points: arc(6.7, WATERSIDE_FROM, WATERSIDE_TO, 25), count: 8, stand: 'kept' } },
    MIDDLE,
  )
  put(lanterns, 'Edge lantern', 'Lantern post', [0, 0, 0])
  const railings = arrangement(
    landing,
    'Railings on the curve',
    { rule: { ...path, points: arc(7.15, WATERSIDE_FROM, WATERSIDE_TO, 25), measure: 'ends', spacing: 2, begins: -1 } },
    MIDDLE,
  )
  put(railings, 'Curve railing', 'Railing 2 m', [0, 0, 0])
  const kerb = arrangement(
    landing,
    'Kerb',
    {
      rule: {
        ...path,
        points: arc(7.35, WATERSIDE_FROM, WATERSIDE_TO, 25),
        measure: 'ends',
        spacing: 1,
        begins: -0.5,
        bent: true,
      },
    },
    MIDDLE,
  )
  block(kerb, 'Kerb stone', LANDING_BLOCKS.kerb, [0, 0, 0])

  const steps = arrangement(
    landing,
    'Steps to the water',
    { rule: { ...line, count: 8, along: [0, -0.17, 0.3] } },
    [5.9, -0.77, 3.06],
  )
  block(steps, 'Water step', LANDING_BLOCKS.step, [0, 0, 0])

  const approach = arrangement(landing, 'Bridge approach', { rule: mirror }, [8.3, 0, 6.8], [0, -90, 0])
  block(approach, 'Bollard left', LANDING_BLOCKS.bollard, [-4.5, 0, -1.3])
  block(approach, 'Bollard right', LANDING_BLOCKS.bollard, [-4.5, 0, 1.3])
}
