import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Box } from '../../tests/check-support'
import { checkBoxes, said } from '../../tests/check-support'
import { testId } from '../../tests/support'
import { cameraOwn } from '../level/create'
import type { RelationRule } from '../level/relation'
import type { Operation, Placement, Relation } from '../level/schema'
import type { Vec3 } from '../math/vectors'

const floor: Box = { size: [20, 0.2, 20], translation: [0, -0.2, 0], tags: ['ground'] }
const boxes: Box[] = [floor, { size: [1, 1, 1], translation: [0, 0, 0] }, { size: [1, 1, 1], translation: [4, 0, 0] }]
const relation = (
  number: number,
  held: number,
  holder: number,
  rule: RelationRule,
  point: Vec3 = [0, 0, 0],
): Relation => ({
  id: testId(600 + number),
  held: testId(held),
  point,
  holders: [{ at: [0, 0, 0], on: testId(holder), point: [0, 0, 0] }],
  rule,
})
const apart = (number: number, held: number, holder: number, distance: number) =>
  relation(number, held, holder, { kind: 'apart', along: [1, 0, 0], distance })
const on: RelationRule = { kind: 'on', rest: 'lowest', leaning: false, offset: 0, stays: false }
const put = (number: number, fields: Partial<Placement>): Operation => ({ do: 'put', id: testId(number), fields })

describe('what is not as it is kept', () => {
  it('is found by how far it is off, put back where it was, or let go of', () => {
    const { check, change, level } = checkBoxes(boxes, {
      relations: [apart(1, 3, 2, 4), relation(2, 3, 1, on, [0, 0, 0])],
    })
    expect(said(check)).toEqual([])
    // As a table or a script does it.
    change([put(3, { translation: [4.25, 0.1, 0] })])
    const [found] = check.findings.filter(({ of }) => of === 'not-as-kept')
    expect(found).toMatchObject({ things: [testId(3), testId(2)], amount: 0.25, more: 2 })
    const back = check.fix([found!.key])
    expect([back.done, back.failed]).toEqual([[found!.key], []])
    const loose = check.fix([found!.key], 'instead')
    expect(loose.operations).toEqual([1, 2].map(number => ({ do: 'remove-relation', id: testId(600 + number) })))
    change(back.operations)
    expect(level.need(testId(3)).translation).toEqual([4, expect.closeTo(0, 7) as number, 0])
    expect(said(check)).toEqual([])
  })

  it('is found as soon as what holds it moves, or something is kept or let go of, and only then', () => {
    const { check, change, anew } = checkBoxes(boxes)
    const { id, ...fields } = apart(1, 3, 2, 3)
    for (const operations of [
      [{ do: 'put-relation', id, fields }],
      [put(2, { translation: [1, 0, 0] })],
      [put(2, { translation: [7, 0, 0] })],
      [{ do: 'put-relation', id, fields: { rule: { kind: 'apart', along: [1, 0, 0], distance: -3 } } }],
      [{ do: 'remove-relation', id }],
    ] as Operation[][]) {
      change(operations)
      expect(said(check)).toEqual(said(anew()))
    }
    expect(said(check)).toEqual([])
  })

  it('of two that contradict each other, or whose partner is gone, is said, and cannot be put back', () => {
    const { check } = checkBoxes(boxes, { relations: [apart(1, 3, 2, 4), apart(2, 3, 2, 5), apart(3, 2, 9, 1)] })
    const found = check.findings.filter(({ of }) => of === 'not-as-kept')
    expect(found.map(({ things, amount }) => [things, amount])).toEqual([
      [[testId(2)], null],
      [[testId(3), testId(2)], 1],
    ])
    const { done, failed } = check.fix(found.map(({ key }) => key))
    expect([done, failed.length]).toEqual([[], 2])
    const loose = check.fix(
      found.map(({ key }) => key),
      'instead',
    )
    expect(loose.done).toHaveLength(2)
    expect(loose.operations.map(({ id }) => id).sort()).toEqual([2, 3].map(number => testId(600 + number)))
  })

  it('is a camera as well that does not look where it aims', () => {
    const own = cameraOwn({ aim: { at: [0, 0.5, 0], on: testId(2), point: [0, 0.5, 0] } })
    const { check, change, level } = checkBoxes([
      ...boxes,
      { kind: 'camera', own, translation: [0, 0.5, 8], rotation: [0, 0, 0, 1] },
    ])
    expect(said(check, 'not-as-kept')).toEqual([])
    change([put(4, { rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] })])
    expect(said(check, 'not-as-kept')).toEqual(['not-as-kept 4 2'])
    const { key } = check.findings.find(({ of }) => of === 'not-as-kept')!
    change(check.fix([key]).operations)
    const sight = new Vector3(0, 0, -1).transformDirection(level.worldMatrix(testId(4)))
    expect(sight.z).toBeCloseTo(-1, 12)
    change([put(4, { rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] })])
    change(check.fix([key], 'instead').operations)
    expect(level.need(testId(4)).own).toMatchObject({ aim: null })
    expect(said(check, 'not-as-kept')).toEqual([])
  })
})
