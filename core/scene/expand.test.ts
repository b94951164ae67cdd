import { lightOwn } from '../level/create'
import fc from 'fast-check'
import { BoxGeometry, Matrix4, OrthographicCamera, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, testId, testPlacement, testSolid } from '../../tests/support'
import { LevelIndex } from './level-index'
import { applyChange } from '../level/change'
import type { LevelView } from './level-view'
import { bareView } from './level-view'
import type { Placement } from '../level/schema'
import { ruleMatrices, countOf } from '../arrange/rules'
import type { Rule } from '../arrange/rules'
import { release } from '../edit/release'
import { RULES } from '../arrange/rules'

const PART = testId(900)
const cube = testSolid(new BoxGeometry(1, 1, 1))
const arrangement = (n: number, rule: Rule, fields: Partial<Placement> = {}) =>
  testPlacement(n, { kind: 'arrangement', own: { rule }, ...fields })
const source = (n: number, parent: number, fields: Partial<Placement> = {}) =>
  testPlacement(n, { kind: 'part', partId: PART, parentId: testId(parent), ...fields })
const made = (...placements: Placement[]) => {
  const level = bareView(placements)
  return { level, index: new LevelIndex(level, () => cube) }
}
const makers = {
  line: RULES.line.first,
  grid: RULES.grid.first,
  ring: RULES.ring.first,
  fan: RULES.fan.first,
  path: RULES.path.first,
}
const anyRule = fc.constantFrom<Rule>(
  ...Object.values(makers),
  { ...RULES.line.first, turn: [5, 20, -10], size: 0.9, axes: 'local', ratio: 1.2 },
  { ...RULES.ring.first, axis: 0, rise: 0.4, size: 1.1 },
)

/** World matrices of everything an arrangement shows, as text, sorted; rounded where rounding is all that differs. */
function shown(level: LevelView, id: string): Matrix4[] {
  return level
    .shapes(id)
    .flatMap(({ matrices }) =>
      Array.from({ length: matrices.length / 16 }, (_, i) =>
        new Matrix4().fromArray(matrices, i * 16).premultiply(level.worldMatrix(id)),
      ),
    )
}

describe('an arrangement', () => {
  it('shows its source at every copy, wherever it stands', () => {
    fc.assert(
      fc.property(anyRule, anyVec3, anyQuat, anyVec3, anyQuat, (rule, at, rotation, inside, turn) => {
        const { level } = made(
          arrangement(1, rule, { translation: at, rotation }),
          source(2, 1, { translation: inside, rotation: turn }),
        )
        const copies = ruleMatrices(rule)
        const [own, local] = [
          level.worldMatrix(testId(1)),
          level
            .worldMatrix(testId(1))
            .clone()
            .invert()
            .multiply(level.worldMatrix(testId(2))),
        ]
        shown(level, testId(1)).forEach((matrix, i) => {
          const expected = own
            .clone()
            .multiply(new Matrix4().fromArray(copies, i * 16))
            .multiply(local)
          const size = Math.max(...expected.elements.map(Math.abs))
          matrix.elements.forEach((value, k) =>
            expect(Math.abs(value - expected.elements[k]!) / size).toBeLessThan(1e-12),
          )
        })
      }),
    )
  })

  it('takes several sources in turn, leaves out hidden ones, and repeats arrangements', () => {
    const { level } = made(
      arrangement(1, { ...RULES.line.first, count: 5, along: [10, 0, 0] }),
      source(2, 1),
      testPlacement(3, {
        parentId: testId(1),
        kind: 'arrangement',
        own: { rule: { ...RULES.line.first, count: 3, along: [0, 0, 1] } },
      }),
      source(4, 3),
    )
    const places = () =>
      shown(level, testId(1))
        .map(matrix => new Vector3().setFromMatrixPosition(matrix).toArray())
        .map(([x, , z]) => [x, z])
    // Copies 0, 2, 4 show the part; copies 1 and 3 the line of three.
    expect(places().sort()).toEqual(
      [
        [0, 0],
        [20, 0],
        [40, 0],
        [10, 0],
        [10, 1],
        [10, 2],
        [30, 0],
        [30, 1],
        [30, 2],
      ].sort(),
    )
    applyChange(level, [{ do: 'put', id: testId(2), fields: { hidden: true } }])
    expect(places()).toHaveLength(6)
  })

  it('repeats the lights, cameras and markers below its sources, however deep, and those of arrangements in it', () => {
    const light: Partial<Placement> = {
      kind: 'light',
      own: lightOwn({ light: 'point', color: '#ffcc88', intensity: 3, range: 8 }),
    }
    const { level } = made(
      arrangement(1, { ...RULES.line.first, count: 3, along: [4, 0, 0] }),
      testPlacement(2, { parentId: testId(1) }),
      source(3, 2),
      testPlacement(4, { ...light, parentId: testId(2), translation: [0, 2, 0] }),
      arrangement(5, { ...RULES.line.first, count: 2, along: [0, 0, 1] }, { parentId: testId(2) }),
      testPlacement(6, { kind: 'marker', parentId: testId(5) }),
      arrangement(7, RULES.mirror.first, { translation: [10, 0, 0] }),
      testPlacement(8, { kind: 'camera', parentId: testId(7), translation: [1, 0, 0] }),
    )
    const places = (id: number) =>
      level.marks(testId(id)).map(({ shape, matrices, indices }) => ({
        of: shape,
        at: [...indices].map((_, i) => [...matrices.slice(i * 16 + 12, i * 16 + 15)]),
      }))
    expect(places(1)).toEqual([
      {
        of: testId(4),
        at: [
          [0, 2, 0],
          [4, 2, 0],
          [8, 2, 0],
        ],
      },
      {
        of: testId(6),
        at: [
          [0, 0, 0],
          [0, 0, 1],
          [4, 0, 0],
          [4, 0, 1],
          [8, 0, 0],
          [8, 0, 1],
        ],
      },
    ])
    expect(places(7)).toEqual([{ of: testId(8), at: [[-1, 0, 0]] }])
    expect(level.marks(testId(5))).toHaveLength(1)
    expect(level.shapes(testId(1)).map(({ shape }) => shape)).toEqual([PART])
  })

  it('is found by rays, frames and boxes through its copies, and its sources are not', () => {
    const { level, index } = made(arrangement(1, { ...RULES.line.first, count: 4, along: [3, 0, 0] }), source(2, 1))
    const down = (x: number) => index.raycast(new Ray(new Vector3(x, 9, 0), new Vector3(0, -1, 0)))?.id ?? null
    expect([0, 3, 6, 9, 1.5, 12].map(down)).toEqual([testId(1), testId(1), testId(1), testId(1), null, null])
    expect(index.extents.boundsOf([testId(1)]).max.x).toBeCloseTo(9.5, 9)
    expect(index.extents.ownBox(testId(1)).max.x).toBeCloseTo(9.5, 6)
    expect(index.extents.extreme(level.subtree(testId(1)), new Vector3(1, 0, 0))!.reach).toBeCloseTo(9.5, 9)
    const camera = new OrthographicCamera(-20, 20, 20, -20, 0.1, 100)
    camera.position.z = 50
    camera.updateMatrixWorld()
    const projection = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
    const frame = (x0: number, x1: number) => ({ x0: x0 / 20, x1: x1 / 20, y0: -0.5, y1: 0.5 })
    expect(index.pickInFrame(projection, frame(-1, 4), 'touch')).toEqual([testId(1)])
    expect(index.pickInFrame(projection, frame(-1, 4), 'inside')).toEqual([])
    expect(index.pickInFrame(projection, frame(-1, 10), 'inside')).toEqual([testId(1)])
    // Fewer copies, and they are gone from where they were.
    index.update(
      applyChange(level, [
        { do: 'put', id: testId(1), fields: { own: { rule: { ...RULES.line.first, count: 2, along: [3, 0, 0] } } } },
      ]).touched,
    )
    expect([0, 3, 6].map(down)).toEqual([testId(1), testId(1), null])
  })

  it('released is the same placements as its live copies, to 1e-12, and can be taken back', () => {
    fc.assert(
      fc.property(anyRule, anyVec3, anyQuat, anyVec3, anyQuat, anyVec3, (rule, at, rotation, inside, turn, pivot) => {
        const { level } = made(
          arrangement(1, rule, { translation: at, rotation }),
          source(2, 1, { translation: inside, rotation: turn, pivot, scale: [1, 2, -0.5] }),
        )
        const all = () => structuredClone([...level.placements()]).sort((a, b) => (a.id < b.id ? -1 : 1))
        const before = all()
        const live = shown(level, testId(1))
        let next = 5000
        const { inverse } = applyChange(level, release(level, testId(1), () => testId(next++)).operations)
        const children = level.children(testId(1))
        expect(children).toHaveLength(countOf(rule))
        expect(level.need(testId(1)).kind).toBe('group')
        children.forEach((id, i) => {
          const size = Math.max(...live[i]!.elements.map(Math.abs), 1)
          level
            .worldMatrix(id)
            .elements.forEach((value, k) => expect(Math.abs(value - live[i]!.elements[k]!) / size).toBeLessThan(1e-12))
        })
        applyChange(level, inverse)
        expect(all()).toEqual(before)
      }),
    )
  })
})
