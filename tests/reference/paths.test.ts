import fc from 'fast-check'
import { BoxGeometry, CatmullRomCurve3, Line3, Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { bendMesh } from '../../core/arrange/path/bend-mesh'
import { PathCurve } from '../../core/arrange/path/curve'
import type { PathRule } from '../../core/arrange/path/rule'
import { RULES, countOf, keysOf, ruleMatrices } from '../../core/arrange/rules'
import { layoutOfPath } from '../../core/arrange/path/layout'
import type { Mesh } from '../../core/mesh/mesh'
import type { Vec3 } from '../../core/math/vectors'
import { meshVolume, testSolid } from '../support'

const [path] = [RULES.path.first]
const circle = (radius: number, count: number): Vec3[] =>
  Array.from({ length: count }, (_, i) => [
    radius * Math.cos((i / count) * 2 * Math.PI),
    0,
    radius * Math.sin((i / count) * 2 * Math.PI),
  ])
const ring = (radius: number, count = 32): PathRule => ({
  ...path,
  points: circle(radius, count),
  smooth: true,
  closed: true,
})
const matricesOf = (rule: PathRule) => {
  const out = ruleMatrices(rule)
  return Array.from({ length: out.length / 16 }, (_, i) => new Matrix4().fromArray(out, i * 16))
}
const ends = (rule: PathRule) =>
  matricesOf(rule).map(
    matrix =>
      [rule.begins, rule.begins + rule.spacing].map(x => new Vector3(x, 0, 0).applyMatrix4(matrix)) as [
        Vector3,
        Vector3,
      ],
  )

describe('the length of a path', () => {
  it('through points of a circle is nearly 2πr, of a quarter πr/2', () => {
    expect(new PathCurve(ring(3, 64)).length / (2 * Math.PI * 3)).toBeCloseTo(1, 5)
    const quarter = new PathCurve({ points: circle(3, 64).slice(0, 17), smooth: true, closed: false })
    expect(quarter.length / ((Math.PI * 3) / 2)).toBeCloseTo(1, 3)
  })

  it("through points of an ellipse is Ramanujan's second perimeter (1914), whose own error is below 1e-4", () => {
    const [a, b] = [5, 3]
    const points = Array.from(
      { length: 96 },
      (_, i): Vec3 => [a * Math.cos((i / 48) * Math.PI), 0, b * Math.sin((i / 48) * Math.PI)],
    )
    const h = ((a - b) / (a + b)) ** 2
    const perimeter = Math.PI * (a + b) * (1 + (3 * h) / (10 + Math.sqrt(4 - 3 * h)))
    expect(new PathCurve({ points, smooth: true, closed: true }).length / perimeter).toBeCloseTo(1, 4)
  })

  it('of straight stretches is their sum, and the way along it is even', () => {
    const curve = new PathCurve({
      points: [
        [0, 0, 0],
        [3, 0, 0],
        [3, 0, 4],
        [3, 2, 4],
      ],
      smooth: false,
      closed: false,
    })
    expect(curve.length).toBeCloseTo(9, 12)
    expect(curve.at(5).toArray()).toEqual([3, 0, 2])
    expect(
      new PathCurve({
        points: [
          [0, 0, 0],
          [3, 0, 0],
          [3, 0, 4],
        ],
        smooth: false,
        closed: true,
      }).length,
    ).toBeCloseTo(12, 12)
  })
})

describe('a smooth path', () => {
  it('passes through its points (centripetal Catmull-Rom: Barry and Goldman 1988)', () => {
    const coordinate = fc.integer({ min: -20, max: 20 })
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.tuple(coordinate, coordinate, coordinate), {
          minLength: 3,
          maxLength: 12,
          selector: point => point.join(),
        }),
        fc.boolean(),
        (points, closed) => {
          const curve = new PathCurve({ points, smooth: true, closed })
          curve
            .wayOfPoints()
            .forEach((way, i) => expect(curve.at(way).distanceTo(new Vector3(...points[i]!))).toBeLessThan(1e-6))
        },
      ),
    )
  })
})

describe('the way along a smooth path', () => {
  const coordinate = fc.integer({ min: -20, max: 20 })
  const anyPoints = fc.uniqueArray(fc.tuple(coordinate, coordinate, coordinate), {
    minLength: 3,
    maxLength: 8,
    selector: point => point.join(),
  })

  /** The speed of three's curve in one stretch: the slope of the cubic through four of its points. */
  function speedIn(
    packaged: CatmullRomCurve3,
    stretch: number,
    stretches: number,
    isFlat: boolean,
  ): (u: number) => number {
    const nodes = [0, 1 / 3, 2 / 3, 1]
    const points = nodes.map(node => packaged.getPoint((stretch + node) / stretches))
    return u => {
      const slope = new Vector3()
      nodes.forEach((node, i) => {
        // The derivative of Lagrange's polynomial of this node.
        const others = nodes.filter((_, k) => k !== i)
        const below = others.reduce((product, other) => product * (node - other), 1)
        const above = others.reduce(
          (sum, _, k) => sum + others.reduce((product, other, m) => (m === k ? product : product * (u - other)), 1),
          0,
        )
        slope.addScaledVector(points[i]!, above / below)
      })
      return isFlat ? Math.hypot(slope.x, slope.z) : slope.length()
    }
  }

  it("leads to the points of the packaged curve, by Simpson's rule in thousands of parts", () => {
    fc.assert(
      fc.property(anyPoints, fc.boolean(), fc.boolean(), (points, closed, isFlat) => {
        const curve = new PathCurve({ points, smooth: true, closed }, isFlat)
        const packaged = new CatmullRomCurve3(
          points.map(point => new Vector3(...point)),
          closed,
          'centripetal',
        )
        const stretches = closed ? points.length : points.length - 1
        const parts = 4096
        const speeds = Array.from({ length: stretches }, (_, stretch) => {
          const speed = speedIn(packaged, stretch, stretches, isFlat)
          return Array.from({ length: parts + 1 }, (__, i) => speed(i / parts))
        })
        // Where a path turns on the spot Simpson's rule is not exact enough to be the judge.
        fc.pre(speeds.every(each => Math.min(...each) > 0.02 * Math.max(...each)))
        let way = 0
        speeds.forEach((speed, stretch) => {
          for (let i = 0; i < parts; i += 2) {
            way += (speed[i]! + 4 * speed[i + 1]! + speed[i + 2]!) / (3 * parts)
            if (i % 256 === 254)
              expect(curve.at(way).distanceTo(packaged.getPoint((stretch + (i + 2) / parts) / stretches))).toBeLessThan(
                1e-8 * Math.max(curve.length, 1),
              )
          }
        })
        expect(Math.abs(curve.length / way - 1)).toBeLessThan(1e-9)
      }),
      { numRuns: 30 },
    )
  })

  it('goes the way its directions say, also where it turns on the spot', () => {
    fc.assert(
      fc.property(anyPoints, fc.boolean(), (points, closed) => {
        const curve = new PathCurve({ points, smooth: true, closed })
        for (let i = 1; i < 40; i++) {
          const way = (curve.length * i) / 40
          const [before, after] = [curve.at(way - 1e-5), curve.at(way + 1e-5)]
          expect(before.distanceTo(after)).toBeLessThan(2e-5 * (1 + 1e-6))
          if (before.distanceTo(after) > 1.9999e-5)
            expect(after.sub(before).normalize().angleTo(curve.directionAt(way))).toBeLessThan(1e-2)
        }
      }),
      { numRuns: 60 },
    )
  })
})

describe('copies along a path', () => {
  it('have both ends and equal ways between them; closed, none on top of the first', () => {
    const places = matricesOf({
      ...path,
      smooth: false,
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 8],
      ],
      count: 13,
    }).map(matrix => new Vector3().setFromMatrixPosition(matrix))
    expect(places[0]!.toArray()).toEqual([0, 0, 0])
    expect(places[12]!.toArray()).toEqual([4, 0, 8])
    places.slice(1).forEach((place, i) => expect(place.distanceTo(places[i]!)).toBeCloseTo(1, 9))
    const closed = matricesOf({ ...ring(3), count: 12 }).map(matrix => new Vector3().setFromMatrixPosition(matrix))
    closed.forEach((place, i) =>
      expect(place.distanceTo(closed[(i + 1) % 12]!)).toBeCloseTo(2 * 3 * Math.sin(Math.PI / 12), 3),
    )
  })

  it('look along it: upright about the vertical alone, with the slope leaning, as they are not turned', () => {
    const up: PathRule = {
      ...path,
      smooth: false,
      points: [
        [0, 0, 0],
        [3, 4, 0],
      ],
      count: 2,
    }
    const forwards = (rule: PathRule) =>
      new Vector3(1, 0, 0)
        .transformDirection(matricesOf(rule)[0]!)
        .toArray()
        .map(value => Math.round(value * 1e9) / 1e9)
    expect(forwards(up)).toEqual([1, 0, 0])
    expect(forwards({ ...up, stand: 'banked' })).toEqual([0.6, 0.8, 0])
    const side: PathRule = {
      ...up,
      points: [
        [0, 0, 0],
        [0, 0, 5],
      ],
    }
    expect(forwards(side)).toEqual([0, 0, 1])
    expect(forwards({ ...side, stand: 'kept' })).toEqual([1, 0, 0])
    // To the right of somebody who goes along +Z and stands upright is -X.
    expect(matricesOf({ ...side, offset: 2 })[0]!.elements.slice(12, 15)).toEqual([-2, 0, 0])
  })

  it('one at each point turns half-way at a corner', () => {
    const rule: PathRule = {
      ...path,
      smooth: false,
      measure: 'points',
      points: [
        [0, 0, 0],
        [5, 0, 0],
        [5, 0, 5],
      ],
    }
    const headings = matricesOf(rule)
      .map(matrix => new Vector3(1, 0, 0).transformDirection(matrix))
      .map(({ x, z }) => Math.round((Math.atan2(z, x) * 180) / Math.PI))
    expect(headings).toEqual([0, 45, 90])
  })
})

describe('pieces end to end', () => {
  it("on a circle are chords: n pieces of 2·r·sin(π/n) close it, each with both ends on it and on the next one's", () => {
    fc.assert(
      fc.property(fc.integer({ min: 4, max: 20 }), fc.double({ min: 1, max: 20, noNaN: true }), (count, radius) => {
        const chord = 2 * radius * Math.sin(Math.PI / count)
        const rule: PathRule = { ...ring(radius, 96), measure: 'ends', spacing: chord, begins: -chord / 2 }
        expect(countOf(rule)).toBe(count)
        const pieces = ends(rule)
        pieces.forEach(([from, to], i) => {
          expect(Math.hypot(from.x, from.z) / radius).toBeCloseTo(1, 4)
          expect(to.distanceTo(pieces[(i + 1) % count]![0])).toBeLessThan(1e-6 * radius)
          expect(from.distanceTo(to) / chord).toBeCloseTo(1, 4)
        })
      }),
      { numRuns: 30 },
    )
  })

  it('fitted reach the end of the path with a whole piece; otherwise they keep their length and stop before it', () => {
    const rule: PathRule = {
      ...path,
      smooth: false,
      points: [
        [0, 0, 0],
        [10, 0, 0],
      ],
      measure: 'ends',
      spacing: 3,
      begins: -1.5,
    }
    expect(ends(rule).map(([, to]) => Math.round(to.x * 1e6) / 1e6)).toEqual([3.333333, 6.666667, 10])
    expect(ends({ ...rule, fitted: false }).map(([, to]) => Math.round(to.x * 1e6) / 1e6)).toEqual([3, 6, 9])
    // A piece whose pivot is at its beginning lies where one with its pivot in the middle does.
    expect(ends({ ...rule, begins: 0 }).map(([, to]) => Math.round(to.x * 1e6) / 1e6)).toEqual([3.333333, 6.666667, 10])
  })

  it('fitted end where the path does, whatever the curve, or say by how much they miss it', () => {
    const missed = (rule: PathRule) => {
      const last = ends(rule).at(-1)![1]
      const curve = layoutOfPath(rule).curve
      return last.distanceTo(curve.at(curve.length))
    }
    const said = (rule: PathRule) =>
      RULES.path.remarks(rule, metres => `${metres} m`).filter(remark => remark.startsWith('No number'))
    // Round this corner the nearest number of pieces ends 1.63 m beyond; with another it fits, or the form says what is
    // missing.
    const sharp: PathRule = {
      ...path,
      points: [
        [0, 0, 0],
        [4.5, 0, 0],
        [0, 0, 2],
      ],
      smooth: false,
      measure: 'ends',
      spacing: 1,
      begins: -0.5,
    }
    expect(missed(sharp) < 1e-5 || said(sharp).length === 1).toBe(true)
    const coordinate = fc.integer({ min: -1000, max: 1000 }).map(value => value / 100)
    let fitting = 0
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, fc.constant(0), coordinate), { minLength: 3, maxLength: 6 }),
        fc.boolean(),
        (points, smooth) => {
          const rule: PathRule = { ...sharp, points, smooth }
          // What lies nearer than a millimetre to the end is not said.
          const fits = missed(rule) < 2e-3
          if (said(rule).length === 0) expect(fits).toBe(true)
          fitting += fits ? 1 : 0
          for (const [from, to] of ends(rule).slice(0, -1))
            for (const end of [from, to]) expect(Number.isFinite(end.x)).toBe(true)
        },
      ),
      { numRuns: 200, seed: 12 },
    )
    // Half of these straight ones turn back so sharply that no number fits.
    expect(fitting).toBeGreaterThan(120)
  })

  it('on a slope, upright, are measured in plan: each begins where the one before it ends', () => {
    const coordinate = fc.double({ min: -20, max: 20, noNaN: true })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, coordinate, coordinate), { minLength: 2, maxLength: 6 }),
        fc.boolean(),
        (points, smooth) => {
          const rule: PathRule = { ...path, points, smooth, measure: 'ends', spacing: 1, begins: 0, stand: 'upright' }
          const pieces = ends(rule)
          for (let i = 1; i < pieces.length; i++) {
            const [before, from] = [pieces[i - 1]![1], pieces[i]![0]]
            expect(Math.hypot(from.x - before.x, from.z - before.z)).toBeLessThan(1e-6)
          }
        },
      ),
      { numRuns: 100 },
    )
    // A ramp of 30 m by 17.3 m up, pieces of 1 m: 30 of them, not the 34.6 that overlap by 13 %.
    const ramp: PathRule = {
      ...path,
      points: [
        [0, 0, 0],
        [30, 30 / Math.sqrt(3), 0],
      ],
      measure: 'ends',
      spacing: 1,
      begins: 0,
      stand: 'upright',
    }
    expect(countOf(ramp)).toBe(30)
    expect(countOf({ ...ramp, stand: 'banked' })).toBe(35)
    expect(RULES.path.remarks(ramp, String)).toEqual([
      'Upright pieces are measured in plan, so that they meet on a slope.',
    ])
    // A stretch that only climbs has no length in plan.
    expect(
      countOf({
        ...ramp,
        points: [
          [0, 0, 0],
          [4, 0, 0],
          [4, 3, 0],
          [4, 6, 0],
          [8, 6, 0],
        ],
        smooth: true,
      }),
    ).toBeGreaterThanOrEqual(8)
  })
})

describe('a path with a part at each corner', () => {
  // A rectangle of 6 m by 4 m, walked so that its inside is to the right.
  const fence: PathRule = {
    ...path,
    smooth: false,
    closed: true,
    points: [
      [0, 0, 0],
      [6, 0, 0],
      [6, 0, 4],
      [0, 0, 4],
    ],
    measure: 'ends',
    spacing: 2,
    begins: -1,
    corners: { room: 0, ends: false },
  }
  const cornersOf = (rule: PathRule) => {
    const places = keysOf(rule)
    return matricesOf(rule).filter((_, i) => places.partAt(i) === 'corner')
  }
  const piecesOf = (rule: PathRule) => ends(rule).slice(0, countOf(rule) - cornersOf(rule).length)
  const tidied = (vector: Vector3) => vector.toArray().map(value => Math.round(value * 1e6) / 1e6 + 0)

  it('has whole pieces on each straight stretch, and its corners turned half-way', () => {
    expect(piecesOf(fence)).toHaveLength(3 + 2 + 3 + 2)
    expect(
      piecesOf(fence)
        .slice(0, 4)
        .map(([from, to]) => [tidied(from), tidied(to)]),
    ).toEqual([
      [
        [0, 0, 0],
        [2, 0, 0],
      ],
      [
        [2, 0, 0],
        [4, 0, 0],
      ],
      [
        [4, 0, 0],
        [6, 0, 0],
      ],
      [
        [6, 0, 0],
        [6, 0, 2],
      ],
    ])
    expect(cornersOf(fence).map(matrix => tidied(new Vector3().setFromMatrixPosition(matrix)))).toEqual([
      [0, 0, 0],
      [6, 0, 0],
      [6, 0, 4],
      [0, 0, 4],
    ])
    const headings = cornersOf(fence)
      .map(matrix => new Vector3(1, 0, 0).transformDirection(matrix))
      .map(({ x, z }) => Math.round((Math.atan2(z, x) * 180) / Math.PI))
    expect(headings).toEqual([-45, 45, 135, -135])
  })

  it('leaves room beside its corners, and is mitred where it runs to the side', () => {
    const roomy = piecesOf({ ...fence, corners: { room: 0.5, ends: false } })
    // 5 m are 2.5 pieces, which is three of 5/3 m; 3 m are 1.5, which is two.
    expect(roomy).toHaveLength(3 + 2 + 3 + 2)
    expect([roomy[0]![0], roomy[2]![1]].map(tidied)).toEqual([
      [0.5, 0, 0],
      [5.5, 0, 0],
    ])
    // One metre inside is a rectangle of 4 m by 2 m; one metre outside of 8 m by 6 m.
    for (const [offset, across, along] of [
      [1, 4, 2],
      [-1, 8, 6],
    ] as const) {
      const beside = { ...fence, offset, spacing: 1, begins: -0.5 }
      expect(piecesOf(beside)).toHaveLength((across + along) * 2)
      expect(cornersOf(beside).map(matrix => tidied(new Vector3().setFromMatrixPosition(matrix)))).toEqual([
        [offset, 0, offset],
        [6 - offset, 0, offset],
        [6 - offset, 0, 4 - offset],
        [offset, 0, 4 - offset],
      ])
      expect(tidied(piecesOf(beside)[0]![0])).toEqual([offset, 0, offset])
    }
  })

  it('keeps pieces to their own stretch where an offset to the outer side takes them beyond its corner', () => {
    const beside: PathRule = {
      ...fence,
      closed: false,
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 4],
      ],
      spacing: 1,
      begins: 0,
      offset: -1,
    }
    const keys = keysOf(beside)
    const [from, to] = piecesOf(beside)[keys.indexOf('0,4,0')!]!
    expect([from, to].map(tidied)).toEqual([
      [4, 0, -1],
      [5, 0, -1],
    ])
  })

  it('turns half-way in plan between slopes', () => {
    const slopes: PathRule = {
      ...fence,
      closed: false,
      points: [
        [0, 0, 0],
        [6, 6, 0],
        [6, 6, 6],
      ],
      offset: 1,
    }
    const [corner] = cornersOf(slopes)
    const { x, z } = new Vector3().setFromMatrixPosition(corner!)
    // One metre to the right of both stretches: x is 5 and z is 1.
    expect([x, z].map(value => Math.round(value * 1e9) / 1e9)).toEqual([5, 1])
    const looks = new Vector3(1, 0, 0).transformDirection(corner!)
    expect((Math.atan2(looks.z, looks.x) * 180) / Math.PI).toBeCloseTo(45, 9)
  })

  it('has none at its ends unless they are asked for, and nothing where a stretch is too short', () => {
    const open: PathRule = {
      ...fence,
      closed: false,
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 0.4],
        [8, 0, 0.4],
      ],
    }
    expect(cornersOf(open)).toHaveLength(2)
    expect(cornersOf({ ...open, corners: { room: 0.2, ends: true } })).toHaveLength(4)
    const parts = (rule: PathRule) =>
      Array.from({ length: countOf(rule) }, (_, i) => keysOf(rule).partAt(i)[0]).join('')
    expect(parts(open)).toBe('fmmmlcc')
    expect(parts({ ...open, corners: { room: 0.2, ends: true } })).toBe('fmmlcccc')
    expect(parts(fence)).toBe('mmmmmmmmmmcccc')
  })

  it("whatever its points: pieces lie on their stretches between the corners, and each copy's key leads back to it", () => {
    const coordinate = fc.double({ min: -20, max: 20, noNaN: true })
    fc.assert(
      fc.property(
        fc.array(fc.tuple(coordinate, coordinate, coordinate), { minLength: 2, maxLength: 8 }),
        fc.boolean(),
        fc.boolean(),
        fc.double({ min: 0, max: 2, noNaN: true }),
        (points, closed, ends, room) => {
          const rule: PathRule = { ...fence, points, closed, stand: 'banked', corners: { room, ends } }
          const places = keysOf(rule)
          const curve = new PathCurve(rule)
          const through = [...curve.wayOfPoints().map(way => curve.at(way))]
          piecesOf(rule).forEach(([from, to], i) => {
            const [stretch] = places.at(i)
            const line = new Line3(through[stretch]!, through[(stretch + 1) % through.length]!)
            for (const end of [from, to])
              expect(line.closestPointToPoint(end, true, new Vector3()).distanceTo(end)).toBeLessThan(1e-6)
          })
          for (let i = 0; i < places.count; i++) expect(places.indexOf(places.keyAt(i))).toBe(i)
        },
      ),
    )
  })
})

describe('a path that doubles back', () => {
  it('of two points has two ends, also when it is closed', () => {
    for (const measure of ['count', 'spacing', 'ends'] as const) {
      const rule: PathRule = {
        ...path,
        points: [
          [0, 0, 0],
          [6, 0, 0],
        ],
        closed: true,
        smooth: false,
        measure,
        count: 4,
        spacing: 2,
        begins: 0,
      }
      const [open, closed] = [matricesOf({ ...rule, closed: false }), matricesOf(rule)]
      expect(closed).toEqual(open)
    }
  })

  it('with a point twice gets a new point in the stretch it is put on', () => {
    const rule: PathRule = {
      ...path,
      smooth: false,
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 0],
        [4, 0, 4],
      ],
    }
    const grips = RULES.path.grips(rule)
    const between = grips.slice(rule.points.length)
    expect(between.map(({ at }) => at.toArray())).toEqual([
      [2, 0, 0],
      [4, 0, 0],
      [4, 0, 2],
    ])
    const { rule: longer } = RULES.path.drag(rule, rule.points.length + 2, new Vector3(5, 0, 2))
    expect(longer.points).toEqual([
      [0, 0, 0],
      [4, 0, 0],
      [4, 0, 0],
      [5, 0, 2],
      [4, 0, 4],
    ])
  })
})

describe('bent pieces', () => {
  const [length, width, height] = [2, 0.4, 0.3]
  const kerb: Mesh = testSolid(new BoxGeometry(length, height, width)).mesh
  const bent = (rule: PathRule) =>
    matricesOf(rule).map((home, i) => ({ home, mesh: bendMesh(kerb, rule, i, new Matrix4(), home) }))
  const rule = (radius: number): PathRule => ({
    ...ring(radius, 96),
    measure: 'ends',
    spacing: length,
    begins: -length / 2,
    bent: true,
  })

  it('follow the curve: their points lie between the two circles of the kerb, and enclose its length times its section (Pappus)', () => {
    const radius = 5
    const pieces = bent(rule(radius))
    expect(pieces).toHaveLength(Math.round((2 * Math.PI * radius) / length))
    let volume = 0
    for (const { home, mesh } of pieces) {
      volume += meshVolume(mesh)
      for (const { positions } of mesh.primitives) {
        for (let i = 0; i < positions.length; i += 3) {
          const { x, z } = new Vector3().fromArray(positions, i).applyMatrix4(home)
          expect(Math.abs(Math.hypot(x, z) - radius)).toBeLessThan(width / 2 + 1e-4)
        }
      }
    }
    // Pappus's second theorem: the section times the way of its middle; the cuts leave chords, a hair less.
    const whole = 2 * Math.PI * radius * width * height
    expect(volume / whole).toBeGreaterThan(0.995)
    expect(volume / whole).toBeLessThan(1.0005)
  })

  it('meet: where one ends the next one begins, point for point', () => {
    const pieces = bent(rule(4))
    const pointsOf = ({ home, mesh }: (typeof pieces)[number]) =>
      mesh.primitives.flatMap(({ positions }) =>
        Array.from({ length: positions.length / 3 }, (_, i) =>
          new Vector3().fromArray(positions, i * 3).applyMatrix4(home),
        ),
      )
    pieces.forEach((piece, i) => {
      const next = pointsOf(pieces[(i + 1) % pieces.length]!)
      const meeting = pointsOf(piece).filter(point => next.some(other => other.distanceTo(point) < 1e-5))
      // The four corners of the end, each with a normal to every side.
      expect(
        new Set(
          meeting.map(point =>
            point
              .toArray()
              .map(value => Math.round(value * 100))
              .join(),
          ),
        ).size,
      ).toBe(4)
    })
  })

  it('have normals of unit length that point outwards, and every edge twice', () => {
    for (const { mesh } of bent(rule(3))) {
      for (const { positions, normals, indices } of mesh.primitives) {
        const edges = new Map<string, number>()
        const name = (vertex: number) => [0, 1, 2].map(k => positions[vertex * 3 + k]!.toFixed(4)).join()
        for (let i = 0; i < indices.length; i += 3) {
          const corners = [0, 1, 2].map(k => new Vector3().fromArray(positions, indices[i + k]! * 3)) as [
            Vector3,
            Vector3,
            Vector3,
          ]
          const face = corners[1].clone().sub(corners[0]).cross(corners[2].clone().sub(corners[0])).normalize()
          for (let k = 0; k < 3; k++) {
            const normal = new Vector3().fromArray(normals, indices[i + k]! * 3)
            expect(normal.length()).toBeCloseTo(1, 4)
            expect(normal.dot(face)).toBeGreaterThan(0.97)
            const [a, b] = [name(indices[i + k]!), name(indices[i + ((k + 1) % 3)]!)]
            edges.set(`${a} ${b}`, (edges.get(`${a} ${b}`) ?? 0) + 1)
          }
        }
        for (const [edge, count] of edges) expect(edges.get(edge.split(' ').reverse().join(' '))).toBe(count)
      }
    }
  })

  it('across a corner are mitred: a kerb keeps its volume, its faces and its thickness', () => {
    for (const turn of [30, 90, -90, 120, 150])
      for (const offset of [0, 0.4]) {
        const radians = (turn * Math.PI) / 180
        const points: Vec3[] = [
          [0, 0, 0],
          [4, 0, 0],
          [4 + 4 * Math.cos(radians), 0, 4 * Math.sin(radians)],
        ]
        const rule: PathRule = {
          ...path,
          points,
          smooth: false,
          measure: 'ends',
          spacing: 8,
          begins: -4,
          bent: true,
          offset,
        }
        const [matrix] = matricesOf(rule)
        const bent = bendMesh(testSolid(new BoxGeometry(8, 1, 0.5)).mesh, rule, 0, new Matrix4(), matrix!)
        // The middle of the section runs beside the path; to the side it goes round the corner on a way that is shorter
        // or longer.
        const way = 8 - 2 * offset * Math.tan(radians / 2)
        if (Math.abs(offset * Math.tan(radians / 2)) + 0.25 * Math.abs(Math.tan(radians / 2)) < 2)
          expect(meshVolume(bent), `${turn} ${offset}`).toBeCloseTo(0.5 * way, 4)
        expect(meshVolume(bent)).toBeGreaterThan(0)
        const { positions, normals, indices } = bent.primitives[0]!
        const at = (i: number, of: ArrayLike<number>) => new Vector3().fromArray(of, indices[i]! * 3)
        for (let i = 0; i < indices.length; i += 3) {
          const normal = at(i + 1, positions)
            .sub(at(i, positions))
            .cross(at(i + 2, positions).sub(at(i, positions)))
          if (normal.length() > 1e-6) expect(normal.normalize().dot(at(i, normals))).toBeGreaterThan(0.99)
        }
      }
  })

  it("between corners of their own end square, each in its own stretch's direction", () => {
    const corner: PathRule = {
      ...path,
      smooth: false,
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 4],
      ],
      measure: 'ends',
      spacing: length,
      begins: -length / 2,
      bent: true,
      corners: { room: 0.2, ends: false },
    }
    const pieces = [0, 1, 2, 3].map(i => ({
      home: matricesOf(corner)[i]!,
      mesh: bendMesh(kerb, corner, i, new Matrix4(), matricesOf(corner)[i]!),
    }))
    for (const { mesh } of pieces) expect(meshVolume(mesh)).toBeCloseTo(1.9 * width * height, 5)
    expect(new Vector3(1, 0, 0).transformDirection(pieces[2]!.home).z).toBeCloseTo(1, 9)
    // Without room they end square at the corner itself.
    const close: PathRule = { ...corner, corners: { room: 0, ends: false } }
    expect(meshVolume(bendMesh(kerb, close, 1, new Matrix4(), new Matrix4()))).toBeCloseTo(length * width * height, 4)
  })

  it('stay as they are on a straight path', () => {
    const straight: PathRule = {
      ...path,
      smooth: false,
      points: [
        [0, 0, 0],
        [6, 0, 0],
      ],
      measure: 'ends',
      spacing: length,
      begins: -length / 2,
      bent: true,
    }
    const [first] = bent(straight)
    expect(meshVolume(first!.mesh)).toBeCloseTo(length * width * height, 6)
    expect(new Vector3().setFromMatrixPosition(first!.home).toArray()).toEqual([1, 0, 0])
    expect(new Quaternion().setFromRotationMatrix(first!.home).w).toBeCloseTo(1, 12)
  })
})
