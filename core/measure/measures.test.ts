import { vec3 } from 'gl-matrix'
import fc from 'fast-check'
import { BoxGeometry, CylinderGeometry, Quaternion, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyVec3, levelOfBoxes, testId, testPlacement, testSolid } from '../../tests/support'
import { RULES } from '../arrange/rules'
import { removeWithChildren } from '../level/edit'
import type { Measure } from '../level/schema'
import { applyChange } from '../level/change'
import type { Vec3 } from '../math/vectors'
import { flatFaceAt } from '../mesh/flat-face'
import { LevelIndex } from '../scene/level-index'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'
import type { Where } from './definition'
import { endAt } from './definition'
import { withEndsKept } from './keep-ends'
import { measureNow } from './measures'
import type { Wanted } from './set-length'
import { SetLengthError } from './set-length'
import { setClearance } from './set-clearance'
import { setHeight } from './set-height'
import { setTape } from './set-tape'

const space = (...points: Vec3[]) => points.map(at => ({ at, on: null, point: at }))
const measure = (fields: Partial<Measure>): Measure => ({
  id: testId(500),
  name: 'Tape 1',
  order: 0,
  hidden: false,
  kind: 'tape',
  ends: [],
  sides: [],
  connected: false,
  ...fields,
})
const whereIn = (level: LevelView, index: LevelIndex): Where => ({
  level,
  matrixOf: id => level.worldMatrix(id),
  shownBy: id => index.shownBy(id),
  axes: new Quaternion(),
  below: (point, except) => index.raycast(new Ray(point.clone(), new Vector3(0, -1, 0)), id => id !== except),
})
const bare = () => {
  const { level, index } = levelOfBoxes([])
  return whereIn(level, index)
}
const now = (fields: Partial<Measure>, where = bare()) => measureNow(measure(fields), where)

describe('measures between points', () => {
  it('tapes agree with gl-matrix, and by axis with the differences', () => {
    fc.assert(
      fc.property(fc.array(anyVec3, { minLength: 2, maxLength: 6 }), points => {
        const { facts, numbers, lines } = now({ ends: space(...points) })
        const legs = points.slice(1).map((point, i) => vec3.distance(point, points[i]!))
        expect(lines.length).toBe(points.length - 1)
        numbers.forEach(({ value }, i) => expect(value).toBeCloseTo(legs[i]!, 12))
        expect(facts[0]!.value).toBeCloseTo(
          legs.reduce((sum, leg) => sum + leg, 0),
          10,
        )
        facts
          .slice(-3)
          .forEach(({ value }, axis) =>
            expect(value).toBeCloseTo(Math.abs(points.at(-1)![axis]! - points[0]![axis]!), 10),
          )
      }),
    )
  })

  it('areas of a face are those of the world, and the slope of a face is drawn down it', () => {
    const { level, index } = levelOfBoxes([
      { size: [1, 1, 1], scale: [2, 1, 3], translation: [5, 0, 0] },
      { size: [4, 1, 4], translation: [0, 0, 20], rotation: [0, 0, Math.sin(Math.PI / 12), Math.cos(Math.PI / 12)] },
    ])
    const top = endAt(level, testId(1), new Vector3(5.1, 1, 0.1))
    expect(now({ kind: 'area', ends: [top] }, whereIn(level, index)).facts[0]!.value).toBeCloseTo(6, 9)
    // Turned by 30 degrees about Z: its top rises along X by tan 30.
    const face = [
      [0, 0, 0],
      [1, 0, 0],
      [0, 0, 1],
    ].map(([x, , z]) =>
      endAt(level, testId(2), new Vector3(x! - 0.5, 1, z!).applyMatrix4(level.worldMatrix(testId(2)))),
    )
    const { facts, lines } = now({ kind: 'slope', ends: face }, whereIn(level, index))
    expect(facts[0]!.value).toBeCloseTo(Math.tan(Math.PI / 6), 6)
    const way = lines[0]![1].clone().sub(lines[0]![0]).normalize()
    expect(way.toArray().map(value => Number(value.toFixed(6)) + 0)).toEqual([
      -Number(Math.cos(Math.PI / 6).toFixed(6)),
      -0.5,
      0,
    ])
  })

  it('tapes go by the axes chosen', () => {
    const axes = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), Math.PI / 2)
    expect(
      now({ ends: space([0, 0, 0], [3, 4, 0]) }, { ...bare(), axes })
        .facts.slice(-3)
        .map(({ value }) => Math.round(value * 1e9) / 1e9),
    ).toEqual([0, 4, 3])
  })

  it('angles agree with gl-matrix; a right angle is 90, straight on is 180, edges anywhere give theirs', () => {
    fc.assert(
      fc.property(anyVec3, anyVec3, anyVec3, (a, corner, b) => {
        fc.pre(vec3.distance(a, corner) > 0.1 && vec3.distance(b, corner) > 0.1)
        const expected =
          (vec3.angle(vec3.sub(vec3.create(), a, corner), vec3.sub(vec3.create(), b, corner)) * 180) / Math.PI
        // gl-matrix holds single precision.
        expect(now({ kind: 'angle', ends: space(a, corner, b) }).facts[0]!.value).toBeCloseTo(expected, 1)
      }),
    )
    const degrees = (...points: Vec3[]) => now({ kind: 'angle', ends: space(...points) }).facts[0]!.value
    expect(degrees([1, 0, 0], [0, 0, 0], [0, 2, 0])).toBeCloseTo(90, 12)
    expect(degrees([1, 0, 0], [0, 0, 0], [-3, 0, 0])).toBeCloseTo(180, 6)
    expect(degrees([0, 0, 0], [1, 0, 0], [5, 5, 5], [6, 6, 5])).toBeCloseTo(45, 12)
    expect(now({ kind: 'angle', ends: space([1, 0, 0], [1, 0, 0], [0, 2, 0]) }).remarks).toHaveLength(1)
  })

  it('slopes are rise over run: 1:12 is 8.33 % and 4.76 degrees (the ramp of the Americans with Disabilities Act, 405.2, from memory)', () => {
    const {
      facts: [slope],
    } = now({ kind: 'slope', ends: space([0, 0, 0], [12, 1, 0]) })
    expect(
      [slope!.value * 100, (Math.atan(slope!.value) * 180) / Math.PI, 1 / slope!.value].map(value =>
        Number(value.toFixed(2)),
      ),
    ).toEqual([8.33, 4.76, 12])
    expect(now({ kind: 'slope', ends: space([0, 0, 0], [0, 1, 0]) }).facts[0]!.value).toBe(Infinity)
    for (const face of [
      [
        [0, 0, 0],
        [0, 0, 1],
        [12, 1, 0],
      ],
      [
        [0, 0, 0],
        [12, 1, 0],
        [0, 0, 1],
      ],
    ] as Vec3[][])
      expect(now({ kind: 'slope', ends: space(...face) }).facts[0]!.value).toBeCloseTo(1 / 12, 12)
    expect(now({ kind: 'slope', ends: space([0, 0, 0], [1, 0, 0], [0, 0, 1]) }).facts[0]!.value).toBeCloseTo(0, 12)
  })

  it("areas of loops are their corners' cross products", () => {
    expect(now({ kind: 'area', ends: space([0, 0, 0], [3, 0, 0], [3, 0, 4]) }).facts.map(({ value }) => value)).toEqual(
      [6, 12],
    )
  })
})

describe('measures on things', () => {
  const crates = () =>
    levelOfBoxes([
      { size: [1, 1, 1] },
      { size: [1, 1, 1], translation: [3, 0, 0] },
      { size: [10, 0.2, 10], translation: [0, -0.2, 0] },
    ])

  it('follow the thing, and stay where they were when it is deleted, until that is undone', () => {
    const { level, index } = crates()
    const tape = measure({
      ends: [endAt(level, testId(1), new Vector3(0.5, 1, 0)), endAt(level, testId(2), new Vector3(2.5, 1, 0))],
    })
    const { id, ...fields } = tape
    applyChange(level, [{ do: 'put-measure', id, fields }])
    const length = () => measureNow(level.measures.get(id)!, whereIn(level, index)).facts[0]!.value
    expect(length()).toBeCloseTo(2, 12)
    applyChange(level, [{ do: 'put', id: testId(2), fields: { translation: [4.25, 0, 0] } }])
    expect(length()).toBeCloseTo(3.25, 12)
    const { inverse } = applyChange(level, withEndsKept(level, removeWithChildren(level, [testId(2)])))
    expect(length()).toBeCloseTo(3.25, 12)
    expect(measureNow(level.measures.get(id)!, whereIn(level, index)).remarks.join()).toMatch(/gone/)
    applyChange(level, inverse)
    expect(measureNow(level.measures.get(id)!, whereIn(level, index)).remarks).toEqual([])
  })

  it('set a tape by moving the thing at its last end, along it or along an axis, as little as will do', () => {
    const { level } = crates()
    const tape = measure({
      ends: [endAt(level, testId(1), new Vector3(0.5, 1, 0)), endAt(level, testId(2), new Vector3(2.5, 1, 0))],
    })
    const set = (metres: number, along: Wanted['along'] = null, number = 0, ends = tape.ends) =>
      setTape({ ...tape, ends: [...ends] }, { level, matrixOf: id => level.worldMatrix(id) }, { number, metres, along })
        .operations
    expect(set(1.2)).toEqual([{ do: 'put', id: testId(2), fields: { translation: [2.2, 0, 0] } }])
    expect(set(2.5, new Vector3(0, 1, 0))[0]).toMatchObject({ fields: { translation: [3, 1.5, 0] } })
    const onOne = [tape.ends[1]!, tape.ends[1]!]
    for (const [leg, wanted, along, ends] of [
      [0, 1, new Vector3(0, 1, 0), tape.ends],
      [0, 0, null, tape.ends],
      [0, -1, null, tape.ends],
      [1, 1, null, tape.ends],
      [0, 1, null, onOne],
      [0, 2, new Vector3(1, 0, 0), onOne],
      [0, 1, 'level', space([0, 0, 0], [0, 2, 0])],
      [0, 0.5, 'level', space([0, 0, 0], [3, 0.6, 0])],
    ] as const) {
      expect(() => set(wanted, along, leg, [...ends])).toThrow(SetLengthError)
    }
    // Of the two places where it would be so long, the nearer one.
    const [moved] = set(2.2, new Vector3(0, 1, 0), 0, space([0, 2, 0], [2, 1, 0]))
    expect(moved?.do === 'put-measure' && moved.fields.ends![1]!.at[1]).toBeCloseTo(2 - Math.sqrt(2.2 ** 2 - 4), 9)
    const [, free] = space([0, 0, 0], [0, 2, 0])
    expect(set(5, null, 0, [tape.ends[0]!, free!])).toMatchObject([
      { do: 'put-measure', fields: { ends: [tape.ends[0], { on: null }] } },
    ])
  })

  it('set a nearly level tape level, so that nothing sinks, and say so; along its line when asked, or when level will not do', () => {
    const { level } = crates()
    const tape = measure({
      ends: [endAt(level, testId(1), new Vector3(0.5, 1, 0)), endAt(level, testId(2), new Vector3(2.5, 0.7, 0))],
    })
    const set = (metres: number, along: Wanted['along'] = null) =>
      setTape(tape, { level, matrixOf: id => level.worldMatrix(id) }, { number: 0, metres, along })
    const heightOf = ({ operations: [put] }: ReturnType<typeof set>) =>
      put?.do === 'put' ? put.fields.translation![1] : NaN
    expect([heightOf(set(3)), set(3).says]).toEqual([0, `${level.need(testId(2)).name} moves level`])
    // By Pythagoras: 0.3 down, so far in plan.
    expect(set(3).operations).toMatchObject([
      { fields: { translation: [expect.closeTo(3 + Math.sqrt(9 - 0.09) - 2, 9), 0, 0] } },
    ])
    expect(heightOf(set(3, 'line'))).toBeCloseTo(-0.3 * (3 / Math.hypot(2, 0.3) - 1), 6)
    expect(set(0.2).says).toContain('along the line')
  })

  it('become true for any things and lengths: property', () => {
    fc.assert(
      fc.property(anyVec3, anyVec3, fc.double({ min: 0.1, max: 20, noNaN: true }), (from, to, wanted) => {
        fc.pre(vec3.distance(from, to) > 0.01)
        const { level, index } = levelOfBoxes([
          { size: [1, 1, 1], translation: from, scale: [1, 2, -1] },
          { scale: [2, 1, 1], rotation: [0, 0.6, 0, 0.8] },
          { size: [1, 1, 1], parentId: testId(2), translation: to },
        ])
        const tape = measure({
          ends: [
            endAt(level, testId(1), new Vector3(...from)),
            endAt(level, testId(3), new Vector3(...to).applyMatrix4(level.worldMatrix(testId(2)))),
          ],
        })
        applyChange(
          level,
          setTape(tape, { level, matrixOf: id => level.worldMatrix(id) }, { number: 0, metres: wanted, along: null })
            .operations,
        )
        expect(measureNow(tape, whereIn(level, index)).facts[0]!.value).toBeCloseTo(wanted, 9)
      }),
    )
  })

  it('set a clearance to any number, apart, touching, out of an overlap and whatever the shapes: property', () => {
    const turn = (x: number, y: number, z: number, w: number) =>
      new Quaternion(x, y, z, w).normalize().toArray() as [number, number, number, number]
    fc.assert(
      fc.property(
        fc.tuple(
          fc.double({ min: -3, max: 3, noNaN: true }),
          fc.double({ min: -0.5, max: 0.5, noNaN: true }),
          fc.double({ min: -3, max: 3, noNaN: true }),
        ),
        fc.double({ min: 0, max: 6, noNaN: true }),
        fc.boolean(),
        fc.double({ min: 0.2, max: 2, noNaN: true }),
        (translation, metres, first, w) => {
          const { level, index } = levelOfBoxes([
            { size: [1, 1, 2] },
            { size: [1.4, 1, 0.5], rotation: turn(0.2, 0.9, 0.1, w), translation },
          ])
          const where = whereIn(level, index)
          const clearance = measure({ kind: 'clearance', sides: [[testId(1)], [testId(2)]] })
          const { operations } = setClearance(clearance, where, { number: 0, metres, along: 'line', first })
          expect(operations.map(({ id }) => id)).toEqual([testId(first ? 1 : 2)])
          applyChange(level, operations)
          index.update([testId(1), testId(2)])
          expect(measureNow(clearance, where).numbers[0]!.value).toBeCloseTo(metres, 4)
        },
      ),
      { numRuns: 60 },
    )
  })

  it('set clearances between boxes to where arithmetic says, level, and say what cannot be', () => {
    const { level, index } = crates()
    const where = whereIn(level, index)
    const clearance = measure({ kind: 'clearance', sides: [[testId(1)], [testId(2)]] })
    const set = (metres: number, along: Wanted['along'] = null, first = false) =>
      setClearance(clearance, where, { number: 0, metres, along, first }).operations
    expect(set(0.4)).toMatchObject([{ id: testId(2), fields: { translation: [1.4, 0, 0] } }])
    expect(set(0.4, null, true)).toMatchObject([{ id: testId(1), fields: { translation: [1.6, 0, 0] } }])
    expect(set(0)).toMatchObject([{ id: testId(2), fields: { translation: [1, 0, 0] } }])
    expect(() => set(-1)).toThrow(SetLengthError)
    applyChange(level, [{ do: 'put', id: testId(2), fields: { locked: true } }])
    expect(() => set(1)).toThrow('is locked')
  })

  it('set a height by lifting what the point is on', () => {
    const { level, index } = crates()
    const height = measure({ kind: 'height', ends: [endAt(level, testId(2), new Vector3(3, 1, 0))] })
    applyChange(level, setHeight(height, whereIn(level, index), { number: 0, metres: 2.5, along: null }).operations)
    index.update([testId(2)])
    expect(measureNow(height, whereIn(level, index)).numbers[0]!.value).toBeCloseTo(2.5, 6)
    expect(level.need(testId(2)).translation[0]).toBe(3)
  })

  it('clearances and overlaps of things, heights above what is below', () => {
    const { level, index } = crates()
    const where = whereIn(level, index)
    expect(now({ kind: 'clearance', sides: [[testId(1)], [testId(2)]] }, where).facts[0]).toMatchObject({
      label: 'Clearance',
      value: 2,
    })
    applyChange(level, [{ do: 'put', id: testId(2), fields: { translation: [0.9, 0.3, 0] } }])
    index.update([testId(2)])
    expect(now({ kind: 'clearance', sides: [[testId(1)], [testId(2)]] }, where).facts[0]!.value).toBeCloseTo(0.1, 5)
    expect(now({ kind: 'height', ends: [endAt(level, testId(2), new Vector3(0.9, 0.3, 0.2))] }, where).remarks).toEqual(
      [],
    )
    expect(now({ kind: 'height', ends: space([4, 1.6, 4]) }, where).facts[0]!.value).toBeCloseTo(1.6, 6)
    expect(now({ kind: 'height', ends: space([40, 1.6, 4]) }, where).remarks).toEqual(['Nothing is below this point.'])
  })

  it('areas of flat faces, and of what goes over into each other without an edge', () => {
    const box = testSolid(new BoxGeometry(2, 1, 3))
    const area = (face: ReturnType<typeof flatFaceAt>) =>
      face.triangles.reduce((sum, [a, b, c]) => sum + b.clone().sub(a).cross(c.clone().sub(a)).length() / 2, 0)
    expect(area(flatFaceAt(box, new Vector3(0.3, 1, 0.2), false))).toBeCloseTo(6, 6)
    expect(flatFaceAt(box, new Vector3(0.3, 1, 0.2), true).outline).toHaveLength(4)
    const pipe = testSolid(new CylinderGeometry(0.5, 0.5, 2, 48))
    // 48 strips as wide as the chord 2·r·sin(pi/n).
    expect(area(flatFaceAt(pipe, new Vector3(0.5, 1, 0), false))).toBeCloseTo(2 * Math.sin(Math.PI / 48), 5)
    expect(area(flatFaceAt(pipe, new Vector3(0.5, 1, 0), true))).toBeCloseTo(48 * 2 * Math.sin(Math.PI / 48), 4)
  })

  it('the length of a path goes with the size of its arrangement', () => {
    const rule = {
      ...RULES.path.first,
      smooth: false,
      points: [
        [0, 0, 0],
        [3, 0, 0],
        [3, 0, 4],
      ] as Vec3[],
    }
    for (const [scale, length] of [
      [[1, 1, 1], 7],
      [[2, 2, 2], 14],
      [[2, 1, 1], 10],
    ] as const) {
      const level = bareView([
        testPlacement(1, { kind: 'arrangement', own: { rule }, scale: [...scale] }),
        testPlacement(2, { parentId: testId(1) }),
      ])
      const index = new LevelIndex(level, () => undefined)
      expect(now({ kind: 'length', sides: [[testId(1)]] }, whereIn(level, index)).facts[0]!.value).toBeCloseTo(
        length,
        3,
      )
    }
  })
})
