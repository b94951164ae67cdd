import { BoxGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { testId, testPlacement, testSolid } from '../../tests/support'
import { RULES } from '../arrange/rules'
import { applyChange } from '../level/change'
import { recordsOf } from '../level/level'
import type { Operation } from '../level/schema'
import { copyId } from './copy-id'
import { LevelIndex } from './level-index'
import type { LevelView } from './level-view'
import { bareView } from './level-view'

describe('showing only some', () => {
  it('hides all but them and what hangs below them', () => {
    const level = bareView([
      testPlacement(1),
      testPlacement(2, { parentId: testId(1) }),
      testPlacement(3, { parentId: testId(2) }),
      testPlacement(4),
    ])
    level.showOnly = new Set([testId(2)])
    expect([1, 2, 3, 4].map(n => level.isHidden(testId(n)))).toEqual([true, false, false, true])
    level.showOnly = null
    expect(level.isHidden(testId(4))).toBe(false)
  })
})

describe('what an arrangement shows', () => {
  const [OUTER, INNER, SOURCE, OTHER, LAYER, BLOCK] = [1, 2, 3, 4, 5, 6].map(testId) as [
    string,
    string,
    string,
    string,
    string,
    string,
  ]
  const line = (count: number) => ({ rule: { ...RULES.line.first, count } })
  const start = () => {
    const level = bareView(
      [
        testPlacement(1, { kind: 'arrangement', own: line(3) }),
        testPlacement(2, { kind: 'arrangement', own: line(2), parentId: OUTER }),
        testPlacement(3, { kind: 'block', blockId: BLOCK, parentId: INNER }),
        testPlacement(4, { kind: 'arrangement', own: line(4) }),
        testPlacement(7, { kind: 'block', blockId: BLOCK, parentId: OTHER }),
      ],
      {
        layers: [{ id: LAYER, name: 'Quay', color: '#0e6e6e', visible: true, locked: false, order: 0 }],
        blocks: [{ id: BLOCK, color: '#a08060', shape: { type: 'box', width: 1, height: 1, depth: 1 } }],
      },
    )
    new LevelIndex(level, () => testSolid(new BoxGeometry(1, 1, 1)))
    return level
  }
  const anew = (level: LevelView) => bareView(level.placements(), recordsOf(level))

  it('is worked out once, and again only when it, something in it, a layer or a block is written', () => {
    const changes: Record<string, { operation: Operation; stale: string[] }> = {
      'another thing': { operation: { do: 'put', id: testId(9), fields: testPlacement(9) }, stale: [] },
      'its rule': { operation: { do: 'put', id: OTHER, fields: { own: line(5) } }, stale: [OTHER] },
      'the rule within': { operation: { do: 'put', id: INNER, fields: { own: line(7) } }, stale: [OUTER, INNER] },
      'a source': { operation: { do: 'put', id: SOURCE, fields: { translation: [0, 2, 0] } }, stale: [OUTER, INNER] },
      'a source that leaves': {
        operation: { do: 'put', id: SOURCE, fields: { parentId: null } },
        stale: [OUTER, INNER],
      },
      'a source that is gone': { operation: { do: 'remove', id: SOURCE }, stale: [OUTER, INNER] },
      'a layer': {
        operation: { do: 'put-layer', id: LAYER, fields: { visible: false } },
        stale: [OUTER, INNER, OTHER],
      },
      'a block': {
        operation: { do: 'put-block', id: BLOCK, fields: { color: '#101010' } },
        stale: [OUTER, INNER, OTHER],
      },
    }
    for (const [what, { operation, stale }] of Object.entries(changes)) {
      const level = start()
      const before = new Map([OUTER, INNER, OTHER].map(id => [id, level.shapes(id)]))
      expect(level.shapes(OUTER)).toBe(before.get(OUTER))
      applyChange(level, [operation])
      for (const [id, shapes] of before) {
        expect(level.shapes(id) === shapes, `${what}: ${id}`).toBe(!stale.includes(id))
        expect(level.shapes(id)).toEqual(anew(level).shapes(id))
      }
    }
  })

  it('is asked for copies without being worked out for each', () => {
    const level = start()
    const ruled = level.copies(OTHER)!.ruled
    expect([0, 1, 2, 3].map(index => level.need(copyId(OTHER, String(index))).translation[0])).toEqual([0, 1.5, 3, 4.5])
    expect(level.copies(OTHER)!.ruled).toBe(ruled)
    expect(level.get(copyId(OTHER, '4'))).toBeUndefined()
    applyChange(level, [{ do: 'put', id: OTHER, fields: { translation: [0, 5, 0] } }])
    expect(level.worldMatrix(copyId(OTHER, '1')).elements[13]).toBe(5)
  })
})
