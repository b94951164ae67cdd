import type { BufferGeometry } from 'three'
import { Matrix4, SphereGeometry } from 'three'
import { afterAll, describe, it } from 'vitest'
import { LevelCheck } from '../core/check/check'
import { CheckSite } from '../core/check/site'
import { applyChange } from '../core/level/change'
import { nearestBetween } from '../core/mesh/clearance'
import { Placed } from '../core/mesh/placed'
import { triangleTreeOf } from '../core/mesh/triangle-tree'
import { testSolid } from '../tests/support'
import type { Vec3 } from '../core/math/vectors'
import { LevelIndex } from '../core/scene/level-index'
import { bareView } from '../core/scene/level-view'
import type { MadeUpLevel } from './made-up-level'
import { madeUpLevel } from './made-up-level'
import { reportCompared, reportGrowth } from './report'

// The level check as the worker does it: all of it, the first findings, and again after one thing was moved. Clearances
// while a mesh is dragged.

const parts = (ids: Iterable<string>) =>
  new Map([...ids].map(id => [id, { name: id, kind: 'prop' as const, tags: [], inKit: true }]))

/** The same props in rows of three metres, as a tidy level has them: nothing overlaps. */
function inRows(count: number): Pick<MadeUpLevel, 'level' | 'index' | 'solids'> {
  const { level: heaps, solids } = madeUpLevel(count)
  const side = Math.ceil(Math.sqrt(count))
  const level = bareView(
    [...heaps.placements()]
      .filter(({ kind }) => kind === 'part')
      .map((placement, i) => ({
        ...placement,
        parentId: null,
        translation: [((i % side) - side / 2) * 3, 0, (Math.floor(i / side) - side / 2) * 3] as Vec3,
      })),
  )
  return { level, index: new LevelIndex(level, shape => solids.get(shape)), solids }
}

const SIZES = [1000, 10_000, 100_000]

describe.each([
  ['heaps', 'Props strewn so that many are in each other', madeUpLevel],
  ['rows', 'Props in rows of three metres, as a tidy level has them: nothing overlaps', inRows],
] as const)('the level check of %s', (name, about, make) => {
  const rows = ['all of it', 'the first finding', 'again after one move, median', 'again after one move, worst'].map(
    what => ({ what, values: SIZES.map((): number | null => null) }),
  )
  for (const [at, count] of SIZES.entries()) {
    it(`of ${count.toLocaleString('en')} placements`, () => {
      const { level, index, solids } = make(count)
      const kit = parts(solids.keys())
      const site = new CheckSite(level, index, {
        part: id => kit.get(id),
        ids: () => kit.keys(),
        solidOf: id => solids.get(id),
      })
      const check = new LevelCheck(site)
      const start = performance.now()
      let first: number | null = null
      for (const _ of check.all()) if (first === null && check.findings.length > 0) first = performance.now() - start
      const whole = performance.now() - start
      const ids = [...level.placements()].map(({ id }) => id)
      const times = Array.from({ length: 21 }, (_, i) => {
        const id = ids[Math.floor((ids.length * (i + 1)) / 23)]!
        const [x, y, z] = level.need(id).translation
        const { touched } = applyChange(level, [{ do: 'put', id, fields: { translation: [x + 0.5, y, z] } }])
        index.update(touched)
        const since = performance.now()
        check.recheck(touched)
        return performance.now() - since
      }).sort((a, b) => a - b)
      const values = [whole, first, times[10]!, times[20]!]
      values.forEach((value, row) => (rows[row]!.values[at] = value))
    })
  }

  afterAll(() =>
    reportGrowth({
      topic: 'Checking',
      title: `The level check of ${name}`,
      about: `${about}.`,
      unit: 'ms',
      of: 'placements',
      sizes: SIZES,
      rows,
    }),
  )
})

describe('clearance', () => {
  it('of two meshes of 70,000 triangles while one is dragged', () => {
    const ball = (turn: number): BufferGeometry => new SphereGeometry(1, 264, 134).rotateX(turn)
    const [a, b] = [testSolid(ball(0)), testSolid(ball(1))]
    for (const solid of [a, b]) triangleTreeOf(solid)
    const still = new Placed(a, new Matrix4())
    const times = Array.from({ length: 60 }, (_, i) => {
      const moved = new Matrix4().makeTranslation(2.5 + Math.sin(i / 10), Math.cos(i / 9) * 0.5, i / 100)
      const since = performance.now()
      nearestBetween(still, new Placed(b, moved))
      return performance.now() - since
    }).sort((x, y) => x - y)
    reportCompared({
      topic: 'Checking',
      title: 'Clearance of two meshes while one is dragged',
      about: `${a.triangles.toLocaleString('en')} triangles each; the nearest points are found anew at each move.`,
      unit: 'ms',
      rows: [
        { what: 'a move, median', value: times[30]! },
        { what: 'a move, worst of 60', value: times[59]! },
      ],
    })
  })
})
