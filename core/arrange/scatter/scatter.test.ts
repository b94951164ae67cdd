import fc from 'fast-check'
import { Matrix4 } from 'three'
import { describe, expect, it } from 'vitest'
import {
  byKey,
  deal,
  ingredient,
  keysOf,
  movedFrom,
  placesOf,
  scatterRule,
  siteFor,
  SQUARE,
  teapot,
} from '../../../tests/scatter-support'
import { Dealer, dealNow } from './deal'
import { LIMITS } from './limits'
import type { Area, ScatterRule, Stroke } from './rule'
import { scatterSchema } from './rule'

const anySeed = fc.integer({ min: 0, max: 999_999 })
const anyRule = fc
  .record({
    seed: anySeed,
    spread: fc.constantFrom('free' as const, 'even' as const, 'clumps' as const),
    apart: fc.constantFrom(0, 0.3, 0.8),
    density: fc.double({ min: 0.2, max: 3, noNaN: true }),
    keepRoom: fc.boolean(),
  })
  .map(fields =>
    scatterRule({ ...fields, mix: [ingredient(1, { room: 0.1 }), ingredient(2, { room: 0.3, size: [0.5, 1.5] })] }),
  )
const anyStroke = fc
  .record({
    x: fc.double({ min: 0, max: 20, noNaN: true }),
    z: fc.double({ min: 0, max: 20, noNaN: true }),
    radius: fc.double({ min: 0.2, max: 3, noNaN: true }),
    does: fc.constantFrom('add' as const, 'remove' as const, 'soften' as const),
    strength: fc.double({ min: 0.2, max: 1, noNaN: true }),
  })
  .map(
    ({ x, z, ...rest }): Stroke => ({
      on: 1,
      below: 0,
      points: [
        [x, 0, z],
        [20 - z, 0, x],
      ],
      ...rest,
    }),
  )
const strokes = (...all: Stroke[]): ScatterRule['paint'] => ({ begins: 'everywhere', strokes: all })
const square = (x: number, z: number, side: number, hole = false): Area => ({
  type: 'loop',
  hole,
  width: 0,
  points: [
    [x, 0, z],
    [x + side, 0, z],
    [x + side, 0, z + side],
    [x, 0, z + side],
  ],
})
const runs = { numRuns: 12, endOnFailure: true }

/** Metres from a stroke's line. */
const fromStroke = ({ points: [a, b] }: Stroke, [x, , z]: readonly number[]) => {
  const [ux, uz] = [b![0] - a![0], b![2] - a![2]]
  const t = Math.min(Math.max(((x! - a![0]) * ux + (z! - a![2]) * uz) / (ux * ux + uz * uz || 1), 0), 1)
  return Math.hypot(x! - a![0] - t * ux, z! - a![2] - t * uz)
}

describe('nothing of a scatter jumps', () => {
  it('gives the same again, to the last bit', () => {
    fc.assert(
      fc.property(anyRule, rule => {
        expect(deal(rule)).toEqual(deal(structuredClone(rule)))
      }),
      runs,
    )
  })

  it('keeps every copy when there are to be more, and only takes away when fewer', () => {
    fc.assert(
      fc.property(anyRule, fc.double({ min: 1, max: 3, noNaN: true }), (rule, factor) => {
        const [few, many] = [byKey(deal(rule)), byKey(deal({ ...rule, density: rule.density * factor }))]
        expect(movedFrom(few, many)).toEqual([])
      }),
      runs,
    )
    fc.assert(
      fc.property(anyRule, fc.integer({ min: 1, max: 200 }), fc.integer({ min: 0, max: 200 }), (rule, count, more) => {
        const [few, many] = [
          byKey(deal({ ...rule, measure: 'count', count })),
          byKey(deal({ ...rule, measure: 'count', count: count + more })),
        ]
        expect(movedFrom(few, many)).toEqual([])
      }),
      runs,
    )
  })

  it('moves nothing when weights, sizes, turns, leans or heights change', () => {
    fc.assert(
      fc.property(
        anyRule.map(rule => ({ ...rule, keepRoom: false })),
        fc.double({ min: 0.1, max: 10, noNaN: true }),
        (rule, weight) => {
          const [first, second] = rule.mix
          const other = {
            ...rule,
            mix: [
              { ...first!, weight, size: [0.5, 3] as [number, number], turn: 'steps' as const, step: 45 },
              { ...second!, lean: 1, tilt: 30 },
            ],
          }
          expect(placesOf(deal(other))).toEqual(placesOf(deal(rule)))
          const raised = placesOf(
            deal({
              ...other,
              mix: other.mix.map(each => ({ ...each, tilt: 0, lean: 0, height: [0.2, 0.4] as [number, number] })),
            }),
          )
          expect(raised.map(([x, , z]) => [x, z])).toEqual(placesOf(deal(rule)).map(([x, , z]) => [x, z]))
        },
      ),
      runs,
    )
  })

  it('shows another source only where a weight that was changed says so', () => {
    const mix = [ingredient(1), ingredient(2), ingredient(3)]
    const before = deal(scatterRule({ mix }))
    const after = deal(scatterRule({ mix: mix.with(1, ingredient(2, { weight: 3 })) }))
    expect([...after.sources].filter((source, i) => source !== before.sources[i]).length).toBeGreaterThan(20)
    after.sources.forEach((source, i) => {
      if (source !== before.sources[i]) expect(source).toBe(1)
    })
  })

  it("changes nothing outside of a stroke, nor outside of a limit's reach", () => {
    fc.assert(
      fc.property(anyRule, anyStroke, anyStroke, (rule, first, second) => {
        const [before, after] = [
          byKey(deal({ ...rule, paint: strokes(first) })),
          byKey(deal({ ...rule, paint: strokes(first, second) })),
        ]
        const far = (all: Map<string, [number, number, number]>) =>
          [...all].filter(([, place]) => fromStroke(second, place) > second.radius)
        expect(movedFrom(far(before), after)).toEqual([])
        expect(far(after)).toHaveLength(far(before).length)
      }),
      runs,
    )
    fc.assert(
      fc.property(anyRule, fc.double({ min: 0, max: 3, noNaN: true }), (rule, soft) => {
        const slope = new Matrix4().makeScale(20, 20, 20).multiply(new Matrix4().makeRotationZ(0.6)).toArray()
        const limited = { ...rule, limits: [{ ...LIMITS.height.first, from: 5, to: 9, soft, invert: true }] }
        const [all, some] = [byKey(deal(rule, siteFor(rule, slope))), byKey(deal(limited, siteFor(limited, slope)))]
        expect(
          movedFrom(
            [...all].filter(([, [, y]]) => y < 5 - soft || y > 9 + soft),
            some,
          ),
        ).toEqual([])
        expect([...some.keys()].filter(key => !all.has(key))).toEqual([])
      }),
      runs,
    )
  })

  it('changes nothing farther from a drawn area than four times what copies keep free', () => {
    fc.assert(
      fc.property(
        anyRule,
        fc.double({ min: 1, max: 12, noNaN: true }),
        fc.double({ min: 1, max: 12, noNaN: true }),
        fc.double({ min: 1, max: 6, noNaN: true }),
        (rule, x, z, side) => {
          const limits = [{ ...LIMITS.noise.first, soft: 0.4 }]
          const before = byKey(deal({ ...rule, limits, areas: [square(2, 2, 16)] }))
          const after = byKey(deal({ ...rule, limits, areas: [square(2, 2, 16), square(x, z, side, true)] }))
          const isFar = ([px, , pz]: readonly number[]) =>
            Math.max(x - px!, px! - x - side, z - pz!, pz! - z - side) > 4 * Math.max(rule.apart, 0.9)
          const far = (all: Map<string, [number, number, number]>) => [...all].filter(([, place]) => isFar(place))
          expect(movedFrom(far(before), after)).toEqual([])
          expect(movedFrom(far(after), before)).toEqual([])
        },
      ),
      runs,
    )
  })

  it('goes along with its surface', () => {
    fc.assert(
      fc.property(
        anyRule,
        fc.double({ min: -50, max: 50, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        anyStroke,
        (rule, x, turn, stroke) => {
          const painted = {
            ...rule,
            paint: strokes({ ...stroke, does: 'remove' }),
            limits: [{ ...LIMITS.noise.first }],
          }
          const at = new Matrix4().makeScale(20, 1, 20)
          const moved = new Matrix4().makeTranslation(x, x / 3, -x).multiply(new Matrix4().makeRotationY(turn))
          const [before, after] = [
            byKey(deal(painted, siteFor(painted, at.toArray()))),
            byKey(deal(painted, siteFor(painted, moved.clone().multiply(at).toArray()))),
          ]
          expect([...after.keys()].sort()).toEqual([...before.keys()].sort())
          const cos = Math.cos(turn)
          const sin = Math.sin(turn)
          for (const [key, [px, py, pz]] of before) {
            const [qx, qy, qz] = after.get(key)!
            expect(
              Math.hypot(qx - (px * cos + pz * sin + x), qy - (py + x / 3), qz - (pz * cos - px * sin - x)),
            ).toBeLessThan(1e-9)
          }
        },
      ),
      runs,
    )
  })
})

describe('a scatter', () => {
  it('keeps copies that are put down by hand on their surface, wherever that goes', () => {
    const rule = scatterRule({ measure: 'count', count: 3 })
    const added = {
      '0,4,0': {
        on: 1,
        below: 0,
        at: [3, 0, 5] as [number, number, number],
        up: [0, 1, 0] as [number, number, number],
        source: rule.mix[0]!.source,
      },
    }
    const matrix = new Matrix4()
      .makeTranslation(1, 2, 3)
      .multiply(new Matrix4().makeScale(20, 1, 20))
      .toArray()
    const dealt = deal(rule, siteFor(rule, matrix), undefined, added)
    expect(keysOf(dealt)).toHaveLength(4)
    expect(byKey(dealt).get('0,4,0')).toEqual([4, 2, 8])
  })

  it('is worked out again only from where something changed, with the same outcome', () => {
    const dealer = new Dealer(() => SQUARE)
    const again = (rule: ScatterRule) => dealNow(dealer.deal('a', rule, siteFor(rule)))
    const rule = scatterRule({ density: 5, limits: [LIMITS.noise.first] })
    for (const next of [
      rule,
      { ...rule, paint: strokes({ on: 1, below: 0, does: 'remove', points: [[5, 0, 5]], radius: 3, strength: 1 }) },
      { ...rule, limits: [] },
      { ...rule, mix: [ingredient(1, { size: [2, 2] })] },
      { ...rule, seed: 2 },
      { ...rule, density: 2 },
      rule,
    ] as ScatterRule[]) {
      expect(again(next)).toEqual(deal(next))
    }
  })

  it('stands on a surface as it is now, whatever it stood on before', () => {
    const raised = SQUARE.map(({ positions, indices }) => ({
      indices,
      positions: Array.from(positions, (value, i) => (i % 3 === 1 ? value + 2 : value)),
    }))
    const dealer = new Dealer(shape => ({ before: SQUARE, after: raised })[shape])
    const rule = scatterRule({ measure: 'count', count: 40 })
    const heights = (shape: string) => {
      const site = siteFor(rule)
      return [
        ...new Set(
          placesOf(
            dealNow(dealer.deal('a', rule, { ...site, surfaces: site.surfaces.map(each => ({ ...each, shape })) })),
          ).map(([, y]) => y),
        ),
      ]
    }
    expect([heights('before'), heights('after'), heights('before')]).toEqual([[0], [2], [0]])
    dealer.keepOnly(new Set(['after']))
    expect(heights('after')).toEqual([2])
  })

  it('first gives a rough answer, which is the beginning of the whole', () => {
    const rule = scatterRule({ density: 20, apart: 0.1 })
    const rough = dealNow(new Dealer(() => SQUARE).deal('a', rule, siteFor(rule), {}, 500))
    const whole = byKey(deal(rule))
    expect([rough.count, rough.report.rough]).toEqual([500, true])
    expect(movedFrom(byKey(rough), whole)).toEqual([])
  })

  it('stands on every side of a body along its own normal, from above only on what looks up', () => {
    const lean = scatterRule({ facing: 'normals', measure: 'count', count: 400, mix: [ingredient(1, { lean: 1 })] })
    const at = new Matrix4().makeScale(2, 2, 2).toArray()
    const dealt = deal(lean, siteFor(lean, at), { surface: teapot() })
    const ups = Array.from({ length: dealt.count }, (_, i) => dealt.matrices[i * 16 + 5]!)
    expect(ups.some(y => y < -0.3) && ups.some(y => y > 0.3)).toBe(true)
    const above = deal({ ...lean, facing: 'above' }, siteFor(lean, at), { surface: teapot() })
    expect(Array.from({ length: above.count }, (_, i) => above.matrices[i * 16 + 5]!).every(y => y > 0)).toBe(true)
  })

  it('says what is wrong, and at which field', () => {
    const problem = (rule: Partial<ScatterRule>, site: Partial<Parameters<typeof siteFor>[2]> = {}) => {
      const whole = scatterRule(rule)
      return deal(whole, siteFor(whole, undefined, site)).report.problem?.field
    }
    expect(problem({ on: [] }, { surfaces: [] })).toBe('on')
    expect(problem({ on: [], plane: true }, { surfaces: [] })).toBe('areas')
    expect(problem({ mix: [ingredient(1, { weight: 0 })] })).toBe('mix')
    expect(problem({ keepRoom: true, mix: [ingredient(1, { room: 0 })] })).toBe('keepRoom')
    expect(problem({ areas: [square(50, 50, 5)] })).toBe('areas')
    expect(problem({})).toBeUndefined()
    const message = (rule: object) => scatterSchema.safeParse({ ...scatterRule(), ...rule }).error?.issues[0]
    expect(
      message({
        areas: [
          {
            ...square(0, 0, 1),
            points: [
              [0, 0, 0],
              [1, 0, 1],
              [1, 0, 0],
              [0, 0, 1],
            ],
          },
        ],
      }),
    ).toMatchObject({ message: 'cross themselves', path: ['areas', 0, 'points'] })
    expect(message({ mix: [ingredient(1, { size: [2, 1] })] })?.message).toBe('must not begin above its end')
    expect(message({ limits: [{ ...LIMITS.slope.first, from: 20, to: 10 }] })?.message).toBe('must not be above "to"')
  })

  it('never makes more than a million, and says so; at a distance as many as fit are meant', () => {
    const on = (rule: ScatterRule, side: number) =>
      deal(rule, siteFor(rule, new Matrix4().makeScale(side, 1, side).toArray()))
    const { report, count } = on(scatterRule({ density: 10_000 }), 11)
    expect([count, report.problem]).toEqual([
      0,
      { field: 'density', message: 'It would make 1,210,000 copies; a million is the most.' },
    ])
    expect(on(scatterRule({ density: 9000 }), 10).count / 900_000).toBeCloseTo(1, 2)
    expect(on(scatterRule({ density: 10_000, apart: 1 }), 11).count).toBeGreaterThan(60)
  }, 60_000)

  it('lies on the ground plane where an area is drawn, and only there', () => {
    const rule = scatterRule({ on: [], plane: true, areas: [square(-30, 40, 10)], measure: 'count', count: 50 })
    const dealt = deal(rule, siteFor(rule, undefined, { surfaces: [] }))
    expect(dealt.report.area).toBeCloseTo(100, 6)
    expect(dealt.count).toBe(50)
    expect(placesOf(dealt).every(([x, y, z]) => y === 0 && x >= -30 && x <= -20 && z >= 40 && z <= 50)).toBe(true)
  })
})
