import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyTree, testId, testPlacement } from '../../tests/support'
import { RULES } from '../arrange/rules'
import { applyChange } from '../level/change'
import type { Placement } from '../level/schema'
import { FIRST_BLOCKS } from '../mesh/block'
import { copyId } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'
import { pasteThings } from '../edit/things'
import { readThings, writeThings } from './things-text'

const ids =
  (from = 700) =>
  () =>
    testId(from++)
const copied = (level: LevelView, chosen: string[], lowest: number | null = null) =>
  readThings(writeThings(level, chosen, lowest, id => `part ${id.slice(-3)}`, ids(5000)))!
const known = () => true
const matrixOf = (level: LevelView, id: string) =>
  level
    .worldMatrix(id)
    .toArray()
    .map(value => Math.round(value * 1e6) / 1e6 + 0)

describe('things as text', () => {
  it('put down exactly where they were stand there, in the same level or another, whatever they hung from', () => {
    fc.assert(
      fc.property(anyTree(7), fc.array(fc.nat(), { minLength: 1, maxLength: 3 }), fc.boolean(), (tree, which, same) => {
        // Sizes that are even: what was skewed by its parent cannot stand alone as it looked.
        const from = bareView(
          tree.map(placement => ({ ...placement, scale: [1.5, 1.5, 1.5] as const as Placement['scale'] })),
        )
        const things = copied(
          from,
          which.map(n => tree[n % tree.length]!.id),
        )
        const to = same ? from : bareView([])
        const before = things.placements.map(({ id }) => matrixOf(from, id))
        const { operations, tops, missing } = pasteThings(to, things, null, known, ids())
        const size = to.size
        const { inverse } = applyChange(to, operations)
        expect(missing).toEqual([])
        expect(
          tops
            .flatMap(id => to.subtree(id))
            .map(id => matrixOf(to, id))
            .sort(),
        ).toEqual(before.sort())
        expect(
          new Set([...to.placements()].filter(({ parentId }) => parentId === null).map(({ name }) => name)).size,
        ).toBe(to.children(null).length)
        applyChange(to, inverse)
        expect(to.size).toBe(size)
      }),
    )
  })

  it('put under the pointer stand on their lowest point there, keeping their places among each other', () => {
    const level = bareView([
      testPlacement(1, { translation: [3, 2, 1] }),
      testPlacement(2, { translation: [5, 2.5, 1] }),
    ])
    const { operations, tops } = pasteThings(
      level,
      copied(level, [testId(1), testId(2)], 1.5),
      [10, 0.25, -4],
      known,
      ids(),
    )
    applyChange(level, operations)
    expect(tops.map(id => level.need(id).translation)).toEqual([
      [8, 0.75, -4],
      [10, 1.25, -4],
    ])
    expect(tops.map(id => level.need(id).name)).toEqual(['Thing 3', 'Thing 4'])
  })

  it('bring arrangements with exceptions, blocks that are shared where they are the same, and layers by name', () => {
    const block = { id: testId(50), color: '#aabbcc', shape: FIRST_BLOCKS.box }
    const layer = { id: testId(60), name: 'Lights', color: '#ffffff', visible: true, locked: false, order: 0 }
    const own = { rule: { ...RULES.line.first, count: 4 }, exceptions: { 2: { hidden: true as const } } }
    const from = bareView(
      [
        testPlacement(1, { kind: 'arrangement', own, layerId: layer.id }),
        testPlacement(2, { kind: 'block', blockId: block.id, parentId: testId(1) }),
      ],
      { layers: [layer], blocks: [block] },
    )
    const there = { ...layer, id: testId(61) }
    for (const [to, layers, blocks] of [
      [from, 1, 1],
      [bareView([], { layers: [there] }), 1, 1],
      [bareView([], { blocks: [{ ...block, color: '#000000' }] }), 1, 2],
    ] as const) {
      const {
        operations,
        tops: [top = ''],
      } = pasteThings(to, copied(from, [testId(1)]), null, known, ids())
      applyChange(to, operations)
      expect(to.need(top).own).toEqual(own)
      expect([to.layers.size, to.blocks.size]).toEqual([layers, blocks])
      expect(to.layers.get(to.need(top).layerId!)!.name).toBe('Lights')
      expect(to.shapes(top).reduce((sum, { indices }) => sum + indices.length, 0)).toBe(3)
      expect(to.blocks.get(to.need(to.children(top)[0]!).blockId!)).toMatchObject({ color: '#aabbcc' })
    }
  })

  it('of a copy of an arrangement bring what it shows, where it stands', () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: { rule: RULES.line.first }, translation: [1, 0, 0] }),
      testPlacement(2, { kind: 'part', partId: testId(9), parentId: testId(1) }),
      testPlacement(3, { parentId: testId(2) }),
    ])
    const picked = [copyId(testId(1), '2'), copyId(testId(1), '3')]
    const { operations, tops } = pasteThings(level, copied(level, picked), null, known, ids())
    applyChange(level, operations)
    expect(tops.map(id => level.need(id).translation)).toEqual([
      [4, 0, 0],
      [5.5, 0, 0],
    ])
    expect(tops.map(id => level.children(id).length)).toEqual([1, 1])
  })

  it('say what is not there, and keep what hangs below it', () => {
    const from = bareView([
      testPlacement(1, { kind: 'part', partId: testId(901) }),
      testPlacement(2, { kind: 'part', partId: testId(902), parentId: testId(1) }),
    ])
    const to = bareView([])
    const {
      operations,
      tops: [top = ''],
      missing,
    } = pasteThings(to, copied(from, [testId(1)]), null, id => id === testId(902), ids())
    applyChange(to, operations)
    expect(missing).toEqual(['part 385'])
    expect([to.need(top).kind, to.need(to.children(top)[0]!).partId]).toEqual(['group', testId(902)])
  })

  it('that are none, or make no sense, are not read', () => {
    const text = writeThings(
      bareView([testPlacement(1), testPlacement(2, { parentId: testId(1) })]),
      [testId(1)],
      null,
      String,
      ids(),
    )
    expect(readThings(text)).not.toBeNull()
    for (const [from, to] of [
      ['"version":1', '"version":2'],
      [`"parentId":"${testId(1)}"`, `"parentId":"${testId(2)}"`],
      [`"id":"${testId(2)}"`, `"id":"${testId(1)}"`],
      ['"name":"Thing 1"', '"name":"<b>"'],
      ['"scale":[1,1,1]', '"scale":[0,1,1]'],
      ['}]', '}'],
      ['"hidden":false', '"hidden":false,"more":1'],
    ] as const) {
      expect(text).toContain(from)
      expect(readThings(text.replace(from, to)), to).toBeNull()
    }
    fc.assert(fc.property(fc.oneof(fc.string(), fc.json()), any => readThings(any) === null))
  })
})
