import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Placement } from '../level/schema'
import { degreesToQuat } from '../math/transform'
import type { Vec3 } from '../math/vectors'
import { levelOfBoxes } from '../../tests/support'
import { dropBall } from './drop-ball'
import type { WalkInput } from './walker'
import { FIRST_WALK, Walker } from './walker'

type Box = Partial<Placement> & { size?: Vec3 }
const floor: Box = { size: [60, 0.2, 60], translation: [0, -0.2, 0], name: 'Floor' }
const box = (size: Vec3, translation: Vec3, turn: Vec3 = [0, 0, 0]): Box => ({
  size,
  translation,
  rotation: degreesToQuat(turn),
})
const still: WalkInput = { forward: 0, right: 0, yaw: 0, run: false, jump: false, crouch: false }
const FRAME = 1 / 60

function walkerOn(boxes: Box[], foot: Vec3 = [0, 0, 0], settings = {}) {
  const { index, level } = levelOfBoxes(boxes)
  const walker = new Walker(index, { ...FIRST_WALK, ...settings }, new Vector3(...foot))
  return {
    walker,
    level,
    go: (seconds: number, input: Partial<WalkInput>) => {
      for (let t = 0; t < seconds - FRAME / 2; t += FRAME) walker.move(FRAME, { ...still, ...input })
      return walker.feet
    },
  }
}

/** A long slope along -Z that begins at z = 0. */
const slope = (degrees: number): Box => {
  const radians = (degrees * Math.PI) / 180
  const length = 8
  // A slab of no width to speak of, whose upper face goes through the origin.
  const middle = new Vector3(0, (Math.sin(radians) * length) / 2, (-Math.cos(radians) * length) / 2)
  const up = new Vector3(0, Math.cos(radians), Math.sin(radians))
  return box([4, 0.2, length], middle.addScaledVector(up, -0.2).toArray(), [degrees, 0, 0])
}
const stairs = (rise: number, tread: number, count = 6): Box[] =>
  Array.from({ length: count }, (_, i) => box([3, rise * (i + 1), tread], [0, 0, -1 - tread * (i + 0.5)]))

describe('a ball that comes straight down', () => {
  it('touches faces, edges and corners where an independent search finds it', () => {
    const place = fc.double({ min: -2, max: 2, noNaN: true })
    fc.assert(
      fc.property(
        fc.tuple(place, place, place, place, place, place, place, place, place),
        place,
        place,
        fc.double({ min: 0.1, max: 1, noNaN: true }),
        (t, x, z, radius) => {
          const [a, b, c] = [0, 3, 6].map(i => new Vector3(t[i], t[i + 1], t[i + 2])) as [Vector3, Vector3, Vector3]
          fc.pre(b.clone().sub(a).cross(c.clone().sub(a)).length() > 0.05)
          const touch = dropBall(x, z, radius, Float64Array.from(t), 0)
          // The highest middle whose distance to some point of the triangle is the radius: over a fine grid of its
          // points.
          let best = -Infinity
          const n = 160
          for (let i = 0; i <= n; i++) {
            for (let k = 0; k <= n - i; k++) {
              const [u, v] = [i / n, k / n]
              const [px, py, pz] = [
                a.x + (b.x - a.x) * u + (c.x - a.x) * v,
                a.y + (b.y - a.y) * u + (c.y - a.y) * v,
                a.z + (b.z - a.z) * u + (c.z - a.z) * v,
              ]
              const rest = radius * radius - (x - px) ** 2 - (z - pz) ** 2
              if (rest >= 0) best = Math.max(best, py + Math.sqrt(rest))
            }
          }
          if (touch === null) expect(best).toBe(-Infinity)
          else if (best > -Infinity) {
            expect(touch.height).toBeGreaterThanOrEqual(best - 1e-9)
            expect(Math.hypot(x - touch.x, touch.height - touch.y, z - touch.z)).toBeCloseTo(radius, 6)
          }
        },
      ),
      { numRuns: 150 },
    )
  })
})

describe('walking', () => {
  it('stairs of 178 mm are climbed, steps of 400 mm are not (the highest riser: International Building Code 2021, 1011.5.2, from memory)', () => {
    const up = walkerOn([floor, ...stairs(0.178, 0.279)])
    expect(up.go(1.62, { forward: 1 }).y).toBeCloseTo(6 * 0.178, 3)
    const no = walkerOn([floor, ...stairs(0.4, 0.3)])
    expect(no.go(4, { forward: 1 }).y).toBeLessThan(0.01)
    expect([...no.walker.stops.keys()]).toEqual(['00000000-0000-7000-8000-000000000002'])
    // And down again, staying on the treads.
    up.go(0.2, {})
    expect(up.go(5, { forward: -1 }).y).toBeCloseTo(0, 3)
    expect(up.walker.grounded).toBe(true)
  })

  it('a step that is too high stays so, however long the frames are, walking or running', () => {
    // Three stairs, a gap, and a step of 0.4 m.
    const ledge = [
      floor,
      ...[0, 1, 2].map(i => box([3, 0.178, 0.5], [0, 0.178 * i, -1.25 - 0.5 * i])),
      box([3, 0.4, 0.5], [0, 0.534, -3]),
    ]
    const frames = fc.array(fc.double({ min: 0.001, max: 0.5, noNaN: true }), { minLength: 30, maxLength: 60 })
    fc.assert(
      fc.property(frames, fc.boolean(), fc.constantFrom(20, 45, 80), (seconds, run, slope) => {
        const { walker } = walkerOn(ledge, [0, 0, 1], { slope })
        for (const part of seconds) walker.move(part, { ...still, forward: 1, run })
        expect(walker.feet.z).toBeGreaterThan(-2.5)
        expect(walker.feet.y).toBeLessThan(0.54)
      }),
      { numRuns: 60 },
    )
    // A low step is no reason not to get to the top of a ramp.
    const top = walkerOn(
      [
        floor,
        slope(40),
        box([4, 0.2, 4], [0, Math.sin((40 * Math.PI) / 180) * 8 - 0.2, -Math.cos((40 * Math.PI) / 180) * 8 - 2]),
      ],
      [0, 0, 1],
      { step: 0.06 },
    )
    expect(top.go(6.3, { forward: 1 }).y).toBeCloseTo(Math.sin((40 * Math.PI) / 180) * 8, 2)
  })

  it('a slope of 44° is walked up, one of 46° is not, and one who is put on that slides down', () => {
    const climbed = walkerOn([floor, slope(44)], [0, 0, 1]).go(3, { forward: 1 })
    expect(climbed.y).toBeGreaterThan(2)
    const refused = walkerOn([floor, slope(46)], [0, 0, 1]).go(3, { forward: 1 })
    expect(refused.y).toBeLessThan(0.05)
    expect(refused.z).toBeGreaterThan(-0.2)
    const slid = walkerOn([floor, slope(60)], [0, 4, -2]).go(3, {})
    expect(slid.y).toBeLessThan(0.05)
  })

  it('a gap of 0.55 m is too narrow for a body of 0.6 m; one of 0.65 m is not', () => {
    const walls = (gap: number) => [-1, 1].map(side => box([2, 3, 4], [side * (gap / 2 + 1), 0, -4]))
    expect(walkerOn([floor, ...walls(0.55)]).go(6, { forward: 1 }).z).toBeGreaterThan(-2.1)
    expect(walkerOn([floor, ...walls(0.65)]).go(6, { forward: 1 }).z).toBeLessThan(-7)
    // One over which one could fall carries.
    expect(
      walkerOn([box([10, 1, 4], [0, -1, 2]), box([10, 1, 4], [0, -1, -2.55]), box([1, 1, 1], [0, -9, 0])]).go(3, {
        forward: 1,
      }).y,
    ).toBeGreaterThan(-0.31)
  })

  it('a free fall of 1.0 s is 4.905 m (g = 9.81 m/s²)', () => {
    const { go } = walkerOn([box([10, 1, 10], [0, -40, 0])], [0, 0, 0])
    expect(go(1, {}).y).toBeCloseTo(-4.905, 6)
  })

  it('a jump goes as high as it is set to, low ceilings stop heads, and crouching goes under them', () => {
    const { walker, go } = walkerOn([floor])
    go(0.1, {})
    let top = 0
    for (let i = 0; i < 60; i++) {
      walker.move(FRAME, { ...still, jump: i === 0 })
      top = Math.max(top, walker.feet.y)
    }
    expect(top).toBeGreaterThan(0.49)
    expect(top).toBeLessThanOrEqual(0.5)
    expect(walker.grounded).toBe(true)
    const beam = [floor, box([4, 1, 1], [0, 1.5, -3])]
    expect(walkerOn(beam).go(4, { forward: 1 }).z).toBeGreaterThan(-2.3)
    expect(walkerOn(beam).go(8, { forward: 1, crouch: true }).z).toBeLessThan(-4)
  })

  it('slides along walls, and says what stopped one', () => {
    const { walker, go } = walkerOn([floor, box([20, 3, 1], [0, 0, -2])])
    const end = go(4, { forward: 1, right: 1 })
    expect(end.z).toBeCloseTo(-1.2, 2)
    expect(end.x).toBeGreaterThan(3)
    expect([...walker.stops.values()]).toMatchObject([{ thing: '00000000-0000-7000-8000-000000000002', count: 1 }])
    expect(walker.way.length).toBeGreaterThan(10)
  })

  it('counts what is walked, not what is fallen, and lets the way begin where a first fall ends', () => {
    const { walker, go } = walkerOn([floor], [0, 6, 0])
    go(3, {})
    expect([walker.grounded, walker.walked, walker.way.length]).toEqual([true, 0, 1])
    expect(walker.way[0]![1]).toBeCloseTo(0, 3)
    const from = walker.feet
    go(2, { forward: 1 })
    expect(walker.walked).toBeCloseTo(walker.feet.distanceTo(from), 2)
    // Over an edge: the metre down is no metre walked.
    const edge = walkerOn([box([4, 1, 4], [0, 0, 0]), box([20, 1, 20], [0, -1, 0])], [0, 1, 0])
    const end = edge.go(4, { forward: 1 })
    expect(end.y).toBeCloseTo(0, 2)
    expect(Math.abs(edge.walker.walked - Math.hypot(end.x, end.z))).toBeLessThan(0.2)
  })

  it('stops at a floor below the lowest thing where there is no ground', () => {
    const { walker, go } = walkerOn([box([1, 1, 1], [5, -3, 0])])
    expect(go(4, {}).y).toBe(-3)
    expect(walker.isOnFloor).toBe(true)
    expect(walkerOn([]).go(1, { forward: 1 }).y).toBe(0)
  })

  it('one who begins in a wall is put beside it', () => {
    const { walker } = walkerOn([floor, box([3, 3, 1], [0, 0, 0])])
    expect(walker.isInside()).toBe(true)
    expect(walker.findRoom()).toEqual({ moved: true, ok: true })
    expect(walker.isInside()).toBe(false)
    expect(walkerOn([floor]).walker.findRoom()).toEqual({ moved: false, ok: true })
  })

  it('never gets through a wall or out of the world, however it runs, turns and jumps', () => {
    const wall = fc.record({
      at: fc.tuple(fc.double({ min: -4, max: 4, noNaN: true }), fc.double({ min: -4, max: 4, noNaN: true })),
      turn: fc.double({ min: 0, max: 180, noNaN: true }),
      thick: fc.constantFrom(0.02, 0.1, 0.5),
      height: fc.double({ min: 0.1, max: 3, noNaN: true }),
    })
    const stride = fc.record({
      yaw: fc.double({ min: 0, max: 6.3, noNaN: true }),
      forward: fc.constantFrom(1, -1),
      right: fc.constantFrom(0, 1),
      run: fc.boolean(),
      jump: fc.boolean(),
      crouch: fc.boolean(),
      seconds: fc.double({ min: 0.05, max: 0.6, noNaN: true }),
    })
    // A room that nobody can climb out of, and things in it; the frames are as long as 0.1 s.
    const room = [
      [0, 5.5, 12, 1],
      [0, -5.5, 12, 1],
      [5.5, 0, 1, 12],
      [-5.5, 0, 1, 12],
    ].map(([x, z, w, d]) => box([w!, 9, d!], [x!, -1, z!]))
    fc.assert(
      fc.property(
        fc.array(wall, { maxLength: 6 }),
        fc.array(stride, { minLength: 1, maxLength: 12 }),
        (walls, strides) => {
          const things = walls.map(({ at: [x, z], turn, thick, height }) =>
            box([2.5, height, thick], [x, 0, z], [0, turn, 0]),
          )
          const { walker } = walkerOn([{ ...floor, size: [14, 0.2, 14] }, ...room, ...things])
          walker.findRoom()
          for (const { seconds, ...input } of strides) {
            for (let t = 0; t < seconds; t += 0.1) {
              const before = walker.feet
              walker.move(0.1, input)
              const { x, y, z } = walker.feet
              expect(Math.max(Math.abs(x), Math.abs(z))).toBeLessThanOrEqual(4.701)
              expect(y).toBeGreaterThan(-0.01)
              // No thin wall lies between two places that are close in time.
              const way = walker.feet.sub(before)
              expect(way.length()).toBeLessThan(0.1 * 5 + 0.45)
            }
          }
        },
      ),
      { numRuns: 60 },
    )
  })
})
