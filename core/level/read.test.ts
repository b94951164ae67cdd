import { describe, expect, it } from 'vitest'
import { testId, testPlacement } from '../../tests/support'
import { RULES } from '../arrange/rules'
import { readPlacements } from './read'

const broken = { ...RULES.grid.first, rise: { by: 'expression', text: 'row > 1 ? 0.3(row-1) : 0' } }

describe('reading a level', () => {
  it('shows the sources of a rule that makes no sense, and says where it is wrong', () => {
    const { placements, unreadable } = readPlacements([
      { ...testPlacement(1, { name: 'Racks' }), kind: 'arrangement', own: { rule: broken } },
      testPlacement(2, { parentId: testId(1) }),
      testPlacement(3),
    ])
    expect(unreadable).toEqual([
      {
        id: testId(1),
        name: 'Racks',
        field: 'rule.rise.text',
        message: expect.stringContaining('calls what is no function'),
      },
    ])
    expect(placements.map(({ id, kind, parentId }) => [id, kind, parentId])).toEqual([
      [testId(1), 'group', null],
      [testId(2), 'group', testId(1)],
      [testId(3), 'group', null],
    ])
  })

  it('leaves out what makes no sense at all, and nothing else', () => {
    const { placements, unreadable } = readPlacements([
      { ...testPlacement(1), scale: [1, 0, 1] },
      testPlacement(2, { parentId: testId(1) }),
      null,
      7,
    ])
    expect(placements).toEqual([testPlacement(2, { parentId: null })])
    expect(unreadable.map(({ field }) => field)).toEqual(['scale.1', '', ''])
  })
})
