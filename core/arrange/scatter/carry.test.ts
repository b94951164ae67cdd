import fc from 'fast-check'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { byKey, deal, ingredient, scatterRule, siteFor } from '../../../tests/scatter-support'
import { carried, waysBetween, wayBetween } from './carry'

const number = (most: number) => fc.double({ min: -most, max: most, noNaN: true })
const anyPlace = fc
  .tuple(number(50), number(5), number(50), number(1), number(1), number(1), number(1))
  .filter(([, , , ...turn]) => Math.hypot(...turn) > 0.1)
  .map(([x, y, z, ...turn]) =>
    new Matrix4().compose(new Vector3(x, y, z), new Quaternion(...turn).normalize(), new Vector3(1, 1, 1)),
  )
const slab = new Matrix4().makeScale(20, 1, 20)
const leaning = ingredient(1, { lean: 1 })

describe('copies that go along', () => {
  it('stand as they are dealt where their surface has gone, in whatever axes: property', () => {
    fc.assert(
      fc.property(anyPlace, anyPlace, anyPlace, (way, from, to) => {
        const rule = scatterRule({ measure: 'count', count: 20, facing: 'normals', mix: [leaning] })
        const site = (surface: Matrix4, toWorld: Matrix4) =>
          siteFor(rule, surface.toArray(), { toWorld: [...toWorld.elements] })
        const [before, after] = [site(slab, from), site(way.clone().multiply(slab), to)]
        const anew = deal(rule, after)
        const gone = carried(deal(rule, before), {}, waysBetween(before, after), from, to)
        expect(gone.keys).toEqual(anew.keys)
        gone.matrices.forEach((value, i) => expect(value).toBeCloseTo(anew.matrices[i]!, 6))
      }),
      { numRuns: 40 },
    )
  })

  it('go with their own surface where there are several, and stay where theirs stays or is sized', () => {
    const rule = scatterRule({ measure: 'count', count: 60, facing: 'normals' })
    const surfaces = (...places: [x: number, size: number][]) =>
      siteFor(rule, undefined, {
        surfaces: places.map(([x, size], i) => ({
          stream: i + 1,
          below: 0,
          owner: '',
          shape: 'surface',
          matrix: new Matrix4()
            .makeTranslation(x, 0, 0)
            .scale(new Vector3(size, 1, 5))
            .toArray(),
        })),
      })
    const [before, after] = [surfaces([0, 5], [10, 5], [20, 5]), surfaces([0, 5], [13, 5], [20, 6])]
    const dealt = deal({ ...rule, on: [1, 2, 3].map(stream => ({ id: '', stream })) }, before)
    const ways = waysBetween(before, after)
    expect([...ways.keys()]).toEqual([2])
    const [stood, stands] = [byKey(dealt), byKey(carried(dealt, {}, ways, new Matrix4(), new Matrix4()))]
    const moved = [...stood].map(([key, [x]]) => [key.split(',')[0], Math.round((stands.get(key)![0] - x) * 1e6) / 1e6])
    expect(new Set(moved.map(String))).toEqual(new Set(['1,0', '2,3', '3,0']))
  })

  it('take what was put down by hand along with its surface', () => {
    const rule = scatterRule({ measure: 'count', count: 1 })
    const added = { '0,7,0': { on: 1, below: 0, at: [3, 0, 4], up: [0, 1, 0], source: rule.mix[0]!.source } }
    const [before, after] = [
      siteFor(rule),
      siteFor(rule, new Matrix4().makeTranslation(2, 0, 0).multiply(slab).toArray()),
    ]
    const dealt = deal(rule, before, undefined, added as never)
    const gone = byKey(carried(dealt, added as never, waysBetween(before, after), new Matrix4(), new Matrix4()))
    expect([byKey(dealt).get('0,7,0'), gone.get('0,7,0')]).toEqual([
      [3, 0, 4],
      [5, 0, 4],
    ])
  })

  it('have no way where something is sized, mirrored, or flat', () => {
    const stood = new Matrix4()
    expect(
      [new Matrix4().makeScale(1, 2, 1), new Matrix4().makeScale(-1, 1, 1), new Matrix4().makeScale(1, 0, 1)].map(
        each => wayBetween(stood, each),
      ),
    ).toEqual([null, null, null])
    expect(wayBetween(new Matrix4().makeScale(1, 0, 1), stood)).toBeNull()
    // What is sized and then only moved has one.
    const sized = new Matrix4().makeScale(2, 3, 4)
    expect(wayBetween(sized, new Matrix4().makeTranslation(1, 2, 3).multiply(sized))!.elements.slice(12, 15)).toEqual([
      1, 2, 3,
    ])
  })
})
