import fc from 'fast-check'
import { Euler, Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { geometricWay } from '../../core/arrange/growth'
import { keysOf } from '../../core/arrange/rules'
import { ruleMatrices, countOf, ruleSchema } from '../../core/arrange/rules'
import { MOST_COPIES } from '../../core/arrange/numbers'
import type { FanRule } from '../../core/arrange/rules/fan'
import type { Rule } from '../../core/arrange/rules'
import { RULES } from '../../core/arrange/rules'

const matricesOf = (rule: Rule) => {
  const out = ruleMatrices(rule)
  return Array.from({ length: out.length / 16 }, (_, i) => new Matrix4().fromArray(out, i * 16))
}
const keyOf = (rule: Rule, index: number) => keysOf(rule).keyAt(index)
const placesOf = (rule: Rule) => matricesOf(rule).map(matrix => new Vector3().setFromMatrixPosition(matrix))
const [line, grid, ring, fan] = [RULES.line.first, RULES.grid.first, RULES.ring.first, RULES.fan.first]

describe('a line', () => {
  it('of 20 copies 24 in apart ends 456 in from the first (common practice; an inch is 25.4 mm, NIST SP 811)', () => {
    const places = placesOf({ ...line, count: 20, along: [24 * 0.0254, 0, 0] })
    expect(places).toHaveLength(20)
    expect(places[19]!.x).toBeCloseTo(456 * 0.0254, 12)
    expect(places[0]!.toArray()).toEqual([0, 0, 0])
  })

  it('of thirteen parts between a start and an end has both ends and twelve equal gaps (common practice)', () => {
    const places = placesOf({ ...line, count: 13, along: [0, 0, 7], measure: 'span' })
    expect([places[0]!.z, places[12]!.z]).toEqual([0, 7])
    places.slice(1).forEach((place, i) => expect(place.z - places[i]!.z).toBeCloseTo(7 / 12, 12))
  })

  it('fits as many as stand at no less than the spacing', () => {
    expect(countOf({ ...line, along: [3, 0, 0], measure: 'fit', least: 1 })).toBe(4)
    expect(countOf({ ...line, along: [3.9, 0, 0], measure: 'fit', least: 1 })).toBe(4)
    const gap = placesOf({ ...line, along: [3.9, 0, 0], measure: 'fit', least: 1 })
    expect(gap[1]!.x).toBeCloseTo(1.3, 12)
  })

  it('with a ratio has geometric gaps: their sum is g·(qⁿ - 1)/(q - 1)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 20 }),
        fc.double({ min: 0.5, max: 1.8, noNaN: true }),
        fc.double({ min: 0.1, max: 5, noNaN: true }),
        (count, ratio, gap) => {
          fc.pre(Math.abs(ratio - 1) > 1e-6)
          const places = placesOf({ ...line, count, ratio, along: [gap, 0, 0] })
          const sum = (gap * (ratio ** (count - 1) - 1)) / (ratio - 1)
          expect(places.at(-1)!.x / sum).toBeCloseTo(1, 9)
          const gaps = places.slice(1).map((place, i) => place.x - places[i]!.x)
          gaps.slice(1).forEach((next, i) => expect(next / gaps[i]!).toBeCloseTo(ratio, 6))
          // Within a span the last one is at its end, whatever the ratio.
          expect(placesOf({ ...line, count, ratio, along: [gap, 0, 0], measure: 'span' }).at(-1)!.x).toBeCloseTo(gap, 9)
          expect(geometricWay(1, count)).toBe(count)
        },
      ),
    )
  })

  it('in local axes makes a spiral stair of a straight one: 15 steps, about ten degrees each (common practice), on a helix', () => {
    const [tread, riser, turn, count] = [0.28, 0.17, 10, 15]
    const places = placesOf({ ...line, count, along: [0, riser, -tread], turn: [0, turn, 0], axes: 'local' })
    // Equal chords that turn by a constant angle lie on a circle: chord = 2·r·sin(turn/2).
    const radius = tread / (2 * Math.sin((turn * Math.PI) / 360))
    places.forEach((place, i) => {
      expect(place.y).toBeCloseTo(i * riser, 12)
      const [before, after] = [places[i - 1], places[i + 1]]
      if (before && after)
        expect(Math.hypot(after.x - before.x, after.z - before.z)).toBeCloseTo(
          2 * radius * Math.sin((turn * Math.PI) / 180),
          9,
        )
    })
    const straight = placesOf({ ...line, count, along: [0, riser, -tread], axes: 'local' })
    straight.forEach((place, i) => expect(place.distanceTo(new Vector3(0, i * riser, -i * tread))).toBeLessThan(1e-12))
  })

  it('of half the size each step tapers (common practice), and centred has its middle at the source', () => {
    const sizes = matricesOf({ ...line, count: 5, size: 0.5 }).map(matrix => matrix.getMaxScaleOnAxis())
    sizes.forEach((size, i) => expect(size).toBeCloseTo(0.5 ** i, 12))
    const places = placesOf({ ...line, count: 4, centred: true })
    expect(places.reduce((sum, place) => sum + place.x, 0)).toBeCloseTo(0, 12)
  })
})

describe('a line whose copies are turned and sized', () => {
  it('has each as Euler angles about Y, X and Z and a power of the size say, however many there are', () => {
    const angle = fc.double({ min: -200, max: 200, noNaN: true })
    fc.assert(
      fc.property(fc.tuple(angle, angle, angle), fc.double({ min: 0.9, max: 1.1, noNaN: true }), (turn, size) => {
        matricesOf({ ...line, count: 70, along: [1, 2, 3], turn, size }).forEach((matrix, i) => {
          const [x, y, z] = turn.map(value => (value * i * Math.PI) / 180)
          const expected = new Matrix4()
            .makeRotationFromEuler(new Euler(x, y, z, 'YXZ'))
            .scale(new Vector3().setScalar(size ** i))
            .setPosition(i, 2 * i, 3 * i)
          matrix.elements.forEach((value, k) =>
            expect(Math.abs(value - expected.elements[k]!)).toBeLessThan(1e-9 * Math.max(1, size ** i)),
          )
        })
      }),
      { numRuns: 50 },
    )
  })
})

describe('a ring', () => {
  it('of twelve stands 30 degrees apart, with the chord 2·r·sin(π/n)', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 3, max: 60 }),
        fc.double({ min: 0.1, max: 30, noNaN: true }),
        fc.constantFrom(0 as const, 1 as const, 2 as const),
        (count, radius, axis) => {
          const places = placesOf({ ...ring, count, radius, axis })
          places.forEach((place, i) => {
            expect(place.length()).toBeCloseTo(radius, 9)
            expect(place.distanceTo(places[(i + 1) % count]!)).toBeCloseTo(2 * radius * Math.sin(Math.PI / count), 9)
          })
        },
      ),
    )
    const [first, second] = placesOf({ ...ring, count: 12 })
    expect((first!.angleTo(second!) * 180) / Math.PI).toBeCloseTo(30, 9)
  })

  it('full has no copy on top of the first; a part of one has both its ends', () => {
    const full = placesOf({ ...ring, count: 4 })
    expect(full[3]!.distanceTo(full[0]!)).toBeGreaterThan(1)
    const half = placesOf({ ...ring, count: 4, arc: 180 })
    expect(half[0]!.angleTo(half[3]!)).toBeCloseTo(Math.PI, 9)
  })

  it('that rises is a helix: step i at (r·cos ia, ih, r·sin ia), sqrt((2πr)² + H²) long a turn', () => {
    const [count, radius, rise] = [3600, 2, 0.001]
    const places = placesOf({ ...ring, count, radius, rise })
    let length = 0
    for (let i = 1; i < count; i++) length += places[i]!.distanceTo(places[i - 1]!)
    expect((length * count) / (count - 1)).toBeCloseTo(Math.hypot(2 * Math.PI * radius, rise * count), 4)
    places.forEach((place, i) => expect(place.y).toBeCloseTo(i * rise, 9))
  })

  it('turns its copies in or out, or keeps them as they are', () => {
    for (const facing of ['in', 'out', 'kept'] as const) {
      for (const matrix of matricesOf({ ...ring, facing })) {
        const front = new Vector3(0, 0, 1).applyQuaternion(new Quaternion().setFromRotationMatrix(matrix))
        const out = new Vector3().setFromMatrixPosition(matrix).normalize()
        expect(front.dot(facing === 'kept' ? new Vector3(0, 0, 1) : out)).toBeCloseTo(facing === 'in' ? -1 : 1, 9)
      }
    }
  })
})

describe('a grid', () => {
  it('has its copies at their rows, columns and layers', () => {
    const places = placesOf({ ...grid, counts: [3, 2, 4], spacing: [1, 2, 3] })
    expect(places).toHaveLength(24)
    places.forEach((place, i) => {
      const [row, column, layer] = keyOf({ ...grid, counts: [3, 2, 4] }, i)
        .split(',')
        .map(Number)
      expect(place.toArray()).toEqual([column! * 1, layer! * 2, row! * 3])
    })
  })

  it('staggered by half at a row pitch of spacing·√3/2 is hexagonal: six neighbours at the spacing (Lagrange)', () => {
    const places = placesOf({ ...grid, counts: [5, 1, 5], spacing: [1, 1, Math.sqrt(3) / 2], stagger: 0.5 })
    const middle = places[12]!
    expect(places.filter(place => Math.abs(place.distanceTo(middle) - 1) < 1e-9)).toHaveLength(6)
  })

  it('in running bond shifts every other layer by half a piece', () => {
    const rule: Rule = { ...grid, counts: [3, 3, 1], spacing: [1, 0.5, 1], stagger: 0.5, bond: true }
    expect(
      placesOf(rule)
        .filter((_, i) => i % 3 === 0)
        .map(place => place.x),
    ).toEqual([0, 0.5, 0])
  })

  it('rises by rows, or by every so many of them', () => {
    expect(
      placesOf({ ...grid, counts: [1, 1, 5], rise: { by: 'rows', height: 0.3, every: 2 } }).map(
        place => Math.round(place.y * 10) / 10,
      ),
    ).toEqual([0, 0, 0.3, 0.3, 0.6])
  })
})

describe('a fan', () => {
  it('has its rows on concentric arcs, at equal angles, rising', () => {
    const rule: FanRule = { ...fan, rows: 4, first: 9 }
    placesOf(rule).forEach((place, i) => {
      const [row, column] = keyOf(rule, i).split(',').map(Number)
      expect(Math.hypot(place.x, place.z)).toBeCloseTo(rule.radius + row! * rule.depth, 9)
      expect(place.y).toBeCloseTo(row! * 0.3, 9)
      expect((Math.atan2(place.x, place.z) * 180) / Math.PI).toBeCloseTo(-60 + column! * 15, 9)
    })
  })

  it("fills wider rows at the first one's spacing along the arc", () => {
    const rule: FanRule = { ...fan, counts: 'spacing', first: 9, radius: 5, depth: 1.25, rows: 5 }
    // Eight gaps at 5 m are ten at 6.25 m and sixteen at 10 m.
    expect(
      [0, 1, 2, 3, 4].map(
        row =>
          Array.from({ length: keysOf(rule).count }, (_, i) => keysOf(rule).at(i)[0]).filter(of => of === row).length,
      ),
    ).toEqual([9, 11, 13, 15, 17])
    expect(countOf(rule)).toBe(9 + 11 + 13 + 15 + 17)
  })

  it('stepped gives the sight line C = D·(N + R)/(D + T) - R (Guide to Safety at Sports Grounds, from memory)', () => {
    // The eye 1.2 m over its row, the focus on the floor in the middle; row 3 looks over row 2.
    const rule: FanRule = {
      ...fan,
      rows: 4,
      radius: 7,
      depth: 0.8,
      rise: { by: 'rows', height: 0.32, every: 1 },
      facing: 'in',
    }
    const places = placesOf(rule)
    const eye = (row: number) => places[row * rule.first + 4]!.clone().add(new Vector3(0, 1.2, 0))
    const [front, back] = [eye(2), eye(3)]
    // How far above the front eye the line of sight from the back eye to the focus passes.
    const above = (back.y * front.z) / back.z - front.y
    const [d, r, n, t] = [front.z, front.y, 0.32, rule.depth]
    expect(above).toBeCloseTo((d * (n + r)) / (d + t) - r, 12)
    expect(above).toBeGreaterThan(0.09)
  })
})

describe('every rule', () => {
  const rules = Object.values(RULES)
    .map(({ first }) => first)
    .filter(rule => rule.type !== 'mirror')

  it.each(rules)(
    '$rule writes as many copies as it says, each with a key of its own that stays when counts grow',
    rule => {
      expect(ruleSchema.parse(rule)).toEqual(rule)
      const count = countOf(rule)
      expect(ruleMatrices(rule)).toHaveLength(count * 16)
      const keys = Array.from({ length: count }, (_, i) => keyOf(rule, i))
      expect(new Set(keys).size).toBe(count)
      const grown =
        rule.type === 'grid'
          ? { ...rule, counts: [6, 2, 5] as [number, number, number] }
          : rule.type === 'fan'
            ? { ...rule, rows: 7 }
            : { ...rule, count: rule.count + 3 }
      const more = new Map(matricesOf(grown).map((matrix, i) => [keyOf(grown, i), matrix.elements.slice(12, 15)]))
      for (const key of keys) expect(more.has(key)).toBe(true)
      // Lines, grids and fans leave what was there where it was; rings and paths spread it anew.
      if (rule.type !== 'ring' && rule.type !== 'path')
        matricesOf(rule).forEach((matrix, i) => expect(more.get(keys[i]!)!).toEqual(matrix.elements.slice(12, 15)))
    },
  )

  it('makes at most a million copies, and says how many it would', () => {
    const parsed = ruleSchema.safeParse({ ...grid, counts: [1000, 1000, 2] })
    expect(parsed.error?.issues[0]).toMatchObject({
      path: ['counts'],
      message: 'would make 2,000,000 copies; a million is the most',
    })
    expect(ruleSchema.safeParse({ ...grid, counts: [1000, 1000, 1] }).success).toBe(true)
    expect(ruleSchema.safeParse({ ...line, count: MOST_COPIES + 1 }).success).toBe(false)
    expect(ruleSchema.safeParse({ ...line, along: [1, 0, Number.NaN] }).success).toBe(false)
  })
})

describe('as many as fit, and how far apart', () => {
  const gaps = (points: Vector3[], isRound = false) =>
    (isRound ? points : points.slice(0, -1)).map((point, i) => point.distanceTo(points[(i + 1) % points.length]!))
  const anyRatio = fc.double({ min: 0.8, max: 1.25, noNaN: true })
  const anyLeast = fc.double({ min: 0.2, max: 2, noNaN: true })

  it('on a line no gap is below the least, and one more copy would not fit, whatever grows', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 3, max: 30, noNaN: true }),
        anyLeast,
        anyRatio,
        anyRatio,
        fc.constantFrom('world' as const, 'local' as const),
        (span, least, ratio, size, axes) => {
          const rule: Rule = { ...RULES.line.first, measure: 'fit', along: [span, 0, 0], least, ratio, size, axes }
          const found = placesOf(rule)
          expect(found.at(-1)!.x).toBeCloseTo(span, 9)
          expect(Math.min(...gaps(found))).toBeGreaterThan(least * (1 - 1e-6))
          const more = gaps(placesOf({ ...rule, measure: 'span', count: found.length + 1 }))
          expect(Math.min(...more)).toBeLessThan(least * (1 + 1e-6))
        },
      ),
    )
  })

  it('a span ends where it says, also along the axes of copies that grow', () => {
    fc.assert(
      fc.property(anyRatio, anyRatio, fc.integer({ min: 2, max: 30 }), (ratio, size, count) => {
        const found = placesOf({
          ...RULES.line.first,
          measure: 'span',
          along: [4, 3, -2],
          count,
          ratio,
          size,
          axes: 'local',
        })
        expect(found.at(-1)!.distanceTo(new Vector3(4, 3, -2))).toBeLessThan(1e-9)
      }),
    )
  })

  it('round a ring copies stand the spacing apart, or at least that far and no fewer than fit', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 60 }),
        fc.constantFrom(360, 90, 217, -120),
        anyLeast,
        fc.double({ min: 1.1, max: 9, noNaN: true }),
        (count, arc, spacing, radius) => {
          const isRound = arc === 360
          for (const gap of gaps(placesOf({ ...RULES.ring.first, measure: 'spacing', count, arc, spacing }), isRound))
            expect(gap).toBeCloseTo(spacing, 9)
          const rule: Rule = { ...RULES.ring.first, measure: 'fit', arc, spacing, radius }
          const found = placesOf(rule)
          if (found.length > 1) expect(Math.min(...gaps(found, isRound))).toBeGreaterThan(spacing * (1 - 1e-6))
          const more = placesOf({ ...rule, measure: 'radius', count: found.length + 1 })
          expect(Math.min(...gaps(more, isRound))).toBeLessThan(spacing * (1 + 1e-6))
        },
      ),
    )
  })

  it('in a fan each row holds what fits along its arc, and the first radius follows from the spacing', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 30 }),
        fc.double({ min: 20, max: 340, noNaN: true }),
        anyLeast,
        (first, arc, spacing) => {
          const plain = { ...RULES.fan.first, rows: 3, arc, rise: { by: 'rows', height: 0, every: 1 } } as const
          const spaced = placesOf({ ...plain, measure: 'spacing', first, spacing })
          expect((spaced[0]!.length() * arc * Math.PI) / 180 / (first - 1)).toBeCloseTo(spacing, 9)
          const rows = new Map<string, number>()
          for (const point of placesOf({ ...plain, counts: 'fit', spacing }))
            rows.set(point.length().toFixed(6), (rows.get(point.length().toFixed(6)) ?? 0) + 1)
          expect(rows.size).toBe(3)
          for (const [far, count] of rows) {
            const way = (Number(far) * arc * Math.PI) / 180
            expect(way).toBeGreaterThan((count - 1) * spacing * (1 - 1e-5))
            expect(way).toBeLessThan(count * spacing * (1 + 1e-5))
          }
        },
      ),
    )
  })

  it('on a path they are spread evenly from end to end', () => {
    const path: Rule = {
      ...RULES.path.first,
      smooth: false,
      points: [
        [0, 0, 0],
        [7, 0, 0],
      ],
      measure: 'fit',
      spacing: 2,
    }
    expect(placesOf(path).map(({ x }) => x)).toEqual([0, 7 / 3, 14 / 3, 7])
    const square: Rule = {
      ...path,
      points: [
        [0, 0, 0],
        [3, 0, 0],
        [3, 0, 3],
        [0, 0, 3],
      ],
      closed: true,
      spacing: 2.5,
    }
    // 12 m hold four gaps of 3 m: one at each corner.
    expect(placesOf(square).map(point => point.toArray().map(value => Math.round(value * 1e9) / 1e9))).toEqual([
      [0, 0, 0],
      [3, 0, 0],
      [3, 0, 3],
      [0, 0, 3],
    ])
  })

  it('a fan that goes all the way round has no copy on top of the first', () => {
    const round = placesOf({ ...RULES.fan.first, rows: 2, first: 8, arc: 360 })
    expect(Math.min(...gaps(round.slice(0, 8), true))).toBeCloseTo(2 * 5 * Math.sin(Math.PI / 8), 9)
  })
})
