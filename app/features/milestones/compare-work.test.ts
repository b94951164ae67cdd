import { describe, expect, it } from 'vitest'
import { RULES } from '~~/core/arrange/rules'
import { toColumns } from '~~/core/level/columns'
import { Level, recordsOf } from '~~/core/level/level'
import type { Placement } from '~~/core/level/schema'
import { testId, testPlacement } from '../../../tests/support'
import { compareWork } from './compare-work'

const part = (number: number, more: Partial<Placement> = {}) =>
  testPlacement(number, { kind: 'part', partId: testId(1000), ...more })

function opened(here: Placement[], there: Placement[], base: Placement[] | null = null) {
  const work = compareWork()
  const records = recordsOf(new Level())
  work.take('here', toColumns(here))
  work.take('there', toColumns(there))
  if (base) work.take('base', toColumns(base))
  return { work, news: work.open({ here: records, there: records, base: base && records }, 'since') }
}

describe('the work of comparing', () => {
  it('tells what there is to list, and follows what is done here', () => {
    const { work, news } = opened([part(1), part(2)], [part(1, { translation: [0, 3, 4] }), part(3)])
    expect(news.rows.map(({ id, effects, is }) => [id, effects, is])).toEqual([
      [testId(2), ['added'], 'only here'],
      [testId(3), ['gone'], 'only there'],
      [testId(1), ['moved'], 'on both'],
    ])
    expect([news.all, news.conflicts, news.counts.moved]).toEqual([3, 0, 1])
    expect(work.say(`/${testId(1)}`)).toMatchObject({
      way: { moved: 5, turned: 0 },
      values: [{ path: ['translation'] }],
    })
    const { operations } = work.taking({ keys: [`/${testId(1)}`] })
    expect(work.change(operations).rows.map(({ id }) => id)).toEqual([testId(2), testId(3)])
    expect(work.taking({ effect: 'gone', but: [] }).operations).toMatchObject([{ do: 'put', id: testId(3) }])
    expect(work.taking({ effect: null, but: [`/${testId(2)}`] }).asked).toBe(1)
  })

  it('takes of things all that hangs from them, here or there', () => {
    const { work } = opened(
      [part(1), part(2, { parentId: testId(1), hidden: true }), part(4)],
      [part(1), part(2, { parentId: testId(1) }), part(3, { parentId: testId(1) }), part(4, { locked: true })],
    )
    const { operations } = work.taking({ things: [testId(1)] })
    expect(operations.map(({ id }) => id).toSorted()).toEqual([testId(2), testId(3)])
  })

  it('leaves what was changed here alone, and counts what was changed on both', () => {
    const base = [part(1), part(2), part(3)]
    const { work, news } = opened(
      [part(1, { hidden: true }), part(2), part(3, { name: 'Mine' })],
      [part(1), part(2, { hidden: true }), part(3, { name: 'Theirs' })],
      base,
    )
    expect(news.conflicts).toBe(1)
    expect(work.taking({ effect: null, but: [`/${testId(3)}`] }).operations).toEqual([
      { do: 'put', id: testId(2), fields: { hidden: true } },
    ])
  })

  it('says where things and copies are there, in the world, and no more than can be drawn', () => {
    const line: Placement = testPlacement(1, {
      kind: 'arrangement',
      translation: [0, 0, 5],
      own: { rule: { ...RULES.line.first, count: 3, along: [2, 0, 0] } },
    })
    const { work } = opened([], [line, part(2, { parentId: testId(1) }), part(3, { translation: [1, 2, 3] })])
    const [row, thing] = work.places([`/${testId(1)}`, `/${testId(3)}`])
    expect(row!.shapes).toHaveLength(1)
    const { matrices } = row!.shapes[0]!
    expect([0, 1, 2].map(i => [...matrices.slice(i * 16 + 12, i * 16 + 15)])).toEqual([
      [0, 0, 5],
      [2, 0, 5],
      [4, 0, 5],
    ])
    expect(thing!.at).toEqual([1, 2, 3])
    expect(work.places([`/${testId(99)}`])).toEqual([])
  })
})
