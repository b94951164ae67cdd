import { describe, expect, it } from 'vitest'
import { testId, testPlacement } from '../../tests/support'
import { RULES } from '../arrange/rules'
import { censusOf, printCensus } from './census'
import { bareView } from './level-view'

const crate = { kind: 'part' as const, partId: testId(99) }

describe('how much is in a level', () => {
  it('are things as the roster lists them, and the copies that arrangements make; one without sources makes none', () => {
    const level = bareView([
      testPlacement(1, crate),
      testPlacement(2, { kind: 'group' }),
      testPlacement(3, { ...crate, parentId: testId(2) }),
      testPlacement(4, { kind: 'arrangement', own: { rule: { ...RULES.grid.first, counts: [4, 1, 3] } } }),
      testPlacement(5, { ...crate, parentId: testId(4) }),
      testPlacement(6, { kind: 'arrangement', own: { rule: RULES.line.first } }),
    ])
    expect(censusOf(level)).toEqual({ things: 6, copies: 12, scatters: 0 })
  })

  it('says which scatters are not dealt yet instead of counting nothing', () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: { rule: RULES.scatter.first } }),
      testPlacement(2, { ...crate, parentId: testId(1) }),
    ])
    expect(censusOf(level)).toEqual({ things: 2, copies: 0, scatters: 1 })
  })

  it('is said in words that go with the numbers', () => {
    expect([
      printCensus({ things: 1, copies: 0, scatters: 0 }),
      printCensus({ things: 34, copies: 1, scatters: 0 }),
      printCensus({ things: 1200, copies: 423, scatters: 2 }),
    ]).toEqual(['1 thing', '34 things, 1 copy', '1,200 things, 423 copies, 2 scatters to be dealt'])
  })
})
