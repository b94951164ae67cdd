import { BoxGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { RULES } from '../arrange/rules'
import { lightOwn } from '../level/create'
import { bareView } from '../scene/level-view'
import { testId, testPlacement, testSolid } from '../../tests/support'
import { BUDGETS, budgetLimits, budgetRows, budgetTotals } from './budgets'

const [BOX, TWO] = [testId(101), testId(102)]
const LAYER = { id: testId(50), name: 'Goods', color: '#0e6e6e', visible: true, locked: false, order: 0 }
const SOLIDS = new Map([
  [BOX, testSolid(new BoxGeometry(1, 1, 1))],
  [TWO, testSolid(new BoxGeometry(1, 1, 1), new BoxGeometry(2, 2, 2))],
])
const facts = {
  solidOf: (id: string) => SOLIDS.get(id),
  partName: (id: string) => (id === BOX ? 'Crate' : 'Rack'),
  pictureBytes: () => 0,
}

/** Two crates of a layer in a group, a rack that a line repeats five times, a light, and a crate that is hidden. */
const level = bareView(
  [
    testPlacement(1, { name: 'Stall' }),
    testPlacement(2, { kind: 'part', partId: BOX, parentId: testId(1), layerId: LAYER.id }),
    testPlacement(3, { kind: 'part', partId: BOX, parentId: testId(1), layerId: LAYER.id }),
    testPlacement(4, { kind: 'arrangement', own: { rule: { ...RULES.line.first, count: 5 } } }),
    testPlacement(5, { kind: 'part', partId: TWO, parentId: testId(4) }),
    testPlacement(6, { kind: 'light', own: lightOwn({ light: 'point' }) }),
    testPlacement(7, { kind: 'part', partId: BOX, hidden: true }),
  ],
  { layers: [LAYER], limits: [{ id: testId(60), of: 'budget', off: false, values: { lights: 3 } }] },
)
/** A box has twelve triangles, two of them in one mesh of a single material are drawn at once. */
const BOX_TRIANGLES = 12

describe('budgets', () => {
  it('count copies as what they show, a mesh and its draws once for each row', () => {
    const rows = new Map(budgetRows(level, 'part', facts).map(row => [row.name, row]))
    expect(rows.get('Crate')!.costs).toMatchObject({ triangles: 2 * BOX_TRIANGLES, draws: 1, placements: 2 })
    expect(rows.get('Rack')!.costs).toMatchObject({ triangles: 5 * 2 * BOX_TRIANGLES, draws: 1 })
    expect(rows.get('lights')!.costs).toMatchObject({ lights: 1, triangles: 0 })
    expect(rows.get('Crate')!.things).toEqual([testId(2), testId(3)])
    expect(rows.get('Crate')!.costs.meshes).toBeCloseTo(SOLIDS.get(BOX)!.bytes / 1e6, 12)
  })

  it('are divided by layers and by groups at the top as well, to the same sum', () => {
    const sum = (by: 'part' | 'layer' | 'group') =>
      budgetRows(level, by, facts).reduce((all, { costs }) => all + costs.triangles, 0)
    expect([sum('layer'), sum('group')]).toEqual([sum('part'), sum('part')])
    const names = (by: 'layer' | 'group') =>
      budgetRows(level, by, facts).map(({ name, costs }) => `${name} ${costs.triangles}`)
    expect(names('layer').toSorted()).toEqual(['Goods 24', 'no layer 120'])
    expect(names('group').toSorted()).toEqual(['Stall 24', 'at the top 120'])
  })

  it('of all have every placement, and the limits that were set', () => {
    expect(budgetTotals(level, facts)).toMatchObject({ triangles: 144, lights: 1, placements: 7 })
    expect(budgetLimits(level)).toMatchObject({ lights: 3, draws: BUDGETS.draws.first })
  })
})
