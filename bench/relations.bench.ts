import { it } from 'vitest'
import { BoxGeometry } from 'three'
import { applyChange } from '../core/level/change'
import { createPlacement } from '../core/level/create'
import type { RelationRule } from '../core/level/relation'
import type { Operation } from '../core/level/schema'
import type { Vec3 } from '../core/math/vectors'
import { puttingRelations } from '../core/edit/copied'
import { withRelations } from '../core/relate/keep'
import { onOffers } from '../core/relate/suggest'
import { LevelIndex } from '../core/scene/level-index'
import { bareView } from '../core/scene/level-view'
import { testId, testSolid } from '../tests/support'
import { median } from './made-up-level'
import { reportCompared, reportGrowth } from './report'

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

it('what is kept by many at once, and by none', () => {
  const stand = RULES['stand on it']!
  const bank = slabWith(5000, stand)
  const fresh = slabWith(1000, stand)
  const crates = [...fresh.level.relations.values()].map(({ held }) => held)
  applyChange(
    fresh.level,
    [...fresh.level.relations.values()].map(({ id }): Operation => ({ do: 'remove-relation', id })),
  )
  const none = slabWith(1000, stand)
  applyChange(
    none.level,
    [...none.level.relations.values()].map(({ id }): Operation => ({ do: 'remove-relation', id })),
  )
  const move = (level: typeof none.level, index: typeof none.index) => (i: number) =>
    void withRelations(level, index, [{ do: 'put', id: testId(2), fields: { translation: [i / 100, 1, 0] } }])
  reportCompared({
    topic: 'Picking and moving',
    title: 'What is kept by many at once, and by none',
    about:
      'Until all crates stand on a slab that was made anew; until a thousand that stand on one are kept there; and one pointer move of a crate where nothing is kept, against one where a thousand others are.',
    unit: 'ms',
    reference: 'where others are kept',
    rows: [
      {
        what: '5,000 on a slab that is made anew',
        value: median(5, () => void withRelations(bank.level, bank.index, [], [testId(1)])),
      },
      {
        what: '1,000 kept where they stand',
        value: median(5, () => {
          const offers = crates.flatMap(id => onOffers(fresh.level, fresh.index, id))
          withRelations(
            fresh.level,
            fresh.index,
            puttingRelations(offers, () => testId(70_000 + next++)),
          )
        }),
      },
      {
        what: 'a move where nothing is kept',
        value: median(50, move(none.level, none.index)),
        against: median(50, move(bank.level, bank.index)),
      },
    ],
  })
})

let next = 0
