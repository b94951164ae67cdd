import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyTree, testId, testPlacement } from '../../tests/support'
import { applyChange } from './change'
import { createPlacement, freeName, lastOrder } from './create'
import { Level } from './level'
import { changeTransformNumber, removeWithChildren, transformNumbers } from './edit'

const layer = { id: testId(70), name: 'Quay', color: '#0e6e6e', visible: true, locked: false, order: 0 }
const family = () =>
  new Level(
    [
      testPlacement(1, { layerId: layer.id }),
      testPlacement(2, { parentId: testId(1) }),
      testPlacement(3, { parentId: testId(2) }),
      testPlacement(4),
    ],
    { layers: [layer] },
  )

describe('what is hidden and locked', () => {
  it('goes down the tree and with the layer', () => {
    const level = family()
    expect(level.isHidden(testId(3))).toBe(false)
    applyChange(level, [{ do: 'put-layer', id: layer.id, fields: { visible: false, locked: true } }])
    expect([1, 2, 3, 4].map(n => level.isHidden(testId(n)))).toEqual([true, true, true, false])
    expect([1, 2, 3, 4].map(n => level.isLocked(testId(n)))).toEqual([true, true, true, false])
    applyChange(level, [
      { do: 'put-layer', id: layer.id, fields: { visible: true, locked: false } },
      { do: 'put', id: testId(2), fields: { hidden: true } },
    ])
    expect([1, 2, 3, 4].map(n => level.isHidden(testId(n)))).toEqual([false, true, true, false])
  })
})

describe('the tree', () => {
  it('lists children in their order and a branch from the top down', () => {
    const level = new Level([
      testPlacement(1, { order: 5 }),
      testPlacement(2, { order: 1 }),
      testPlacement(3, { parentId: testId(1) }),
    ])
    expect(level.children(null)).toEqual([testId(2), testId(1)])
    expect(level.subtree(testId(1))).toEqual([testId(1), testId(3)])
    expect(lastOrder(level, null)).toBe(6)
    expect(lastOrder(level, testId(3))).toBe(0)
    expect(() => level.need(testId(9))).toThrow(RangeError)
  })

  it('removed as a branch comes back as it was', () => {
    fc.assert(
      fc.property(anyTree(9), fc.nat(), (tree, which) => {
        const level = new Level(tree)
        const { id } = tree[which % tree.length]!
        const branch = level.subtree(id)
        const { inverse } = applyChange(level, removeWithChildren(level, [id, ...branch]))
        expect(level.size).toBe(tree.length - branch.length)
        applyChange(level, inverse)
        expect(new Set([...level.placements()].map(placement => placement.id))).toEqual(
          new Set(tree.map(placement => placement.id)),
        )
        expect(level.subtree(id)).toEqual(branch)
      }),
    )
  })
})

describe('exact numbers', () => {
  it('are put one at a time; the others stay', () => {
    fc.assert(
      fc.property(
        anyTree(1),
        fc.constantFrom('position', 'size'),
        fc.constantFrom(0, 1, 2),
        fc.double({ min: 0.1, max: 9, noNaN: true }),
        (tree, row, axis, value) => {
          const level = new Level(tree)
          const before = transformNumbers(level.need(tree[0]!.id))
          applyChange(
            level,
            changeTransformNumber(level, [tree[0]!.id], row, axis, () => value),
          )
          const after = transformNumbers(level.need(tree[0]!.id))
          expect(after[row]).toEqual(before[row].with(axis, value))
          expect({ ...after, [row]: null }).toEqual({ ...before, [row]: null })
        },
      ),
    )
  })

  it('of a turn read back as typed', () => {
    const level = new Level([testPlacement(1)])
    for (const [axis, value] of [
      [0, 30],
      [1, -90],
      [2, 12.5],
    ] as const)
      applyChange(
        level,
        changeTransformNumber(level, [testId(1)], 'turn', axis, () => value),
      )
    transformNumbers(level.need(testId(1))).turn.forEach((value, i) =>
      expect(value).toBeCloseTo([30, -90, 12.5][i]!, 9),
    )
  })
})

it('gives new things names nobody has', () => {
  const level = new Level(
    ['Crate 1', 'Crate 3', 'Crate'].map((name, i) => createPlacement({ id: testId(i + 1), name, kind: 'group' })),
  )
  expect(freeName(level, 'Crate')).toBe('Crate 2')
  expect(freeName(level, 'Barrel')).toBe('Barrel 1')
})

it('holds more children than a call can have arguments, and hangs as deep as a level may', () => {
  const wide = new Level([
    testPlacement(1),
    ...Array.from({ length: 200_000 }, (_, i) => testPlacement(i + 2, { parentId: testId(1) })),
  ])
  expect(wide.subtree(testId(1))).toHaveLength(200_001)
  const deep = new Level(
    Array.from({ length: 10_000 }, (_, i) =>
      testPlacement(i + 1, { parentId: i > 0 ? testId(i) : null, translation: [1, 0, 0] }),
    ),
  )
  expect(deep.worldMatrix(testId(10_000)).elements[12]).toBe(10_000)
  applyChange(deep, [{ do: 'put', id: testId(1), fields: { translation: [3, 0, 0] } }])
  expect(deep.worldMatrix(testId(10_000)).elements[12]).toBe(10_002)
})
