import fc from 'fast-check'
import { BoxGeometry, Matrix4, OrthographicCamera, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, testId, testPlacement, testSolid } from '../../tests/support'
import { LevelIndex } from '../geometry/level-index'
import { applyChange } from '../level/change'
import { LevelDocument } from '../level/document'
import type { Placement } from '../level/schema'
import { copiesOf } from './evaluate'
import { expand, expandBare } from './expand'
import { release } from './release'
import type { Rule } from './rule'
import { countOf } from './count'
import { FIRST_RULES } from './rule'

const PART = testId(900)
const cube = testSolid(new BoxGeometry(1, 1, 1))
const arrangement = (n: number, rule: Rule, fields: Partial<Placement> = {}) => testPlacement(n, { kind: 'arrangement', own: { rule }, ...fields })
const source = (n: number, parent: number, fields: Partial<Placement> = {}) => testPlacement(n, { kind: 'part', partId: PART, parentId: testId(parent), ...fields })
const level = (...placements: Placement[]) => {
  const document = new LevelDocument(placements)
  return { document, index: new LevelIndex(document, () => cube) }
}
const { mirror: _mirror, ...makers } = FIRST_RULES
const anyRule = fc.constantFrom<Rule>(...Object.values(makers), { ...FIRST_RULES.line, turn: [5, 20, -10], size: 0.9, axes: 'local', ratio: 1.2 }, { ...FIRST_RULES.ring, axis: 0, rise: 0.4, size: 1.1 })

/** World matrices of everything an arrangement shows, as text, sorted; rounded where rounding is all that differs. */
function shown(document: LevelDocument, id: string): Matrix4[] {
  return expand(document, id).flatMap(({ matrices }) => Array.from({ length: matrices.length / 16 }, (_, i) => new Matrix4().fromArray(matrices, i * 16).premultiply(document.worldMatrix(id))))
}

describe('an arrangement', () => {
  it('shows its source at every copy, wherever it stands', () => {
    fc.assert(fc.property(anyRule, anyVec3, anyQuat, anyVec3, anyQuat, (rule, at, rotation, inside, turn) => {
      const { document } = level(arrangement(1, rule, { translation: at, rotation }), source(2, 1, { translation: inside, rotation: turn }))
      const copies = copiesOf(rule)
      const [own, local] = [document.worldMatrix(testId(1)), document.worldMatrix(testId(1)).clone().invert().multiply(document.worldMatrix(testId(2)))]
      shown(document, testId(1)).forEach((matrix, i) => {
        const expected = own.clone().multiply(new Matrix4().fromArray(copies, i * 16)).multiply(local)
        const size = Math.max(...expected.elements.map(Math.abs))
        matrix.elements.forEach((value, k) => expect(Math.abs(value - expected.elements[k]!) / size).toBeLessThan(1e-12))
      })
    }))
  })

  it('takes several sources in turn, leaves out hidden ones, and repeats arrangements', () => {
    const { document } = level(
      arrangement(1, { ...FIRST_RULES.line, count: 5, along: [10, 0, 0] }), source(2, 1), testPlacement(3, { parentId: testId(1), kind: 'arrangement', own: { rule: { ...FIRST_RULES.line, count: 3, along: [0, 0, 1] } } }), source(4, 3),
    )
    const places = () => shown(document, testId(1)).map(matrix => new Vector3().setFromMatrixPosition(matrix).toArray()).map(([x, , z]) => [x, z])
    // Copies 0, 2, 4 show the part; copies 1 and 3 the line of three.
    expect(places().sort()).toEqual([[0, 0], [20, 0], [40, 0], [10, 0], [10, 1], [10, 2], [30, 0], [30, 1], [30, 2]].sort())
    document.write({ ...document.need(testId(2)), hidden: true })
    expect(places()).toHaveLength(6)
  })

  it('repeats the lights, cameras and markers below its sources, however deep, and those of arrangements in it', () => {
    const light: Partial<Placement> = { kind: 'light', own: { light: 'point', color: '#ffcc88', intensity: 3, range: 8 } }
    const { document } = level(
      arrangement(1, { ...FIRST_RULES.line, count: 3, along: [4, 0, 0] }),
      testPlacement(2, { parentId: testId(1) }), source(3, 2), testPlacement(4, { ...light, parentId: testId(2), translation: [0, 2, 0] }),
      arrangement(5, { ...FIRST_RULES.line, count: 2, along: [0, 0, 1] }, { parentId: testId(2) }), testPlacement(6, { kind: 'marker', parentId: testId(5) }),
      arrangement(7, FIRST_RULES.mirror, { translation: [10, 0, 0] }), testPlacement(8, { kind: 'camera', parentId: testId(7), translation: [1, 0, 0] }),
    )
    const places = (id: number) => expandBare(document, testId(id)).map(({ shape, matrices, indices }) => ({ of: shape, at: [...indices].map((_, i) => [...matrices.slice(i * 16 + 12, i * 16 + 15)]) }))
    expect(places(1)).toEqual([
      { of: testId(4), at: [[0, 2, 0], [4, 2, 0], [8, 2, 0]] },
      { of: testId(6), at: [[0, 0, 0], [0, 0, 1], [4, 0, 0], [4, 0, 1], [8, 0, 0], [8, 0, 1]] },
    ])
    expect(places(7)).toEqual([{ of: testId(8), at: [[-1, 0, 0]] }])
    expect(expandBare(document, testId(5))).toHaveLength(1)
    expect(expand(document, testId(1)).map(({ shape }) => shape)).toEqual([PART])
  })

  it('is found by rays, frames and boxes through its copies, and its sources are not', () => {
    const { document, index } = level(arrangement(1, { ...FIRST_RULES.line, count: 4, along: [3, 0, 0] }), source(2, 1))
    const down = (x: number) => index.raycast(new Ray(new Vector3(x, 9, 0), new Vector3(0, -1, 0)))?.id ?? null
    expect([0, 3, 6, 9, 1.5, 12].map(down)).toEqual([testId(1), testId(1), testId(1), testId(1), null, null])
    expect(index.boundsOf([testId(1)]).max.x).toBeCloseTo(9.5, 9)
    expect(index.ownBox(testId(1)).max.x).toBeCloseTo(9.5, 6)
    expect(index.extreme(document.subtree(testId(1)), new Vector3(1, 0, 0))!.reach).toBeCloseTo(9.5, 9)
    const camera = new OrthographicCamera(-20, 20, 20, -20, 0.1, 100)
    camera.position.z = 50
    camera.updateMatrixWorld()
    const projection = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
    const frame = (x0: number, x1: number) => ({ x0: x0 / 20, x1: x1 / 20, y0: -0.5, y1: 0.5 })
    expect(index.pickInFrame(projection, frame(-1, 4), 'touch')).toEqual([testId(1)])
    expect(index.pickInFrame(projection, frame(-1, 4), 'inside')).toEqual([])
    expect(index.pickInFrame(projection, frame(-1, 10), 'inside')).toEqual([testId(1)])
    // Fewer copies, and they are gone from where they were.
    index.update(applyChange(document, [{ do: 'put', id: testId(1), fields: { own: { rule: { ...FIRST_RULES.line, count: 2, along: [3, 0, 0] } } } }]).touched)
    expect([0, 3, 6].map(down)).toEqual([testId(1), testId(1), null])
  })

  it('released is the same placements as its live copies, to 1e-12, and can be taken back', () => {
    fc.assert(fc.property(anyRule, anyVec3, anyQuat, anyVec3, anyQuat, anyVec3, (rule, at, rotation, inside, turn, pivot) => {
      const { document } = level(arrangement(1, rule, { translation: at, rotation }), source(2, 1, { translation: inside, rotation: turn, pivot, scale: [1, 2, -0.5] }))
      const all = () => structuredClone([...document.placements()]).sort((a, b) => a.id < b.id ? -1 : 1)
      const before = all()
      const live = shown(document, testId(1))
      let next = 5000
      const { inverse } = applyChange(document, release(document, testId(1), () => testId(next++)))
      const children = document.children(testId(1))
      expect(children).toHaveLength(countOf(rule))
      expect(document.need(testId(1)).kind).toBe('group')
      children.forEach((id, i) => {
        const size = Math.max(...live[i]!.elements.map(Math.abs), 1)
        document.worldMatrix(id).elements.forEach((value, k) => expect(Math.abs(value - live[i]!.elements[k]!) / size).toBeLessThan(1e-12))
      })
      applyChange(document, inverse)
      expect(all()).toEqual(before)
    }))
  })
})
