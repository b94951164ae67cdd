import { markerOwn } from './create'
import fc from 'fast-check'
import type { Vec3 } from '../math/vectors'
import { Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyTree, anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange } from './change'
import { Level } from './level'
import type { Placement } from './schema'
import { clickSequence, clickTarget, group, reparent, ungroup } from './tree'

/** A tree whose sizes are even, so that nothing can skew. */
const anyEvenTree = fc
  .tuple(anyTree(8), fc.array(fc.double({ min: 0.3, max: 3, noNaN: true }), { minLength: 8, maxLength: 8 }))
  .map(([tree, sizes]) =>
    tree.map((placement, i): Placement => ({ ...placement, scale: [sizes[i]!, sizes[i]!, sizes[i]!] })),
  )

const worldsOf = (level: Level) => new Map([...level.placements()].map(({ id }) => [id, level.worldMatrix(id).clone()]))

function expectSame(level: Level, before: Map<string, Matrix4>, tolerance = 1e-7) {
  for (const [id, matrix] of before) {
    if (!level.has(id)) continue
    const size = Math.max(1, ...matrix.elements.map(Math.abs))
    level
      .worldMatrix(id)
      .elements.forEach((value, i) => expect(Math.abs(value - matrix.elements[i]!) / size).toBeLessThan(tolerance))
  }
}

describe('reparent', () => {
  it('moves nothing in the world', () => {
    fc.assert(
      fc.property(anyEvenTree, fc.nat(), fc.nat(), (tree, which, above) => {
        const level = new Level(tree)
        const { id } = tree[which % tree.length]!
        const target = tree[above % tree.length]!.id
        const parentId = level.isWithin(target, id) ? null : target
        const before = worldsOf(level)
        const { operations, skewed } = reparent(level, [id], parentId)
        expect(skewed).toEqual([])
        applyChange(level, operations)
        expect(level.need(id).parentId).toBe(parentId)
        expectSame(level, before)
      }),
    )
  })

  it('leaves the middle of a thing and its pivot where they were where its skew has to be lost', () => {
    fc.assert(
      fc.property(anyTree(4), anyVec3, (tree, middle) => {
        const level = new Level(tree)
        const { id, pivot } = tree.at(-1)!
        const place = (point: Vec3) => new Vector3(...point).applyMatrix4(level.worldMatrix(id))
        const before = [place(pivot), place(middle)]
        applyChange(level, reparent(level, [id], null, undefined, () => middle).operations)
        const after = [place(level.need(id).pivot), place(middle)]
        const size = Math.max(1, ...before.flatMap(point => point.toArray()).map(Math.abs))
        for (const [i, point] of after.entries()) expect(point.distanceTo(before[i]!) / size).toBeLessThan(1e-6)
      }),
    )
  })

  it('says when a shape would be skewed, and only then', () => {
    fc.assert(
      fc.property(anyQuat, rotation => {
        const level = new Level([
          testPlacement(1, { scale: [1, 3, 1] }),
          testPlacement(2, { parentId: testId(1), rotation }),
        ])
        const before = worldsOf(level)
        const { operations, skewed } = reparent(level, [testId(2)], null)
        applyChange(level, operations)
        if (skewed.length === 0) expectSame(level, before, 1e-5)
        else
          expect(
            Math.max(
              ...level
                .worldMatrix(testId(2))
                .elements.map((value, i) => Math.abs(value - before.get(testId(2))!.elements[i]!)),
            ),
          ).toBeGreaterThan(1e-7)
      }),
    )
    const turned = new Level([
      testPlacement(1, { scale: [1, 3, 1] }),
      testPlacement(2, { parentId: testId(1), rotation: [0, 0, Math.SQRT1_2, Math.SQRT1_2] }),
    ])
    // Turned by a right angle the axes still fall together: no skew.
    expect(reparent(turned, [testId(2)], null).skewed).toEqual([])
    const oblique = new Level([
      testPlacement(1, { scale: [1, 3, 1] }),
      testPlacement(2, { parentId: testId(1), rotation: [0, 0, Math.sin(0.4), Math.cos(0.4)] }),
    ])
    expect(reparent(oblique, [testId(2)], null).skewed).toEqual([testId(2)])
  })
})

describe('group and ungroup', () => {
  it('move nothing in the world, and undo each other', () => {
    fc.assert(
      fc.property(anyEvenTree, fc.array(fc.nat(), { minLength: 1, maxLength: 3 }), anyVec3, (tree, which, at) => {
        const level = new Level(tree)
        const before = worldsOf(level)
        const chosen = new Set(which.map(n => tree[n % tree.length]!.id))
        const parents = new Map([...chosen].map(id => [id, level.need(id).parentId]))
        // The new group hangs where the last one did, which must not be inside another chosen one.
        applyChange(level, group(level, chosen, testId(50), 'New', at).operations)
        expectSame(level, before)
        const position = level.worldMatrix(testId(50)).elements.slice(12, 15)
        position.forEach((value, i) => expect(value).toBeCloseTo(at[i]!, 5))
        applyChange(level, ungroup(level, [testId(50)]).operations)
        expectSame(level, before)
        expect(level.has(testId(50))).toBe(false)
        if (chosen.size === 1) for (const [id, parentId] of parents) expect(level.need(id).parentId).toBe(parentId)
      }),
    )
  })

  it('together with a group inside it lets all stand where the outer one stood, in the same order', () => {
    const nested = new Level([
      testPlacement(1),
      testPlacement(2, { parentId: testId(1) }),
      testPlacement(3, { parentId: testId(2), kind: 'part', partId: testId(9) }),
      testPlacement(4, { parentId: testId(1), kind: 'part', partId: testId(9), order: 9 }),
      testPlacement(5, { order: 10 }),
    ])
    for (const ids of [
      [1, 2],
      [2, 1],
    ]) {
      const { inverse } = applyChange(nested, ungroup(nested, ids.map(testId)).operations)
      expect(nested.children(null)).toEqual([3, 4, 5].map(testId))
      applyChange(nested, inverse)
      expect(nested.children(testId(2))).toEqual([testId(3)])
    }
  })

  it('leave things without a group alone', () => {
    const level = new Level([testPlacement(1, { kind: 'marker', own: markerOwn('spawn') })])
    expect(ungroup(level, [testId(1)]).operations).toEqual([])
    expect(new Matrix4().equals(level.worldMatrix(testId(1)))).toBe(true)
  })
})

describe('clickTarget', () => {
  // 1 is an open group, 2 a closed one in it, 3 a closed one in that, 4 and 5 things.
  const thing = { kind: 'part' as const, partId: testId(99) }
  const level = new Level([
    testPlacement(1, { own: { open: true } }),
    testPlacement(2, { parentId: testId(1) }),
    testPlacement(3, { parentId: testId(2) }),
    testPlacement(4, { parentId: testId(3), ...thing }),
    testPlacement(5, { parentId: testId(3), ...thing }),
    testPlacement(6, thing),
  ])
  const target = (hit: number, ...picked: number[]) =>
    Number.parseInt(clickTarget(level, testId(hit), new Set(picked.map(testId))).slice(-4), 16)

  it('begins with the outermost closed group', () => {
    expect(target(4)).toBe(2)
    expect(target(6)).toBe(6)
  })

  it('goes inwards and then to what is behind, click by click', () => {
    const sequence = clickSequence(level, [4, 5, 6].map(testId)).map(id => Number.parseInt(id.slice(-4), 16))
    expect(sequence).toEqual([2, 3, 4, 5, 6])
  })

  it('stays inside the group that is worked in', () => {
    expect(target(5, 4)).toBe(5)
    expect(target(6, 4)).toBe(6)
    expect(target(4, 6)).toBe(2)
  })
})
