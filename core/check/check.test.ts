import { cameraOwn, lightOwn, markerOwn } from '../level/create'
import fc from 'fast-check'
import { BoxGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import type { Box } from '../../tests/check-support'
import { checkBoxes, said } from '../../tests/check-support'
import { testId, testSolid } from '../../tests/support'
import { RULES } from '../arrange/rules'
import { removeWithChildren } from '../level/edit'
import type { Operation } from '../level/schema'
import { degreesToQuat } from '../math/transform'
import type { Vec3 } from '../math/vectors'
import { singleStep } from './kinds/far-away'
import { CHECK_NAMES, checkOf } from './kinds'
import { sightLines } from './sight-lines'

const floor: Box = { size: [20, 0.2, 20], translation: [0, -0.2, 0], tags: ['ground'], name: 'Floor' }
const crate = (x: number, y: number, z = 0, fields: Box = {}): Box => ({
  size: [1, 1, 1],
  translation: [x, y, z],
  ...fields,
})
const walk = (...points: Vec3[]): Box => ({ kind: 'marker', name: 'Walk', own: markerOwn('walk', { points }) })
const amount = (of: string, boxes: Box[], records = {}) =>
  checkBoxes(boxes, records)
    .check.findings.filter(finding => finding.of === of)
    .map(finding => (finding.amount === null ? null : Number(finding.amount.toFixed(5))))

describe('what the level check finds', () => {
  it('nothing where all is well', () => {
    expect(said(checkBoxes([floor, crate(0, 0), crate(0, 1), crate(2, 0), crate(3, 0)]).check)).toEqual([])
  })

  it('what floats, with all that it touches, by how far above what is below; ground and the ground plane hold', () => {
    expect(amount('floating', [floor, crate(0, 0.03)])).toEqual([0.03])
    expect(said(checkBoxes([floor, crate(0, 0.03), crate(0, 1.03), crate(5, 0.2, 5)]).check)).toEqual([
      'floating 2',
      'floating 4',
    ])
    expect(amount('floating', [crate(0, 0), crate(3, 0.5)])).toEqual([0.5])
    // Held by its side.
    expect(amount('floating', [floor, { ...crate(0, 0), size: [1, 4, 1] }, crate(1, 2)])).toEqual([])
    // Lower than the ground plane with nothing below is ground itself.
    expect(amount('floating', [crate(0, -3)])).toEqual([])
    expect(
      amount('floating', [
        { ...floor, translation: [0, -0.7, 0] },
        { ...crate(0, -0.47), size: [0.5, 1, 0.5] },
      ]),
    ).toEqual([0.03])
  })

  it('nothing that a fix has left behind: what is moved off what held it is set down, or goes another way', () => {
    // The second crate stands on a narrow edge of 0.368 m, in the third by a tenth: moved out of that it stands on
    // nothing.
    const edge: Box = { size: [0.1, 0.368, 0.2], translation: [0.45, 0, 0.4] }
    const { check, change } = checkBoxes([floor, edge, crate(0, 0.368), { ...crate(0.9, 0), size: [1, 3, 0.4] }])
    const overlap = check.findings.find(({ of }) => of === 'overlapping')!
    expect(overlap.amount).toBeCloseTo(0.1, 5)
    const { operations, done, failed } = check.fix([overlap.key])
    expect([done, failed]).toEqual([[overlap.key], []])
    change(operations)
    expect(check.findings.filter(({ of }) => ['overlapping', 'hanging', 'floating', 'sunk'].includes(of))).toEqual([])
  })

  it('what hangs beside something and would fall, and not what stands on two, is let in, or hangs on a piece', () => {
    const tall: Box = { ...crate(0, 0), size: [1, 4, 1] }
    expect(amount('hanging', [floor, tall, crate(1, 0.368)])).toEqual([0.368])
    expect(amount('hanging', [floor, tall, crate(1, 0.0009)])).toEqual([])
    expect(amount('hanging', [floor, tall, crate(1, 0.0011)])).toEqual([0.0011])
    expect(amount('hanging', [floor, tall, crate(0.99, 2)])).toEqual([])
    expect(amount('hanging', [floor, crate(0, 0), crate(1, 0), crate(0.5, 1)])).toEqual([])
    // What stands on it hangs as well, and is set down with nothing.
    expect(said(checkBoxes([floor, tall, crate(1, 2), crate(1, 3)]).check, 'hanging')).toEqual(['hanging 3'])
  })

  it('what is sunk from a millimetre on, not one side on a slope, nor what lies in water', () => {
    expect(amount('sunk', [floor, crate(0, -0.022)])).toEqual([0.022])
    expect(amount('sunk', [floor, crate(0, -0.0009)])).toEqual([])
    expect(amount('sunk', [crate(0, -0.022)])).toEqual([0.022])
    expect(amount('sunk', [{ ...floor, tags: ['ground', 'water'] }, crate(0, -0.1)])).toEqual([])
    const slope: Box = { ...floor, rotation: degreesToQuat([0, 0, 15]) }
    expect(amount('sunk', [slope, crate(0, 0)])).toEqual([])
    // The slope's top goes through its own corner (0, 0.2), turned; the crate's lower corner is half a metre down it.
    const [x, y, t] = [-0.2 * Math.sin(Math.PI / 12), 0.2 * Math.cos(Math.PI / 12) - 0.2, Math.tan(Math.PI / 12)]
    expect(amount('sunk', [slope, crate(0, -0.3)])[0]).toBeCloseTo(y + (-0.5 - x) * t + 0.3, 4)
    // Deeper than half of it is buried, as before.
    expect(amount('sunk', [{ ...floor, size: [20, 4, 20], translation: [0, -4, 0] }, crate(0, -0.7)])).toEqual([])
  })

  it('things twice in one place only where they differ by less than a millimetre', () => {
    for (const [off, found] of [
      [0.0005, ['twice 2 3']],
      [0.0015, []],
      [0.03, []],
    ] as const) {
      expect(
        said(
          checkBoxes([floor, crate(0, 0), { kind: 'part', partId: testId(1002), translation: [off, 0, 0] }]).check,
          'twice',
        ),
      ).toEqual(found)
    }
  })

  it('what is buried by its share of height, not by metres', () => {
    const ground: Box = { ...floor, size: [20, 8, 20], translation: [0, -8, 0] }
    expect(amount('buried', [ground, { ...crate(0, -1), size: [1, 3, 1] }])).toEqual([])
    expect(amount('buried', [ground, { ...crate(0, -0.3), size: [0.4, 0.4, 0.4] }])).toEqual([0.3])
  })

  it('flickering faces from the side of a square of their area on', () => {
    // Two cubes side by side within each other by some millimetres: strips of their tops, fronts and backs lie in one
    // plane.
    const strips = (wide: number): Box[] => [
      { size: [1, 1, 1], translation: [0, 0, 0] },
      { size: [1, 1, 1], translation: [1 - wide, 0, 0] },
    ]
    expect(amount('flicker', strips(0.012))).toEqual([])
    expect(amount('flicker', strips(0.015))).toEqual([Number(Math.sqrt(3 * 0.015).toFixed(5))])
  })

  it('what is buried, and what lies under the ground', () => {
    expect(amount('buried', [floor, crate(0, -0.15)])).toEqual([])
    expect(amount('buried', [{ ...floor, size: [20, 4, 20], translation: [0, -4, 0] }, crate(0, -0.7)])).toEqual([0.7])
    expect(amount('buried', [floor, crate(0, -3)])).toEqual([3])
    // Under a bridge, over ground.
    expect(amount('buried', [floor, crate(0, 0), { ...floor, translation: [0, 3, 0], name: 'Deck' }])).toEqual([])
  })

  it('what overlaps, by how deep, but not what touches, hangs together or is one group', () => {
    expect(amount('overlapping', [floor, crate(0, 0), crate(0.9, 0)])).toEqual([0.1])
    expect(amount('overlapping', [floor, crate(0, 0), crate(0.99, 0)])).toEqual([])
    expect(amount('overlapping', [floor, crate(0, -0.1), crate(5, -0.25)])).toEqual([0.25])
    expect(
      amount('overlapping', [
        floor,
        {},
        crate(0, 0, 0, { parentId: testId(2) }),
        crate(0.5, 0, 0, { parentId: testId(2) }),
      ]),
    ).toEqual([])
    expect(
      amount('overlapping', [
        floor,
        { own: { open: true } },
        crate(0, 0, 0, { parentId: testId(2) }),
        crate(0.5, 0, 0, { parentId: testId(2) }),
      ]),
    ).toEqual([0.5])
  })

  it("copies in a thing's way", () => {
    const boxes: Box[] = [
      floor,
      { kind: 'arrangement', own: { rule: { ...RULES.line.first, count: 5 } } },
      crate(0, 0, 0, { parentId: testId(2) }),
      crate(0.5, 0, 0.5),
    ]
    expect(said(checkBoxes(boxes).check, 'overlapping')).toEqual(['overlapping 4 2'])
  })

  it('the same thing twice, and faces that flicker', () => {
    const same = checkBoxes([floor, crate(0, 0), { kind: 'part', partId: testId(1002), translation: [0, 0, 0] }]).check
    expect(said(same, 'twice', 'overlapping', 'flicker')).toEqual(['twice 2 3'])
    // A slab let into the floor, tops in one plane: 1 m² of it.
    expect(amount('flicker', [floor, crate(0, -1)])).toEqual([1])
    expect(amount('flicker', [floor, crate(0, -1.01)])).toEqual([])
  })

  it('pieces off the grid and off the turn step, what is mirrored, resized, stretched, skewed or extreme', () => {
    const piece = (fields: Box): Box => ({ size: [1, 1, 1], kindOfPart: 'piece', translation: [0, 0, 0], ...fields })
    expect(amount('off-grid', [piece({ translation: [0.3, 0, 0.25] })])).toEqual([0.05])
    expect(amount('off-turn', [piece({ rotation: degreesToQuat([0, 44, 0]) })])).toEqual([1])
    expect(amount('off-turn', [piece({ rotation: degreesToQuat([0, 45, 0]) })])).toEqual([])
    expect(said(checkBoxes([crate(0, 0, 0, { scale: [-1, 1, 1] })]).check)).toEqual(['mirrored 1'])
    expect(said(checkBoxes([crate(0, 0, 0, { scale: [2, 2, 2] })]).check)).toEqual(['resized 1'])
    expect(amount('uneven', [crate(0, 0, 0, { scale: [1, 1, 1.5] })])).toEqual([0.5])
    expect(
      amount('extreme-size', [crate(0, 0, 0, { scale: [20, 20, 20] }), crate(50, 0, 0, { scale: [0.05, 1, 1] })]),
    ).toEqual([20, 0.05])
    expect(
      amount('skewed', [
        { scale: [1, 3, 1] },
        crate(0, 0, 0, { parentId: testId(1), rotation: degreesToQuat([0, 0, 30]) }),
      ]),
    ).toEqual([null])
  })

  it('what is outside the bounds, and how exact single precision is far out (IEEE 754: 24 bits)', () => {
    expect(amount('out-of-bounds', [crate(500, 0)])).toEqual([0.5])
    for (const value of [0.7, 1, 1000, 4095.9, 8192, 123456])
      expect(singleStep(value)).toBeCloseTo(nextSingle(value), 12)
    expect(amount('far-away', [crate(20_000, 0)])).toEqual([2 ** -9].map(step => Number(step.toFixed(5))))
    expect(amount('far-away', [crate(8191, 0)])).toEqual([])
  })

  it('cameras in things, lights that light nothing, places to come in without ground, headroom or room', () => {
    const camera = (x: number): Box => ({
      kind: 'camera',
      own: cameraOwn({ fieldOfView: 50 }),
      translation: [x, 0.5, 0],
    })
    expect(amount('camera-blocked', [floor, crate(0, 0), camera(0.1), camera(0.55), camera(0.7)])).toEqual([0, 0.05])
    const light = (range: number, intensity = 1, kind: 'point' | 'sun' = 'point'): Box => ({
      kind: 'light',
      own: lightOwn({ light: kind, intensity, range }),
      translation: [0, 3, 0],
    })
    expect(
      said(
        checkBoxes([crate(0, 0), light(1.9), light(2.1), light(0), light(1, 1, 'sun'), light(0, 0)]).check,
        'idle-light',
      ),
    ).toEqual(['idle-light 2', 'idle-light 6'])
    const spawn = (x: number, y: number): Box => ({ kind: 'marker', own: markerOwn('spawn'), translation: [x, y, 0] })
    const roof = (height: number): Box => ({ size: [3, 0.2, 3], translation: [0, height, 0] })
    expect(amount('spawn-blocked', [floor, spawn(0, 0)])).toEqual([])
    expect(amount('spawn-blocked', [floor, spawn(0, 1)])).toEqual([1])
    expect(amount('spawn-blocked', [floor, spawn(40, 1)])).toEqual([null])
    expect(amount('spawn-blocked', [floor, roof(1.9), spawn(0, 0)])).toEqual([])
    expect(amount('spawn-blocked', [floor, roof(1.85), spawn(0, 0)])).toEqual([0.05])
    expect(amount('spawn-blocked', [floor, crate(0.9, 0), spawn(0, 0)])).toEqual([])
    expect(said(checkBoxes([floor, crate(0.8, 0), spawn(0, 0)]).check)).toEqual(['spawn-blocked 3 2'])
  })

  it('gaps and steps along walking lines: 178 mm is the highest riser (International Building Code 2021, 1011.5.2, from memory)', () => {
    const step = (height: number): Box => ({ size: [4, height, 4], translation: [4, 0, 0] })
    const line = walk([-2, 0, 0], [4, 0, 0])
    expect(amount('step-too-high', [floor, step(0.178), line])).toEqual([])
    expect(amount('step-too-high', [floor, step(0.18), line])).toEqual([0.18])
    const posts = (gap: number): Box[] =>
      [-1, 1].map(side => ({ size: [0.5, 2, 0.5], translation: [0, 0, side * (gap / 2 + 0.25)] }))
    expect(amount('narrow', [floor, ...posts(0.9), walk([-2, 0, 0], [2, 0, 0])])).toEqual([])
    expect(amount('narrow', [floor, ...posts(0.88), walk([-2, 0, 0], [2, 0, 0])])).toEqual([0.88])
  })

  it('what is in the way of a body along a walking line, however thin and wherever: walls, bars, a wall across', () => {
    const line = walk([-2, 0, 0], [2, 0, 0])
    const wall = (x: number, gap: number, thick: number, height = 2, y = 0): Box[] =>
      [-1, 1].map(side => ({ size: [thick, height, 1], translation: [x, y, side * (gap / 2 + 0.5)] }))
    for (const x of [0, 0.03, 0.05, 0.083]) {
      expect(amount('narrow', [floor, ...wall(x, 0.7, 0.01), line])).toEqual([0.7])
      expect(amount('narrow', [floor, { size: [0.01, 2, 3], translation: [x, 0, 0] }, line])).toEqual([0])
    }
    // A bar between the heights of knees, hips and shoulders, and one that is stepped over.
    for (const height of [0.5, 0.7, 1.15, 1.7])
      expect(amount('narrow', [floor, ...wall(0, 0.6, 0.04, 0.04, height), line])).toEqual([0.6])
    expect(amount('narrow', [floor, ...wall(0, 0.6, 0.04, 0.3), line])).toEqual([])
    expect(amount('narrow', [floor, ...wall(0, 0.6, 0.04, 0.1, 1.85), line])).toEqual([])
    // The narrowest of several heights counts.
    expect(
      amount('narrow', [
        floor,
        ...wall(0, 0.8, 0.04, 0.3, 0.4),
        ...wall(0, 0.5, 0.04, 0.3, 0.9),
        ...wall(0, 0.7, 0.04, 0.3, 1.4),
        line,
      ]),
    ).toEqual([0.5])
    // A wall along the line is beside it, up to its very end.
    expect(
      amount('narrow', [
        floor,
        { size: [1, 2, 0.1], translation: [0, 0, 0.5] },
        { size: [1, 2, 0.1], translation: [0, 0, -0.3] },
        line,
      ]),
    ).toEqual([0.7])
  })

  it('sight lines of fans by C = D·(N + R)/(D + T) - R (Guide to Safety at Sports Grounds), worked by hand', () => {
    // Row 1: D 10, T 0.8, N 0.3, eyes 1.2 above the row, focus at 0: 10·1.5/10.8 - 1.2 = 0.18889.
    const rule = {
      ...RULES.fan.first,
      rows: 3,
      radius: 10,
      depth: 0.8,
      rise: { by: 'rows' as const, height: 0.3, every: 1 },
    }
    const rows = sightLines(rule, { eye: 1.2, focus: 0 })
    expect(rows.map(({ c }) => Number(c.toFixed(5)))).toEqual([0.18889, Number(((10.8 * 1.8) / 11.6 - 1.5).toFixed(5))])
    const flat = { ...rule, rise: { by: 'rows' as const, height: 0, every: 1 } }
    expect(
      amount('sight-line', [
        floor,
        { kind: 'arrangement', own: { rule: flat } },
        crate(0, 0, 0, { parentId: testId(2) }),
      ]),
    ).toEqual([Number(((10.8 * 1.2) / 11.6 - 1.2).toFixed(5)), Number(((10 * 1.2) / 10.8 - 1.2).toFixed(5))].slice(1))
    expect(
      amount('sight-line', [floor, { kind: 'arrangement', own: { rule } }, crate(0, 0, 0, { parentId: testId(2) })]),
    ).toEqual([])
  })

  it('parts that are missing or never used, empty groups, names given twice, left-overs, exceptions without a place', () => {
    expect(said(checkBoxes([{ kind: 'part', partId: testId(77) }]).check, 'missing-part')).toEqual(['missing-part 1'])
    expect(
      said(checkBoxes([crate(0, 0)], {}, new Map([[testId(50), testSolid(new BoxGeometry(1, 1, 1))]])).check),
    ).toEqual(['unused-part 50'])
    expect(said(checkBoxes([{}]).check)).toEqual(['empty-group 1'])
    expect(
      said(
        checkBoxes([
          crate(0, 0, 0, { name: 'Crate' }),
          crate(3, 0, 0, { name: 'Crate' }),
          crate(6, 0, 0, { name: 'Crate' }),
        ]).check,
      ),
    ).toEqual(['same-name 2 1', 'same-name 3 1'])
    expect(said(checkBoxes([crate(0, 0, 0, { hidden: true }), crate(3, 0, 0, { locked: true })]).check)).toEqual([
      'left-over 1',
      'left-over 2',
    ])
    const own = {
      rule: { ...RULES.line.first, count: 3 },
      exceptions: { 1: { hidden: true as const }, 7: { hidden: true as const } },
    }
    expect(amount('lost-exception', [{ kind: 'arrangement', own }, crate(0, 0, 0, { parentId: testId(1) })])).toEqual([
      1,
    ])
  })
})

/** How far the next single-precision number is. */
function nextSingle(value: number): number {
  const bits = new Uint32Array(new Float32Array([value]).buffer)
  const next = new Float32Array(new Uint32Array([bits[0]! + 1]).buffer)[0]!
  return next - Math.fround(value)
}

describe('limits and what is left', () => {
  it('go by what is kept in the level', () => {
    const limit = (of: string, values: Record<string, number>, off = false) => ({
      limits: [{ id: testId(700), of, off, values }],
    })
    expect(amount('floating', [floor, crate(0, 0.03)], limit('floating', { gap: 0.05 }))).toEqual([])
    expect(amount('floating', [floor, crate(0, 0.03)], limit('floating', {}, true))).toEqual([])
    const { check, change } = checkBoxes([floor, crate(0, 0.03)])
    change([{ do: 'put-limit', id: testId(700), fields: { of: 'floating', off: true, values: {} } }])
    for (const _ of check.relimit());
    expect(said(check)).toEqual([])
  })

  it('leave a finding with its reason, also when the thing moves a little, but not when it gets worse', () => {
    const exemptions = [{ id: testId(701), of: 'floating', things: [testId(2)], amount: 0.03, reason: 'a kite' }]
    const { check, change } = checkBoxes([floor, crate(0, 0.03)], { exemptions })
    const left = () => check.findings.map(finding => finding.left)
    expect(left()).toEqual(['a kite'])
    change([{ do: 'put', id: testId(2), fields: { translation: [1, 0.0309, 0] } }])
    expect(left()).toEqual(['a kite'])
    change([{ do: 'put', id: testId(2), fields: { translation: [1, 0.3, 0] } }])
    expect(left()).toEqual([undefined])
  })
})

/** Boxes in a small room, so that they meet, float and are buried often. */
const anyBoxes = fc
  .array(
    fc.record({
      at: fc.tuple(fc.integer({ min: -4, max: 4 }), fc.integer({ min: -2, max: 5 }), fc.integer({ min: -4, max: 4 })),
      turn: fc.constantFrom(0, 0, 0, 30),
      half: fc.boolean(),
      mirrored: fc.constantFrom(1, 1, -1),
    }),
    { minLength: 2, maxLength: 9 },
  )
  .map(all =>
    all.map(
      ({ at: [x, y, z], turn, half, mirrored }): Box => ({
        size: half ? [0.5, 0.5, 0.5] : [1, 1, 1],
        translation: [x / 2, y / 2 + (half ? 0.03 : 0), z / 2],
        rotation: degreesToQuat([0, turn, 0]),
        scale: [mirrored, 1, 1],
      }),
    ),
  )

describe('rechecking', () => {
  it('what changed equals checking all, over random changes', () => {
    const anyChange = fc.record({
      which: fc.nat(),
      at: fc.tuple(fc.integer({ min: -4, max: 4 }), fc.integer({ min: -2, max: 5 }), fc.integer({ min: -4, max: 4 })),
      how: fc.constantFrom('move', 'move', 'move', 'remove', 'hide', 'name', 'hang', 'ground'),
    })
    fc.assert(
      fc.property(anyBoxes, fc.array(anyChange, { minLength: 1, maxLength: 6 }), (boxes, changes) => {
        const { level, check, anew, change } = checkBoxes([floor, walk([-2, 0, 0], [2, 0, 0.3]), ...boxes])
        for (const {
          which,
          at: [x, y, z],
          how,
        } of changes) {
          const ids = [...level.placements()].map(({ id }) => id).sort()
          const id = ids[how === 'ground' ? 0 : which % ids.length]!
          const other = ids[(which + 1) % ids.length]!
          const operations: Record<typeof how, () => Operation[]> = {
            move: () => [{ do: 'put', id, fields: { translation: [x / 2, y / 2, z / 2] } }],
            ground: () => [{ do: 'put', id, fields: { translation: [x / 2, -0.2 + y / 10, z / 2] } }],
            remove: () => removeWithChildren(level, [id]),
            hide: () => [{ do: 'put', id, fields: { hidden: !level.need(id).hidden } }],
            name: () => [{ do: 'put', id, fields: { name: level.need(other).name } }],
            hang: () => (level.isWithin(other, id) ? [] : [{ do: 'put', id, fields: { parentId: other } }]),
          }
          const made = operations[how]()
          if (made.length > 0) change(made)
          const sorted = (of: typeof check) => of.findings.sort((a, b) => (a.key < b.key ? -1 : 1))
          expect(sorted(check)).toEqual(sorted(anew()))
        }
      }),
      { numRuns: 150 },
    )
  })

  it('follows what hung together, however far its hold was', () => {
    // A row of six boxes in the air, held by a post under the last; all of it well above the ground plane.
    const row = [0, 1, 2, 3, 4, 5].map(x => crate(x, 8))
    const { check, anew, change } = checkBoxes([
      { ...floor, translation: [0, 4.8, 0] },
      ...row,
      { size: [1, 3, 1], translation: [5, 5, 0] },
    ])
    expect([said(check, 'floating'), said(check, 'hanging')]).toEqual([[], [2, 3, 4, 5, 6].map(id => `hanging ${id}`)])
    for (const translation of [
      [9, 5, 0],
      [5, 5, 0],
      [5.4, 5, 0],
      [0, 5, 0],
    ] as Vec3[]) {
      change([{ do: 'put', id: testId(8), fields: { translation } }])
      expect(said(check)).toEqual(said(anew()))
    }
    change(removeWithChildren(check.site.level, [testId(8)]))
    expect(said(check, 'floating')).toEqual(['floating 2'])
    expect(said(check)).toEqual(said(anew()))
  })
})

describe('fixes', () => {
  it('that say done leave no such finding, touch nothing but the things of the finding, and leave the level as it was', () => {
    const done: Record<string, number> = {}
    fc.assert(
      fc.property(anyBoxes, fc.nat(), (boxes, which) => {
        const { level, check, change } = checkBoxes([floor, ...boxes])
        const fixable = check.findings.filter(({ of }) => checkOf(of).fix?.by === 'operations')
        if (fixable.length === 0) return
        const finding = fixable[which % fixable.length]!
        const before = JSON.stringify([...level.placements()])
        const { operations, done: fixed, failed } = check.fix([finding.key])
        expect(JSON.stringify([...level.placements()])).toBe(before)
        expect(fixed.length + failed.length).toBe(1)
        if (fixed.length === 0) return expect(operations).toEqual([])
        done[finding.of] = (done[finding.of] ?? 0) + 1
        const together = finding.of === 'floating' ? finding.more! : finding.things.length
        expect(operations.length).toBeLessThanOrEqual(together)
        change(operations)
        expect(check.findings.map(({ key }) => key)).not.toContain(finding.key)
      }),
      { numRuns: 150 },
    )
    expect(Object.keys(done).length).toBeGreaterThan(2)
  })

  it('of all at once: each as things stand after those before it', () => {
    const { check, change, level } = checkBoxes([
      floor,
      crate(0, 0.5),
      crate(0, 1.7),
      crate(3, 0.2),
      crate(3, 0.2, 0.1),
    ])
    const { operations, failed } = check.fix(
      check.findings.filter(({ of }) => of === 'floating' || of === 'overlapping').map(({ key }) => key),
    )
    expect(failed).toEqual([])
    change(operations)
    expect(said(check, 'floating')).toEqual([])
    expect(level.need(testId(2)).translation[1]).toBeCloseTo(0, 6)
    expect(level.need(testId(3)).translation[1]).toBeCloseTo(1, 6)
  })

  it('say why they cannot', () => {
    const { check } = checkBoxes([{ ...floor, locked: true }, crate(0, 0.5, 0, { locked: true }), {}])
    expect(
      check
        .fix(check.findings.map(({ key }) => key))
        .failed.map(({ why }) => why)
        .join(),
    ).toMatch(/locked/)
  })

  it('are there for what can be mended, and every kind says what it means', () => {
    for (const name of CHECK_NAMES) {
      const { explains, limits, says } = checkOf(name)
      expect(explains.length).toBeGreaterThan(20)
      for (const { label } of Object.values(limits)) expect(label).toMatch(/^[A-Z]/)
      expect(
        says(
          { things: [testId(1), testId(2)], amount: 0.5, at: [0, 0, 0], more: 2 },
          { name: id => id.slice(-2), length: metres => `${metres} m` },
        ),
      ).toMatch(/01/)
    }
  })
})
