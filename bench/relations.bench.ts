import { it } from 'vitest'
import { BoxGeometry } from 'three'
import { applyChange } from '../core/level/change'
import { createPlacement } from '../core/level/create'
import type { RelationRule } from '../core/level/relation'
import type { Operation } from '../core/level/schema'
import type { Vec3 } from '../core/math/vectors'
import { withRelations } from '../core/relate/keep'
import { LevelIndex } from '../core/scene/level-index'
import { bareView } from '../core/scene/level-view'
import { testId, testSolid } from '../tests/support'
import { median } from './made-up-level'
import { reportGrowth } from './report'

// Script time of one pointer move of a drag of something that others are kept to.
const RULES: Record<string, RelationRule> = {
  'stand on it': { kind: 'on', rest: 'lowest', leaning: false, offset: 0, stays: false },
  'are flush with it': { kind: 'flush', against: [0, 1, 0], face: [0, -1, 0], opposite: true, gap: 0, turns: true },
}

/** A slab, and crates on it in rows that are kept to it. */
function slabWith(count: number, rule: RelationRule) {
  const side = Math.ceil(Math.sqrt(count))
  const placed = (number: number, translation: Vec3) =>
    createPlacement({
      id: testId(number),
      name: 'Thing',
      kind: 'part',
      partId: testId(number === 1 ? 1 : 2),
      translation,
    })
  const crates = Array.from({ length: count }, (_, i) =>
    placed(i + 2, [(i % side) * 1.5 - side * 0.7, 1, Math.floor(i / side) * 1.5 - side * 0.7]),
  )
  const level = bareView([placed(1, [0, 0, 0]), ...crates])
  const solids = [new BoxGeometry(side * 2, 1, side * 2), new BoxGeometry(1, 1, 1)].map(each => testSolid(each))
  const index = new LevelIndex(level, shape => solids[shape === testId(1) ? 0 : 1])
  applyChange(
    level,
    crates.map(({ id }, i): Operation => {
      const holders = [{ at: [0, 1, 0] as Vec3, on: testId(1), point: [0, 1, 0] as Vec3 }]
      return { do: 'put-relation', id: testId(50_000 + i), fields: { held: id, point: [0, 0, 0], holders, rule } }
    }),
  )
  return { level, index }
}

it('one pointer move of what others are kept to', () => {
  const sizes = [1, 100, 10_000]
  const rows = Object.entries(RULES).flatMap(([what, rule]) =>
    (['lifted', 'moved aside'] as const).map(how => ({
      what: `${how}, others ${what}`,
      values: sizes.map(count => {
        const { level, index } = slabWith(count, rule)
        return median(15, i => {
          const way = (i + 1) / 100
          const translation: Vec3 = how === 'lifted' ? [0, way, 0] : [way, 0, 0]
          withRelations(level, index, [{ do: 'put', id: testId(1), fields: { translation } }])
        })
      }),
    })),
  )
  reportGrowth({
    topic: 'Picking and moving',
    title: 'One pointer move of what others are kept to',
    about: 'Crates on a slab that is dragged; until it is known where all of them go, without drawing them.',
    unit: 'ms',
    of: 'that are kept to it',
    sizes,
    rows,
  })
})
