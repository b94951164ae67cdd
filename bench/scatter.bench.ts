import { Matrix4, PlaneGeometry } from 'three'
import PoissonDiskSampling from 'poisson-disk-sampling'
import { it } from 'vitest'
import { Dealer, dealNow } from '../core/arrange/scatter/deal'
import { LIMITS } from '../core/arrange/scatter/limits'
import type { ScatterRule } from '../core/arrange/scatter/rule'
import type { Skin } from '../core/arrange/scatter/site'
import { deal, ingredient, scatterRule, siteFor, skinOf, SQUARE } from '../tests/scatter-support'
import { median } from './made-up-level'
import { reportCompared } from './report'

// At equal distance and area, about 65,000 points; ours are as full as the package's, or a little fuller.
it('65,000 points at a smallest distance on a plane', () => {
  const matrix = new Matrix4().makeScale(306, 1, 306).toArray()
  const rule = (density: number) => scatterRule({ apart: 1, density, facing: 'normals' })
  const site = siteFor(rule(1), matrix)
  const other = median(5, () => void new PoissonDiskSampling({ shape: [306, 306], minDistance: 1, tries: 30 }).fill())
  const [full, most] = [median(5, () => void deal(rule(10_000), site)), median(5, () => void deal(rule(0.5), site))]
  reportCompared({
    topic: 'Repeating and scattering',
    title: 'A scatter of 65,000 copies at a smallest distance',
    about:
      'A plane of 306 m a side, one metre between any two. The reference only makes points; ours stay where they are when something else changes.',
    unit: 'ms',
    reference: 'poisson-disk-sampling',
    doesTheSame: true,
    rows: [
      { what: 'poisson-disk-sampling', value: other },
      { what: 'until it is full', value: full, against: other },
      { what: 'four fifths of that', value: most, against: other },
    ],
  })
})

it('over 20,000 triangles with four limits', () => {
  const hills = new PlaneGeometry(200, 200, 100, 100).rotateX(-Math.PI / 2)
  const position = hills.getAttribute('position')
  for (let i = 0; i < position.count; i++)
    position.setY(i, 4 * Math.sin(position.getX(i) / 9) * Math.cos(position.getZ(i) / 7))
  const skins: Record<string, Skin> = { surface: skinOf(hills), other: SQUARE }
  const things = Array.from({ length: 100 }, (_, i) => ({
    shape: 'other',
    matrix: Array.from(new Matrix4().makeTranslation((i % 10) * 20 - 95, 2, Math.floor(i / 10) * 20 - 95).elements),
  }))
  const limits: ScatterRule['limits'] = [
    { ...LIMITS.slope.first, to: 50 },
    { ...LIMITS.height.first, from: -5 },
    { ...LIMITS.things.first, from: 1 },
    { ...LIMITS.noise.first, from: 0.2 },
  ]
  const rule = (count: number) => scatterRule({ measure: 'count', count, mix: [ingredient(1), ingredient(2)], limits })
  const site = siteFor(rule(1), new Matrix4().toArray(), {
    things: limits.map(({ type }) => (type === 'things' ? things : [])),
  })
  const fresh = () => new Dealer(shape => skins[shape])
  const all = (count: number, roughly?: number) =>
    median(5, () => void dealNow(fresh().deal('a', rule(count), site, {}, roughly)))
  const [few, whole, first] = [all(10_000), all(100_000), all(100_000, 3000)]
  const dealer = fresh()
  dealNow(dealer.deal('a', rule(100_000), site))
  let strokes = 0
  const painted = (at: number): ScatterRule => ({
    ...rule(100_000),
    paint: {
      begins: 'everywhere',
      strokes: [
        {
          on: 1,
          below: 0,
          does: 'remove',
          radius: 2,
          strength: 1,
          points: [
            [at, 0, 0],
            [at, 0, 5],
          ],
        },
      ],
    },
  })
  const stroke = median(9, () => void dealNow(dealer.deal('a', painted(strokes++), site)))
  const bytes = JSON.stringify(painted(0).paint.strokes).length
  reportCompared({
    topic: 'Repeating and scattering',
    title: 'A scatter over hills of 20,000 triangles with four limits',
    about: `Slope, height, distance from things and noise. Saved for a straight stroke: ${bytes} bytes.`,
    unit: 'ms',
    reference: '100,000 copies',
    rows: [
      { what: '100,000 copies', value: whole },
      { what: '10,000 copies', value: few, against: whole },
      { what: 'the first 3,000 of 100,000', value: first, against: whole },
      { what: 'one stroke over 100,000', value: stroke, against: whole },
    ],
  })
})
