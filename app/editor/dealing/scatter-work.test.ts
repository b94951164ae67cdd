import { Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Dealt } from '~~/core/arrange/scatter/deal'
import type { ScatterRule } from '~~/core/arrange/scatter/rule'
import type { ScatterSite } from '~~/core/arrange/scatter/site'
import { deal, placesOf, scatterRule, siteFor, SQUARE } from '../../../tests/scatter-support'
import { scatterWork } from './scatter-work'

const quiet = [() => {}, () => {}] as const
const knowing = () => {
  const work = scatterWork()
  work.know('surface', SQUARE)
  return work
}

describe('dealing in a worker', () => {
  it('comes to what dealing at once does, first roughly where it takes long', async () => {
    const rule = scatterRule({ density: 20, apart: 0.12 })
    const [rough, shares]: [Dealt[], number[]] = [[], []]
    const dealt = await knowing().deal(
      'lawn',
      1,
      rule,
      siteFor(rule),
      {},
      share => shares.push(share),
      some => rough.push(some),
    )
    expect(placesOf(dealt!)).toEqual(placesOf(deal(rule)))
    for (const some of rough) expect([some.report.rough, some.count]).toEqual([true, 3000])
    expect(shares.every(share => share >= 0 && share <= 1)).toBe(true)
  })

  it('answers the newest of several questions alone, and none that was called off', async () => {
    const work = knowing()
    // Each takes many times as long as it works at a time.
    const [slow, quick, other] = [1, 2, 3].map(seed => scatterRule({ density: 60, apart: 0.08, seed })) as [
      ScatterRule,
      ScatterRule,
      ScatterRule,
    ]
    const first = work.deal('lawn', 1, slow, siteFor(slow), {}, ...quiet)
    const second = work.deal('lawn', 2, quick, siteFor(quick), {}, ...quiet)
    expect([await first, placesOf((await second)!)]).toEqual([null, placesOf(deal(quick))])
    const third = work.deal('lawn', 3, other, siteFor(other), {}, ...quiet)
    work.cancel('lawn')
    expect(await third).toBeNull()
  })

  it('keeps where a scatter is, until that is said anew or the scatter is forgotten', async () => {
    const work = knowing()
    const rule = scatterRule({ measure: 'count', count: 5 })
    const at = (height: number) =>
      siteFor(
        rule,
        new Matrix4()
          .makeTranslation(0, height, 0)
          .scale(new Vector3(20, 1, 20))
          .toArray(),
      )
    const heights = async (site: ScatterSite | null, request: number) => [
      ...new Set(placesOf((await work.deal('a', request, rule, site, {}, ...quiet))!).map(([, y]) => y)),
    ]
    expect([await heights(at(1), 1), await heights(null, 2), await heights(at(3), 3), await heights(null, 4)]).toEqual([
      [1],
      [1],
      [3],
      [3],
    ])
    expect(work.tint('a', rule, null, -1).positions.length).toBeGreaterThan(0)
    work.forget('a')
    await expect(heights(null, 5)).rejects.toThrow('nothing is known')
  })

  it('lets go of meshes that are no more in use', async () => {
    const work = knowing()
    const rule = scatterRule({ measure: 'count', count: 5 })
    work.keepOnly(new Set(['another']))
    const [gone, back] = [
      await work.deal('a', 1, rule, siteFor(rule), {}, ...quiet),
      (work.know('surface', SQUARE), await work.deal('b', 2, rule, siteFor(rule), {}, ...quiet)),
    ]
    expect([gone!.count, gone!.report.problem?.field, back!.count]).toEqual([0, 'on', 5])
  })
})
