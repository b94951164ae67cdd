import bunny from 'bunny'
import { BoxGeometry, ConeGeometry, IcosahedronGeometry, Matrix4, PlaneGeometry, Vector3 } from 'three'
import PoissonDiskSampling from 'poisson-disk-sampling'
import { describe, expect, it } from 'vitest'
import { LIMITS } from '../../core/arrange/scatter/limits'
import { shareThrough } from '../../core/arrange/scatter/limits/range'
import type { Skin } from '../../core/arrange/scatter/site'
import { cosSin, expMinus, minusLog } from '../../core/math/exact'
import {
  byKey,
  deal,
  IDENTITY,
  ingredient,
  placesOf,
  scatterRule,
  siteFor,
  skinOf,
  SQUARE,
  teapot,
} from '../scatter-support'

/** Chi-squared, upper 5 %, by degrees of freedom: NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.6.7.4. */
const CHI_SQUARED = { 2: 5.991, 3: 7.815, 9: 16.919 }
const chiSquared = (seen: readonly number[], expected: readonly number[]) =>
  seen.reduce((sum, value, i) => sum + (value - expected[i]!) ** 2 / expected[i]!, 0)

const bunnySkin: Skin = [{ positions: bunny.positions.flat(), indices: bunny.cells.flat() }]

/** The least distance between any two, by trying all pairs of neighbours in one direction. */
function leastDistance(places: readonly (readonly [number, number, number])[]): number {
  const sorted = [...places].sort((a, b) => a[0] - b[0])
  let least = Infinity
  for (let i = 0; i < sorted.length; i++)
    for (let k = i + 1; k < sorted.length && sorted[k]![0] - sorted[i]![0] < least; k++)
      least = Math.min(
        least,
        Math.hypot(sorted[k]![0] - sorted[i]![0], sorted[k]![1] - sorted[i]![1], sorted[k]![2] - sorted[i]![2]),
      )
  return least
}

/** Points evenly over triangles, by another generator. */
function pointsOn(skin: Skin, many: number, matrix = new Matrix4()): { point: Vector3; normal: Vector3 }[] {
  const [{ positions, indices }] = skin as [Skin[number]]
  let state = 12345
  const next = () => (state = (state * 1103515245 + 12345) % 2147483648) / 2147483648
  const corner = (i: number) =>
    new Vector3(
      positions[indices[i]! * 3]!,
      positions[indices[i]! * 3 + 1]!,
      positions[indices[i]! * 3 + 2]!,
    ).applyMatrix4(matrix)
  const sums: number[] = []
  for (let i = 0; i < indices.length; i += 3)
    sums.push(
      (sums.at(-1) ?? 0)
        + corner(i + 1)
          .sub(corner(i))
          .cross(corner(i + 2).sub(corner(i)))
          .length()
          / 2,
    )
  return Array.from({ length: many }, () => {
    const wanted = next() * sums.at(-1)!
    const t = sums.findIndex(sum => sum >= wanted) * 3
    const root = Math.sqrt(next())
    const v = next()
    const [a, b, c] = [corner(t), corner(t + 1), corner(t + 2)]
    const normal = b.clone().sub(a).cross(c.clone().sub(a)).normalize()
    return {
      point: a
        .multiplyScalar(1 - root)
        .addScaledVector(b, root * (1 - v))
        .addScaledVector(c, root * v),
      normal,
    }
  })
}

describe('arithmetic that is alike on every machine', () => {
  it('agrees with that of this one to rounding', () => {
    for (let i = 1; i <= 4096; i++) {
      expect(minusLog(i / 4096)).toBeCloseTo(-Math.log(i / 4096), 12)
      expect(expMinus(i / 512)).toBeCloseTo(Math.exp(-i / 512), 12)
      const [cos, sin] = cosSin(i * 1.7 - 3500)
      expect(cos).toBeCloseTo(Math.cos(((i * 1.7 - 3500) * Math.PI) / 180), 11)
      expect(sin).toBeCloseTo(Math.sin(((i * 1.7 - 3500) * Math.PI) / 180), 11)
    }
  })
})

describe('a smallest distance', () => {
  const full = { apart: 0.5, density: 10_000, facing: 'normals' } as const

  it('is kept, and no place is left farther from a copy than twice it (Bridson 2007), on a plane, the Stanford bunny and the Utah teapot', () => {
    for (const [skin, size, apart] of [
      [SQUARE, 20, 0.5],
      [bunnySkin, 1, 0.4],
      [teapot(), 1, 0.08],
    ] as const) {
      const rule = scatterRule({ ...full, apart })
      const matrix = new Matrix4().makeScale(size, size, size)
      const dealt = deal(rule, siteFor(rule, matrix.toArray()), { surface: skin })
      const places = placesOf(dealt)
      expect(places.length).toBeGreaterThan(300)
      expect(leastDistance(places)).toBeGreaterThanOrEqual(apart)
      for (const { point } of pointsOn(skin, 2000, matrix)) {
        expect(Math.min(...places.map(([x, y, z]) => Math.hypot(x - point.x, y - point.y, z - point.z)))).toBeLessThan(
          2 * apart,
        )
      }
    }
  })

  it('packs as many as random addition gets to: discs cover 0.547 of a plane (Feder 1980, from memory), more than a general package tries for', () => {
    const rule = scatterRule({ ...full, apart: 0.2 })
    const dealt = deal(rule)
    // Away from the edges, where they stand closer.
    const inner = placesOf(dealt).filter(([x, , z]) => x > 1 && x < 19 && z > 1 && z < 19).length
    expect(Math.abs((inner * Math.PI * 0.1 ** 2) / 18 ** 2 / 0.547 - 1)).toBeLessThan(0.02)
    expect(dealt.count).toBeGreaterThan(
      new PoissonDiskSampling({ shape: [20, 20], minDistance: 0.2, tries: 30 }, seeded(7)).fill().length,
    )
  })

  it('lets no two overlap whose rooms differ', () => {
    const rule = scatterRule({
      keepRoom: true,
      density: 8,
      mix: [ingredient(1, { room: 0.1, size: [0.5, 2] }), ingredient(2, { room: 0.5, weight: 0.3 })],
    })
    const dealt = deal(rule)
    const rooms = Array.from(
      { length: dealt.count },
      (_, i) => [0.1, 0.5][dealt.sources[i]!]! * Math.hypot(...dealt.matrices.subarray(i * 16 + 4, i * 16 + 7)),
    )
    const places = placesOf(dealt)
    expect(dealt.count).toBeGreaterThan(200)
    let least = Infinity
    for (let i = 0; i < places.length; i++)
      for (let k = 0; k < i; k++) {
        least = Math.min(
          least,
          Math.hypot(places[i]![0] - places[k]![0], places[i]![2] - places[k]![2]) - rooms[i]! - rooms[k]!,
        )
      }
    expect(least).toBeGreaterThanOrEqual(-1e-12)
  })
})

describe('how many', () => {
  it('is exactly a count, and a density within a few in a hundred, whatever the spread', () => {
    for (const spread of ['free', 'even'] as const) {
      for (const apart of [0, 0.25]) {
        expect(deal(scatterRule({ spread, apart, measure: 'count', count: 777 })).count).toBe(777)
        const { report } = deal(scatterRule({ spread, apart, density: 4 }))
        expect([report.area, report.asked]).toEqual([400, 1600])
        expect(Math.abs(report.obtained / 1600 - 1)).toBeLessThan(0.06)
      }
    }
  })

  it('measures areas on the real triangles: the bunny by the sum of its cross products, a sphere from above, overlaps once', () => {
    const sum = bunny.cells.reduce((total, cell) => {
      const [a, b, c] = cell.map(i => new Vector3(...bunny.positions[i]!)) as [Vector3, Vector3, Vector3]
      return total + b.sub(a).cross(c.sub(a)).length() / 2
    }, 0)
    const rule = scatterRule({ facing: 'normals', measure: 'count', count: 10 })
    expect(deal(rule, siteFor(rule, IDENTITY), { surface: bunnySkin }).report.area / sum).toBeCloseTo(1, 9)
    // Half of 4 pi r squared, less what the flat sides cut off, and those across the equator that look down.
    const above = scatterRule({ measure: 'count', count: 10 })
    expect(
      deal(above, siteFor(above, IDENTITY), { surface: skinOf(new IcosahedronGeometry(1, 20)) }).report.area
        / (2 * Math.PI),
    ).toBeCloseTo(0.99, 2)
    const roof = new Matrix4()
      .makeTranslation(5, 3, 5)
      .multiply(new Matrix4().makeScale(10, 1, 10))
      .toArray()
    const site = siteFor(above)
    const both = deal(
      { ...above, count: 4000 },
      { ...site, surfaces: [...site.surfaces, { stream: 2, below: 0, owner: '', shape: 'surface', matrix: roof }] },
    )
    expect(both.report.area / 400).toBeCloseTo(1, 2)
    expect(placesOf(both).some(([x, y, z]) => y === 0 && x > 5.1 && x < 14.9 && z > 5.1 && z < 14.9)).toBe(false)
    expect(placesOf(both).some(([, y]) => y === 3)).toBe(true)
  })

  it('measures drawn areas: a ring between circles, and a band', () => {
    const circle = (radius: number, hole: boolean) => ({
      type: 'loop' as const,
      hole,
      width: 0,
      points: Array.from(
        { length: 200 },
        (_, i) =>
          [10 + radius * Math.cos((i * Math.PI) / 100), 0, 10 + radius * Math.sin((i * Math.PI) / 100)] as [
            number,
            number,
            number,
          ],
      ),
    })
    const ring = scatterRule({ areas: [circle(8, false), circle(4, true)], measure: 'count', count: 10 })
    expect(deal(ring).report.area / (48 * Math.PI)).toBeCloseTo(1, 3)
    // A straight band with round ends.
    const band = scatterRule({
      areas: [
        {
          type: 'band',
          hole: false,
          width: 2,
          points: [
            [4, 0, 4],
            [14, 0, 4],
          ],
        },
      ],
      measure: 'count',
      count: 500,
    })
    const dealt = deal(band)
    expect(dealt.report.area / (20 + Math.PI)).toBeCloseTo(1, 3)
    for (const [x, , z] of placesOf(dealt))
      expect(Math.hypot(x - Math.min(Math.max(x, 4), 14), z - 4)).toBeLessThanOrEqual(1)
  })
})

describe('a density', () => {
  /**
   * Square metres and fields of a scatter on a square: more by far than fit into the ways in which it was once counted.
   */
  const cases: [string, number, NonNullable<Parameters<typeof scatterRule>[0]>][] = [
    ['a distance of a centimetre', 10, { density: 1, apart: 0.01 }],
    [
      'parts of half a metre far from each other',
      50,
      { density: 0.02, keepRoom: true, mix: [ingredient(1, { room: 0.25 })] },
    ],
    ['parts of six centimetres', 100, { density: 0.1, keepRoom: true, mix: [ingredient(1, { room: 0.03 })] }],
    ['a distance that keeps some off', 100, { density: 3, apart: 0.3 }],
    ['evenly', 60, { density: 2, spread: 'even' }],
    ['thirty thousand, freely', 100, { density: 3 }],
  ]

  it('is obtained within one in a hundred or three standard deviations of a Poisson process, whichever is more, wherever there is room', () => {
    for (const [name, side, fields] of cases) {
      for (const seed of [1, 2, 3]) {
        const rule = scatterRule({ ...fields, seed })
        const asked = fields.density! * side * side
        const { report } = deal(rule, siteFor(rule, new Matrix4().makeScale(side, 1, side).toArray()))
        expect(Math.abs(report.obtained - asked), `${name}: ${report.obtained} of ${asked}`).toBeLessThanOrEqual(
          Math.max(asked / 100, 3 * Math.sqrt(asked)),
        )
      }
    }
  })

  it('is the same on many small triangles', () => {
    const cut = skinOf(new PlaneGeometry(1, 1, 150, 150).rotateX(-Math.PI / 2))
    for (const [density, spread] of [
      [0.5, 'even'],
      [3, 'even'],
      [3, 'free'],
    ] as const) {
      const rule = scatterRule({ density, spread })
      const { report } = deal(rule, siteFor(rule, new Matrix4().makeScale(40, 1, 40).toArray()), { surface: cut })
      expect(Math.abs(report.obtained - density * 1600)).toBeLessThanOrEqual(3 * Math.sqrt(density * 1600))
    }
  })
})

describe('a scatter that is full', () => {
  const exact = { size: [1, 1] as [number, number] }

  it('has no place left for the smallest of its mix, by trying places', () => {
    for (const [small, large, side] of [
      [0.05, 1, 12],
      [0.3, 0.5, 20],
    ] as const) {
      const rule = scatterRule({
        keepRoom: true,
        density: 10_000,
        mix: [ingredient(1, { ...exact, room: small }), ingredient(2, { ...exact, room: large })],
      })
      const dealt = deal(rule, siteFor(rule, new Matrix4().makeScale(side, 1, side).toArray()))
      expect(dealt.report.full).toBe(true)
      const [places, next] = [placesOf(dealt), seeded(11)]
      const fits = Array.from({ length: 4000 }, () => [next() * side, next() * side]).filter(([x, z]) =>
        places.every(([px, , pz], i) => Math.hypot(px - x!, pz - z!) >= [small, large][dealt.sources[i]!]! + small),
      )
      expect(fits.length / 4000).toBeLessThan(0.001)
    }
  })

  it('fills bands that are narrower than the distance, all along their middle', () => {
    const rule = scatterRule({
      apart: 0.5,
      density: 1000,
      areas: [
        {
          type: 'band',
          hole: false,
          width: 0.1,
          points: [
            [2, 0, 2],
            [18, 0, 15],
          ],
        },
      ],
    })
    const dealt = deal(rule)
    const places = placesOf(dealt)
    expect([dealt.report.full, leastDistance(places) >= 0.5]).toEqual([true, true])
    const open = Array.from({ length: 4001 }, (_, k) => [2 + (16 * k) / 4000, 2 + (13 * k) / 4000]).filter(([x, z]) =>
      places.every(place => Math.hypot(place[0] - x!, place[2] - z!) >= 0.5),
    )
    expect(open.length).toBeLessThanOrEqual(4)
  })
})

describe('a moved edge of a drawn area', () => {
  it('changes nothing farther from it than four distances, whatever the spread, over random areas', () => {
    const next = seeded(5)
    const rules: [string, number, Parameters<typeof scatterRule>[0]][] = [
      ['even', Math.sqrt(0.7 / 0.5), { spread: 'even', density: 0.5, apart: 0.15 }],
      ['even, thickly', Math.sqrt(0.7 / 4), { spread: 'even', density: 4 }],
      ['free', 0.5, { apart: 0.5, density: 2 }],
      ['rooms', 1, { keepRoom: true, density: 2, mix: [ingredient(1, { room: 0.1 }), ingredient(2, { room: 0.4 })] }],
      ['full', 0.5, { apart: 0.5, density: 1000 }],
    ]
    for (const [name, distance, fields] of rules) {
      for (let n = 1; n <= 5; n++) {
        const [wide, deep, by] = [6 + next() * 8, 5 + next() * 12, 0.2 + next() * 2]
        const within = (x: number) => {
          const rule = scatterRule({
            ...fields,
            seed: n,
            plane: true,
            on: [],
            areas: [
              {
                type: 'loop',
                hole: false,
                width: 0,
                points: [
                  [0, 0, 0],
                  [x, 0, 0],
                  [x, 0, deep],
                  [0, 0, deep],
                ],
              },
            ],
          })
          return byKey(deal(rule, siteFor(rule, undefined, { surfaces: [] })))
        }
        const [before, after] = [within(wide), within(wide + by)]
        expect(before.size).toBeGreaterThan(5)
        const gone = [...before].filter(([key]) => !after.has(key)).map(([, [x]]) => (wide - x) / distance)
        const come = [...after].filter(([key]) => !before.has(key)).map(([, [x]]) => (wide - x) / distance)
        expect(Math.max(0, ...gone, ...come), `${name} ${n}`).toBeLessThanOrEqual(4)
      }
    }
  })
})

describe('a free scatter', () => {
  it('has the nearest neighbours of a Poisson process (Clark and Evans 1954): on average half the root of the area each has', () => {
    const places = placesOf(deal(scatterRule({ density: 10, seed: 3 })))
    const inner = places.filter(([x, , z]) => x > 1 && x < 19 && z > 1 && z < 19)
    const mean =
      inner.reduce(
        (sum, a) =>
          sum
          + Math.sqrt(
            places.reduce(
              (least, b) => (b === a ? least : Math.min(least, (a[0] - b[0]) ** 2 + (a[2] - b[2]) ** 2)),
              Infinity,
            ),
          ),
        0,
      ) / inner.length
    const expected = 1 / (2 * Math.sqrt(places.length / 400))
    // Its standard error is 0.26136 / sqrt(n · density), by the same paper.
    expect(Math.abs(mean - expected)).toBeLessThan((3 * 0.26136) / Math.sqrt((inner.length * places.length) / 400))
  })

  it('is even over the area, by chi-squared over ten equal strips of a square of very uneven triangles', () => {
    // A fan from one corner: slivers beside large triangles.
    const far = Array.from({ length: 41 }, (_, i) => (i / 40) ** 4)
    const positions = [
      0,
      0,
      0,
      ...far.flatMap(t => [1, 0, t]),
      ...far
        .toReversed()
        .slice(1)
        .flatMap(t => [t, 0, 1]),
    ]
    const indices = Array.from({ length: 80 }, (_, i) => [0, i + 2, i + 1]).flat()
    const strips = (axis: 0 | 2, seed: number) => {
      const rule = scatterRule({ measure: 'count', count: 5000, seed })
      const seen = new Array<number>(10).fill(0)
      for (const place of placesOf(deal(rule, siteFor(rule), { surface: [{ positions, indices }] })))
        seen[Math.min(Math.floor(place[axis] / 2), 9)]!++
      return chiSquared(seen, new Array<number>(10).fill(500))
    }
    const all = [1, 2, 3, 4, 5, 6, 7, 8].flatMap(seed => [strips(0, seed), strips(2, seed)])
    // One of twenty is above by chance; three or more of sixteen come in one of twenty tries.
    expect(all.filter(value => value > CHI_SQUARED[9]).length).toBeLessThan(3)
  })

  it('tilts by anything up to the most: over the cone evenly, so that half of it is within 0.707 of the most', () => {
    const dealt = deal(
      scatterRule({ measure: 'count', count: 4000, mix: [ingredient(1, { tilt: 30, lean: 0, size: [1, 1] })] }),
    )
    const tilts = Array.from(
      { length: dealt.count },
      (_, i) => (Math.acos(Math.min(dealt.matrices[i * 16 + 5]!, 1)) * 180) / Math.PI,
    )
    expect(Math.max(...tilts)).toBeLessThanOrEqual(30 + 1e-9)
    expect(Math.max(...tilts)).toBeGreaterThan(29)
    // By a binomial of 4,000 and 1/2, three standard deviations are 95.
    expect(Math.abs(tilts.filter(tilt => tilt < 30 * Math.SQRT1_2).length - 2000)).toBeLessThan(95)
  })

  it('is even over skewed surfaces, whose area is that of their world: by the cross product', () => {
    const skew = new Matrix4().set(10, 6, 0, 0, 0, 8, 0, 0, 0, 3, 12, 0, 0, 0, 0, 1)
    const upright: Skin = [{ positions: [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0], indices: [0, 1, 2, 1, 3, 2] }]
    const rule = scatterRule({ facing: 'normals', measure: 'count', count: 10 })
    const side = (axis: number) => new Vector3().setFromMatrixColumn(skew, axis)
    expect(deal(rule, siteFor(rule, skew.toArray()), { surface: upright }).report.area).toBeCloseTo(
      side(0).cross(side(1)).length(),
      9,
    )
  })

  it('shows sources by weight, by chi-squared', () => {
    const weights = [5, 3, 1, 1]
    const rule = scatterRule({
      measure: 'count',
      count: 4000,
      mix: weights.map((weight, i) => ingredient(i + 1, { weight })),
    })
    const all = [1, 2, 3, 4, 5, 6].map(seed => {
      const { sources } = deal({ ...rule, seed }).report
      return chiSquared(
        sources.map(({ obtained }) => obtained),
        weights.map(weight => weight * 400),
      )
    })
    expect(all.filter(value => value > CHI_SQUARED[3]).length).toBeLessThan(2)
  })

  it('is in clumps as far as it says: most stand within half a clump of a thick place, and the number is kept', () => {
    const nearest = (spread: 'free' | 'clumps') => {
      const { report, ...dealt } = deal(scatterRule({ density: 4, spread, clump: { size: 2, share: 0.9 } }))
      expect(Math.abs(report.obtained / report.asked - 1)).toBeLessThan(0.25)
      const places = placesOf({ ...dealt, report })
      return (
        places.reduce(
          (sum, a) =>
            sum
            + Math.sqrt(
              places.reduce(
                (least, b) => (b === a ? least : Math.min(least, (a[0] - b[0]) ** 2 + (a[2] - b[2]) ** 2)),
                Infinity,
              ),
            ),
          0,
        ) / places.length
      )
    }
    expect(nearest('clumps')).toBeLessThan(0.75 * nearest('free'))
  })
})

describe('limits', () => {
  it('of slope let through a cone whose slope is known, or nothing of it', () => {
    // As high as wide: 45 degrees, flattened a little by its flat sides.
    const cone = skinOf(new ConeGeometry(10, 10, 90, 1, true))
    const with45 = (from: number, to: number) => {
      const rule = scatterRule({ measure: 'count', count: 300, limits: [{ ...LIMITS.slope.first, from, to, soft: 0 }] })
      return deal(rule, siteFor(rule, IDENTITY), { surface: cone })
    }
    expect([with45(44, 46).count, with45(0, 44).count, with45(46, 90).count]).toEqual([300, 0, 0])
    expect(with45(0, 44).report.lostTo.limits).toEqual([300])
  })

  it('of height, inverted and soft, let through the share that they say', () => {
    const slope: Skin = [{ positions: [0, 0, 0, 0, 0, 1, 1, 1, 0, 1, 1, 1], indices: [0, 1, 2, 3, 2, 1] }]
    const at = (limit: Partial<typeof LIMITS.height.first>) => {
      const rule = scatterRule({
        measure: 'count',
        count: 4000,
        limits: [{ ...LIMITS.height.first, from: 4, to: 6, ...limit }],
      })
      return placesOf(deal(rule, siteFor(rule, new Matrix4().makeScale(10, 10, 10).toArray()), { surface: slope })).map(
        ([, y]) => y,
      )
    }
    const plain = at({})
    expect(plain.every(y => y >= 4 && y <= 6)).toBe(true)
    expect(plain.length + at({ invert: true }).length).toBe(4000)
    const soft = at({ soft: 2 })
    expect(soft.every(y => y > 2 && y < 8)).toBe(true)
    // A smooth step is through by half on average.
    const edge = soft.filter(y => y < 4).length
    expect(Math.abs(edge - 400)).toBeLessThan(3 * 20)
  })

  it('fade in by a smooth step: 5/32 a quarter of the way, half in the middle, 27/32 at three quarters', () => {
    const limit = { from: 4, to: 6, soft: 2, invert: false, off: false }
    expect([2, 2.5, 3, 3.5, 4, 7, 7.5].map(value => shareThrough(limit, value))).toEqual([
      0,
      5 / 32,
      1 / 2,
      27 / 32,
      1,
      1 / 2,
      5 / 32,
    ])
    expect(shareThrough({ ...limit, invert: true }, 2.5)).toBe(27 / 32)
  })

  it('of distance are metres of the world, also from things that are sized, evenly or not', () => {
    for (const scale of [
      [1.8, 1.8, 1.8],
      [1.8, 1, 1.5],
    ] as const) {
      const box = skinOf(new BoxGeometry(1, 1, 1))
      const rule = scatterRule({
        measure: 'count',
        count: 1500,
        limits: [{ ...LIMITS.things.first, from: 1, to: 10_000 }],
      })
      const site = siteFor(rule, undefined, {
        things: [
          [
            {
              shape: 'box',
              matrix: Array.from(new Matrix4().makeTranslation(10, 0, 10).scale(new Vector3(...scale)).elements),
            },
          ],
        ],
      })
      const away = placesOf(deal(rule, site, { surface: SQUARE, box })).map(([x, , z]) =>
        Math.hypot(Math.max(Math.abs(x - 10) - scale[0] / 2, 0), Math.max(Math.abs(z - 10) - scale[2] / 2, 0)),
      )
      expect(Math.min(...away)).toBeGreaterThanOrEqual(1 - 1e-6)
      expect(Math.min(...away)).toBeLessThan(1.3)
    }
  })

  it('of the edge hold where surfaces end, not where one goes on in the next', () => {
    const rule = scatterRule({ measure: 'count', count: 800, limits: [{ ...LIMITS.edge.first, from: 1.5 }] })
    const tile = (x: number, stream: number) => ({
      stream,
      below: 0,
      owner: '',
      shape: 'surface',
      matrix: Array.from(new Matrix4().makeTranslation(x, 0, 0).multiply(new Matrix4().makeScale(10, 1, 10)).elements),
    })
    const site = { ...siteFor(rule), surfaces: [tile(0, 1), tile(10, 2)] }
    const kept = new Set(placesOf(deal(rule, site)).map(String))
    for (const place of placesOf(deal({ ...rule, limits: [] }, { ...site, things: [] }))) {
      expect(kept.has(String(place))).toBe(Math.min(place[0], 20 - place[0], place[2], 10 - place[2]) >= 1.5)
    }
  })

  it('of distance agree with brute force over the triangles of other things', () => {
    const matrix = new Matrix4()
      .makeTranslation(10, 0.3, 9)
      .multiply(new Matrix4().makeRotationY(0.7))
      .multiply(new Matrix4().makeScale(2, 1.5, 3))
    const rule = scatterRule({ measure: 'count', count: 1500, limits: [{ ...LIMITS.things.first, from: 1, to: 2.5 }] })
    const site = siteFor(rule, undefined, { things: [[{ shape: 'pot', matrix: Array.from(matrix.elements) }]] })
    const skins = { surface: SQUARE, pot: teapot() }
    const kept = new Set(placesOf(deal(rule, site, skins)).map(String))
    const [{ positions, indices }] = skins.pot as [Skin[number]]
    const corner = (i: number) =>
      new Vector3(
        positions[indices[i]! * 3]!,
        positions[indices[i]! * 3 + 1]!,
        positions[indices[i]! * 3 + 2]!,
      ).applyMatrix4(matrix)
    const triangles = Array.from(
      { length: indices.length / 3 },
      (_, t) => [corner(t * 3), corner(t * 3 + 1), corner(t * 3 + 2)] as const,
    )
    for (const place of placesOf(deal({ ...rule, limits: [] }, siteFor({ ...rule, limits: [] }), skins)).slice(
      0,
      300,
    )) {
      const distance = Math.min(...triangles.map(([a, b, c]) => distanceTo(new Vector3(...place), a, b, c)))
      if (Math.abs(distance - 1) > 1e-6 && Math.abs(distance - 2.5) > 1e-6)
        expect(kept.has(String(place)), String(distance)).toBe(distance >= 1 && distance <= 2.5)
    }
  })
})

/** By the closest of the three sides and, where it falls inside, the foot on the plane: slow and plain. */
function distanceTo(p: Vector3, a: Vector3, b: Vector3, c: Vector3): number {
  const normal = b.clone().sub(a).cross(c.clone().sub(a))
  const sides = [
    [a, b],
    [b, c],
    [c, a],
  ] as const
  const within = sides.every(([from, to]) => to.clone().sub(from).cross(p.clone().sub(from)).dot(normal) >= 0)
  const toPlane = normal.lengthSq() > 0 ? Math.abs(p.clone().sub(a).dot(normal)) / normal.length() : Infinity
  const toSide = sides.map(([from, to]) => {
    const side = to.clone().sub(from)
    const t = Math.min(Math.max(p.clone().sub(from).dot(side) / (side.lengthSq() || 1), 0), 1)
    return p.distanceTo(from.clone().addScaledVector(side, t))
  })
  return within ? Math.min(toPlane, ...toSide) : Math.min(...toSide)
}

/** Park and Miller 1988, for the package alone. */
function seeded(seed: number): () => number {
  let state = seed
  return () => (state = (state * 48271) % 2147483647) / 2147483647
}
