import fc from 'fast-check'
import { Matrix4 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyTree, anyVec3, testId, testPlacement } from '../../tests/support'
import { FIRST_BLOCKS } from '../mesh/block'
import { applyChange } from '../level/change'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'
import { asInstanceOf, duplicate, stepOn } from './duplicate'
import { degreesToQuat } from '../math/transform'

const ids = () => {
  let next = 700
  return () => testId(next++)
}
const matricesOf = (level: LevelView, subtree: string[]) =>
  subtree.map(id => JSON.stringify(level.worldMatrix(id).elements)).sort()

describe('a duplicate', () => {
  it('is the same subtree where it is, behind its siblings, as a change that can be taken back', () => {
    fc.assert(
      fc.property(anyTree(6), fc.constantFrom('instance' as const, 'copy' as const), (tree, as) => {
        const level = bareView(tree)
        const before = JSON.stringify([...level.placements()])
        const { operations, tops, made } = duplicate(level, [tree[0]!.id], as, ids())
        const { inverse } = applyChange(level, operations)
        const [original, copy] = [level.subtree(tree[0]!.id), level.subtree(tops[0]!)]
        expect([...made.keys()]).toEqual(original)
        expect(matricesOf(level, copy)).toEqual(matricesOf(level, original))
        expect(level.children(tree[0]!.parentId).at(-1)).toBe(tops[0])
        applyChange(level, inverse)
        expect(JSON.stringify([...level.placements()])).toBe(before)
      }),
    )
  })

  it('as an instance shares its block, as a copy has one of its own, shared among the copies', () => {
    const block = { id: testId(50), color: '#aabbcc', shape: FIRST_BLOCKS.box }
    const level = () =>
      bareView(
        [1, 2].map(n => testPlacement(n, { kind: 'block', blockId: block.id })),
        { blocks: [block] },
      )
    const shared = level()
    applyChange(shared, duplicate(shared, [testId(1), testId(2)], 'instance', ids()).operations)
    expect([...shared.placements()].map(({ blockId }) => blockId)).toEqual(Array.from({ length: 4 }, () => block.id))
    const apart = level()
    const { operations, tops } = duplicate(apart, [testId(1), testId(2)], 'copy', ids())
    applyChange(apart, operations)
    expect(apart.blocks.size).toBe(2)
    const own = tops.map(id => apart.need(id).blockId)
    expect(new Set(own).size).toBe(1)
    expect(own[0]).not.toBe(block.id)
    expect(apart.blocks.get(own[0]!)).toMatchObject({ color: '#aabbcc', shape: FIRST_BLOCKS.box })
  })

  it('of something and what hangs below it is made once', () => {
    const level = bareView([testPlacement(1), testPlacement(2, { parentId: testId(1) })])
    expect(duplicate(level, [testId(2), testId(1)], 'instance', ids()).tops).toHaveLength(1)
  })
})

describe('the same step once more', () => {
  it('is exactly the same way for what only moved: 20 copies 24 in apart (common practice)', () => {
    const level = bareView([testPlacement(1, { translation: [1, 0, 0] })])
    // An inch is 25.4 mm (NIST SP 811).
    const step = 24 * 0.0254
    let [from, to] = [level.worldMatrix(testId(1)).clone(), new Matrix4().makeTranslation(1 + step, 0, 0)]
    for (let i = 0; i < 20; i++) {
      applyChange(level, stepOn(level, [testId(1)], { from, to }))
      from = to
      to = new Matrix4().makeTranslation(1 + step * (i + 2), 0, 0)
    }
    expect(level.need(testId(1)).translation[0]).toBeCloseTo(1 + 20 * step, 12)
  })

  it('is the same move, turn and size as a whole, also inside turned parents', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyVec3,
        anyQuat,
        fc.double({ min: 0.5, max: 2, noNaN: true }),
        anyVec3,
        (at, rotation, way, turn, size, pivot) => {
          const level = bareView([
            testPlacement(1, { translation: at, rotation, scale: [2, 2, 2] }),
            testPlacement(2, { parentId: testId(1), pivot }),
            testPlacement(3, {
              parentId: testId(1),
              pivot,
              translation: way,
              rotation: turn,
              scale: [size, size, size],
            }),
          ])
          const [from, to] = [level.worldMatrix(testId(2)).clone(), level.worldMatrix(testId(3)).clone()]
          applyChange(level, stepOn(level, [testId(3)], { from, to }))
          const expected = to.clone().multiply(from.clone().invert()).multiply(to)
          const largest = Math.max(...expected.elements.map(Math.abs))
          level
            .worldMatrix(testId(3))
            .elements.forEach((value, i) =>
              expect(Math.abs(value - expected.elements[i]!) / largest).toBeLessThan(1e-7),
            )
        },
      ),
    )
  })
})

it('an instance of something else shows it, where it is', () => {
  const crate = testPlacement(1, { kind: 'part', partId: testId(9), translation: [5, 5, 5] })
  const other = testPlacement(2, { kind: 'block', blockId: testId(8), rotation: degreesToQuat([0, 90, 0]) })
  expect({ ...other, ...asInstanceOf(crate) }).toMatchObject({
    kind: 'part',
    partId: testId(9),
    blockId: null,
    translation: [0, 0, 0],
    rotation: other.rotation,
  })
})
