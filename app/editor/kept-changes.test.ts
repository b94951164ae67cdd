import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { levelOfBoxes, testId } from '../../tests/support'
import type { Copied } from '~~/core/level/copied'
import { applyChange } from '~~/core/level/change'
import type { RelationRule } from '~~/core/level/relation'
import type { Operation, Placement, Relation } from '~~/core/level/schema'
import { duplicate } from '~~/core/edit/duplicate'
import { mirrorPlacements } from '~~/core/edit/mirror'
import { release, releaseCopies } from '~~/core/edit/release'
import { replaceByPart, thingsAsPart } from '~~/core/edit/save-part'
import { pasteThings } from '~~/core/edit/things'
import { readThings, writeThings } from '~~/core/formats/things-text'
import type { Vec3 } from '~~/core/math/vectors'
import { copyId } from '~~/core/scene/copy-id'
import { RULES } from '~~/core/arrange/rules'
import { KeptChanges } from './kept-changes'

const on: RelationRule = { kind: 'on', rest: 'lowest', leaning: false, offset: 0, stays: false }
const apart = (distance: number, along: Vec3 | null = [1, 0, 0]): RelationRule => ({ kind: 'apart', along, distance })
const put = (id: string, fields: Partial<Placement>): Operation => ({ do: 'put', id, fields })

/** A level, and changes done to it as the page does them. */
function scene(
  boxes: Parameters<typeof levelOfBoxes>[0],
  kept: readonly [number, number, RelationRule][],
  areCopiesKept = true,
) {
  const { level, index } = levelOfBoxes(boxes)
  const said: string[] = []
  const undo: Operation[][] = []
  /** What is asked before a change is done, and the answer to it, if anything is. */
  const asking: { isOn: boolean; answer: (() => void) | null } = { isOn: false, answer: null }
  const doAsGiven = (label: string, operations: Operation[], joins?: string, after?: () => void): boolean => {
    if (asking.isOn) {
      asking.isOn = false
      asking.answer = () => doAsGiven(label, operations, joins, after)
      return false
    }
    const { inverse, touched } = applyChange(level, operations)
    undo.push(inverse)
    index.update(touched)
    after?.()
    return true
  }
  const changes = new KeptChanges({
    view: () => level,
    index: () => index,
    doAsGiven,
    areCopiesKept: () => areCopiesKept,
    sayMildly: (_title, lines) => void said.push(...lines),
  })
  const change = (operations: Operation[], copied?: Copied) => changes.change('Change', operations, undefined, copied)
  change(
    kept.map(([held, holder, rule], i): Operation => {
      const at = new Vector3().setFromMatrixPosition(level.worldMatrix(testId(holder)))
      const holders = [{ at: at.toArray(), on: testId(holder), point: [0, 0, 0] as Vec3 }]
      return {
        do: 'put-relation',
        id: testId(700 + i),
        fields: { held: testId(held), point: [0, 0, 0], holders, rule },
      }
    }),
  )
  let next = 800
  const fresh = () => testId(next++)
  const of = (held: string) =>
    [...level.relations.values()]
      .filter(relation => relation.held === held)
      .map(({ rule, holders }) => [rule, holders[0]!.on])
  return { level, index, said, undo, asking, change, fresh, of }
}

describe('what is kept, where things are copied', () => {
  const boxes: Parameters<typeof levelOfBoxes>[0] = [
    { size: [4, 1, 4], translation: [0, 0, 0] },
    { size: [4, 2, 4], translation: [8, 0, 0] },
    { size: [1, 1, 1], translation: [1, 1, 1] },
    { size: [1, 1, 1], translation: [-1, 1, 1] },
  ]

  it('is kept of the copy as that stands: on what is below it, so far from the same', () => {
    const { level, change, fresh, of, said } = scene(boxes, [
      [3, 1, on],
      [3, 4, apart(2)],
    ])
    const { operations, made, tops } = duplicate(level, [testId(3)], 'instance', fresh)
    change([...operations, put(tops[0]!, { translation: [9, 2, 1] })], { made: [made] })
    expect(level.need(tops[0]!).translation).toEqual([9, 2, 1])
    expect(of(tops[0]!)).toEqual([
      [on, testId(2)],
      [apart(10), testId(4)],
    ])
    expect(said).toEqual([])
    change([put(testId(2), { translation: [8, 3, 0] })])
    expect(level.need(tops[0]!).translation[1]).toBeCloseTo(5, 6)
  })

  it('is kept as well where something is asked before the copy is made, once that is answered', () => {
    const { level, asking, change, fresh, of } = scene(boxes, [[3, 1, on]])
    const { operations, made, tops } = duplicate(level, [testId(3)], 'instance', fresh)
    asking.isOn = true
    expect(change(operations, { made: [made] })).toBe(false)
    expect([level.has(tops[0]!), of(tops[0]!)]).toEqual([false, []])
    asking.answer!()
    expect(of(tops[0]!)).toEqual([[on, testId(1)]])
  })

  it('is dropped where that was chosen or makes no sense there, and it is said', () => {
    const dropped = scene(boxes, [[3, 1, on]], false)
    const once = duplicate(dropped.level, [testId(3)], 'instance', dropped.fresh)
    dropped.change(once.operations, { made: [once.made] })
    expect(dropped.of(once.tops[0]!)).toEqual([])
    expect(dropped.said.join()).toContain('1 link to other things')
    const far = scene(boxes, [[3, 1, on]])
    const other = duplicate(far.level, [testId(3)], 'instance', far.fresh)
    far.change([...other.operations, put(other.tops[0]!, { translation: [40, 9, 0] })], { made: [other.made] })
    expect(far.of(other.tops[0]!)).toEqual([])
    expect(far.said.join()).toContain('1 link made no sense')
  })

  it('comes along as text: to each other, and to what is there', () => {
    const { level, change, fresh, of } = scene(boxes, [
      [3, 4, apart(2)],
      [4, 1, on],
    ])
    const text = writeThings(level, [testId(3), testId(4)], 1, () => 'Crate', fresh)
    const { operations, tops, copied } = pasteThings(level, readThings(text)!, [8, 2, 0], () => true, fresh)
    change(operations, copied)
    const [a, b] = tops as [string, string]
    expect(of(a)).toEqual([[apart(2), b]])
    expect(of(b)).toEqual([[on, testId(2)]])
  })

  it('of what is mirrored together stays as it stands then, and of what is mirrored alone as well', () => {
    const { level, change, of } = scene(boxes, [[3, 4, apart(2)]])
    const plane = { point: [0, 0, 0] as Vec3, normal: [1, 0, 0] as Vec3 }
    change(mirrorPlacements(level, [testId(3), testId(4)], plane, null, () => '').operations)
    expect([3, 4].map(number => level.need(testId(number)).translation[0])).toEqual([-1, 1])
    expect(of(testId(3))).toEqual([[apart(-2), testId(4)]])
    change(mirrorPlacements(level, [testId(4)], plane, null, () => '').operations)
    // What holds was mirrored: what it holds is as far from it as before.
    expect(level.need(testId(3)).translation[0]).toBeCloseTo(-3, 12)
  })
})

describe('what is kept, where things are replaced', () => {
  const line = {
    kind: 'arrangement' as const,
    own: { rule: { ...RULES.line.first, count: 3, along: [2, 0, 0] } },
    translation: [0, 0, 4] as Vec3,
  }
  const boxes: Parameters<typeof levelOfBoxes>[0] = [
    { size: [4, 1, 4] },
    line as Partial<Placement>,
    { size: [1, 1, 1], parentId: testId(2) },
    { size: [0.5, 0.5, 0.5], translation: [2, 1, 4] },
  ]

  it('on one copy it is kept on what that is released into, of one or of all', () => {
    for (const one of [true, false]) {
      const { level, change, fresh, of } = scene(boxes, [])
      const key = level.copies(testId(2))!.keys.keyAt(1)
      const holder = copyId(testId(2), key)
      const held: Relation = {
        id: testId(701),
        held: testId(4),
        point: [0, 0, 0],
        holders: [{ at: [2, 1, 4], on: holder, point: [0, 1, 0] }],
        rule: on,
      }
      const { id, ...fields } = held
      change([{ do: 'put-relation', id, fields }])
      const made = one ? releaseCopies(level, [holder], fresh) : release(level, testId(2), fresh)
      change(made.operations, made.copied)
      const released = made.copied!.replaced!.get(holder)!
      expect(of(testId(4))).toEqual([[on, released]])
      expect(level.need(testId(4)).translation).toEqual([2, 1, 4])
      const [x, y, z] = level.need(released).translation
      change([put(released, { translation: [x, y + 2, z] })])
      expect(level.need(testId(4)).translation[1]).toBeCloseTo(3, 6)
    }
  })

  it('it is kept of and on the part that was made of them; what contradicts is let go of and said', () => {
    const { level, change, fresh, of, said, undo } = scene(
      [
        { size: [8, 1, 8] },
        { size: [1, 1, 1], translation: [1, 1, 0] },
        { size: [1, 1, 1], translation: [2, 1, 0] },
        { size: [0.5, 0.5, 0.5], translation: [1, 2, 0] },
      ],
      [
        [2, 1, on],
        [3, 1, on],
        [3, 2, apart(1)],
        [4, 2, on],
      ],
    )
    const state = () => new Map([...level.placements(), ...level.relations.values()].map(each => [each.id, each]))
    const before = state()
    const frame = { origin: [1.5, 1, 0] as Vec3, rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] as Placement['rotation'] }
    const inside = thingsAsPart(level, [testId(2), testId(3)], frame, fresh)
    expect(inside.operations.filter(({ do: what }) => what === 'put-relation')).toHaveLength(1)
    const [instance, part] = [fresh(), testId(1002)]
    const ids = [testId(2), testId(3)]
    change(replaceByPart(level, ids, instance, { id: part, name: 'Pair' }, frame), {
      replaced: new Map(ids.map(id => [id, instance])),
    })
    expect(of(instance)).toEqual([[{ ...on }, testId(1)]])
    expect(of(testId(4))).toEqual([[on, instance]])
    expect(said.join()).toContain('1 link made no sense')
    for (const inverse of undo.toReversed().slice(0, -1)) applyChange(level, inverse)
    expect(state()).toEqual(before)
  })
})
