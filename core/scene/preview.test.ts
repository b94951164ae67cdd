import fc from 'fast-check'
import { Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyVec3, testId, testPlacement } from '../../tests/support'
import { keysOf, RULES } from '../arrange/rules'
import { applyChange } from '../level/change'
import type { Operation } from '../level/schema'
import { withExceptions } from './copies'
import { copyId } from './copy-id'
import { bareView } from './level-view'
import { PreviewedPlaces } from './preview'

const [GROUP, ROW, CRATE] = [1, 2, 4].map(testId) as [string, string, string]
const rule = { ...RULES.line.first, count: 4, along: [2, 0, 0] as [number, number, number] }
const copies = [0, 1, 2, 3].map(i => copyId(ROW, keysOf(rule).keyAt(i)))

const level = () =>
  bareView([
    testPlacement(1, { kind: 'group', translation: [1, 2, 3], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] }),
    testPlacement(2, { kind: 'arrangement', parentId: GROUP, translation: [4, 0, 0], own: { rule } }),
    testPlacement(3, { parentId: ROW, scale: [1, 2, 1] }),
    testPlacement(4, { parentId: GROUP, translation: [0, 1, 0] }),
  ])

describe('places after what is shown but not done', () => {
  // What the level itself comes to, once it is done.
  const anyOperation = fc.oneof(
    anyVec3.map((translation): Operation => ({ do: 'put', id: GROUP, fields: { translation } })),
    anyVec3.map((translation): Operation => ({ do: 'put', id: ROW, fields: { translation } })),
    anyVec3.map((translation): Operation => ({ do: 'put', id: CRATE, fields: { translation } })),
    anyVec3.map((translation): Operation => ({ do: 'put', id: copies[1]!, fields: { translation } })),
    fc
      .tuple(anyVec3, fc.integer({ min: 3, max: 6 }))
      .map(
        ([along, count]): Operation => ({ do: 'put', id: ROW, fields: { own: { rule: { ...rule, along, count } } } }),
      ),
  )

  it('are those that doing it leads to, for things and for copies', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(anyOperation, { minLength: 1, maxLength: 3, selector: ({ id }) => id }),
        operations => {
          // Of one arrangement either its rule or a copy is changed at a time, as by hand.
          fc.pre(!(operations.some(({ id }) => id === ROW) && operations.some(({ id }) => id === copies[1])))
          const [before, after] = [level(), level()]
          const places = new PreviewedPlaces(before, operations)
          const found = [GROUP, ROW, CRATE, ...copies].map(id => [id, places.matrixOf(id).clone()] as const)
          applyChange(after, withExceptions(after, operations))
          for (const [id, matrix] of found) {
            if (!after.has(id)) continue
            const expected = after.worldMatrix(id).elements
            matrix.elements.forEach((value, i) => expect(value).toBeCloseTo(expected[i]!, 5))
          }
        },
      ),
    )
  })

  it('take along what is shown there', () => {
    const before = level()
    const places = new PreviewedPlaces(before, [{ do: 'put', id: ROW, fields: { translation: [4, 5, 0] } }])
    const [copy] = copies
    const inside = new Matrix4().makeTranslation(0, 0.5, 0)
    const shown = { id: ROW, copy, matrix: before.worldMatrix(copy!).clone().multiply(inside) }
    const moved = new Vector3().setFromMatrixPosition(places.shownAs(shown).matrix)
    expect(moved.sub(new Vector3().setFromMatrixPosition(shown.matrix)).toArray()).toEqual([
      expect.closeTo(0, 9),
      expect.closeTo(5, 9),
      expect.closeTo(0, 9),
    ])
    const still = { id: CRATE, matrix: before.worldMatrix(CRATE) }
    expect(places.shownAs(still)).toBe(still)
  })
})
