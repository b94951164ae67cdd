import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyTree, testId, testPlacement } from '../../tests/support'
import { applyChange } from './change'
import { createPlacement, freeName, lastOrder } from './create'
import { LevelDocument } from './document'
import { changeTransformNumber, removeWithChildren, transformNumbers } from './edit'

const layer = { id: testId(70), name: 'Quay', color: '#0e6e6e', visible: true, locked: false, order: 0 }
const family = () => new LevelDocument([
  testPlacement(1, { layerId: layer.id }), testPlacement(2, { parentId: testId(1) }), testPlacement(3, { parentId: testId(2) }), testPlacement(4),
], [layer])

describe('what is hidden and locked', () => {
  it('goes down the tree and with the layer', () => {
    const document = family()
    expect(document.isHidden(testId(3))).toBe(false)
    applyChange(document, [{ do: 'put-layer', id: layer.id, fields: { visible: false, locked: true } }])
    expect([1, 2, 3, 4].map(n => document.isHidden(testId(n)))).toEqual([true, true, true, false])
    expect([1, 2, 3, 4].map(n => document.isLocked(testId(n)))).toEqual([true, true, true, false])
    applyChange(document, [{ do: 'put-layer', id: layer.id, fields: { visible: true, locked: false } }, { do: 'put', id: testId(2), fields: { hidden: true } }])
    expect([1, 2, 3, 4].map(n => document.isHidden(testId(n)))).toEqual([false, true, true, false])
  })

  it('is narrowed by showing only some, with what hangs below them', () => {
    const document = family()
    document.showOnly = new Set([testId(2)])
    expect([1, 2, 3, 4].map(n => document.isHidden(testId(n)))).toEqual([true, false, false, true])
    document.showOnly = null
    expect(document.isHidden(testId(4))).toBe(false)
  })
})

describe('the tree', () => {
  it('lists children in their order and a branch from the top down', () => {
    const document = new LevelDocument([testPlacement(1, { order: 5 }), testPlacement(2, { order: 1 }), testPlacement(3, { parentId: testId(1) })])
    expect(document.children(null)).toEqual([testId(2), testId(1)])
    expect(document.subtree(testId(1))).toEqual([testId(1), testId(3)])
    expect(lastOrder(document, null)).toBe(6)
    expect(lastOrder(document, testId(3))).toBe(0)
    expect(() => document.need(testId(9))).toThrow(RangeError)
  })

  it('removed as a branch comes back as it was', () => {
    fc.assert(fc.property(anyTree(9), fc.nat(), (tree, which) => {
      const document = new LevelDocument(tree)
      const { id } = tree[which % tree.length]!
      const branch = document.subtree(id)
      const { inverse } = applyChange(document, removeWithChildren(document, [id, ...branch]))
      expect(document.size).toBe(tree.length - branch.length)
      applyChange(document, inverse)
      expect(new Set([...document.placements()].map(placement => placement.id))).toEqual(new Set(tree.map(placement => placement.id)))
      expect(document.subtree(id)).toEqual(branch)
    }))
  })
})

describe('exact numbers', () => {
  it('are put one at a time; the others stay', () => {
    fc.assert(fc.property(anyTree(1), fc.constantFrom('position', 'size'), fc.constantFrom(0, 1, 2), fc.double({ min: 0.1, max: 9, noNaN: true }), (tree, row, axis, value) => {
      const document = new LevelDocument(tree)
      const before = transformNumbers(document.need(tree[0]!.id))
      applyChange(document, changeTransformNumber(document, [tree[0]!.id], row, axis, () => value))
      const after = transformNumbers(document.need(tree[0]!.id))
      expect(after[row]).toEqual(before[row].with(axis, value))
      expect({ ...after, [row]: null }).toEqual({ ...before, [row]: null })
    }))
  })

  it('of a turn read back as typed', () => {
    const document = new LevelDocument([testPlacement(1)])
    for (const [axis, value] of [[0, 30], [1, -90], [2, 12.5]] as const) applyChange(document, changeTransformNumber(document, [testId(1)], 'turn', axis, () => value))
    transformNumbers(document.need(testId(1))).turn.forEach((value, i) => expect(value).toBeCloseTo([30, -90, 12.5][i]!, 9))
  })
})

it('gives new things names nobody has', () => {
  const document = new LevelDocument(['Crate 1', 'Crate 3', 'Crate'].map((name, i) => createPlacement({ id: testId(i + 1), name, kind: 'group' })))
  expect(freeName(document, 'Crate')).toBe('Crate 2')
  expect(freeName(document, 'Barrel')).toBe('Barrel 1')
})

it('holds more children than a call can have arguments, and hangs as deep as a level may', () => {
  const wide = new LevelDocument([testPlacement(1), ...Array.from({ length: 200_000 }, (_, i) => testPlacement(i + 2, { parentId: testId(1) }))])
  expect(wide.subtree(testId(1))).toHaveLength(200_001)
  const deep = new LevelDocument(Array.from({ length: 10_000 }, (_, i) => testPlacement(i + 1, { parentId: i > 0 ? testId(i) : null, translation: [1, 0, 0] })))
  expect(deep.worldMatrix(testId(10_000)).elements[12]).toBe(10_000)
  deep.write(testPlacement(1, { translation: [3, 0, 0] }))
  expect(deep.worldMatrix(testId(10_000)).elements[12]).toBe(10_002)
})
