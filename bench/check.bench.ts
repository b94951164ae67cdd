import type { BufferGeometry } from 'three'
import { Matrix4, SphereGeometry } from 'three'
import { describe, it } from 'vitest'
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

describe.each([
  ['heaps', madeUpLevel],
  ['rows', inRows],
] as const)('the level check of %s', (_name, make) => {
  let before = 0
  for (const count of [1000, 10_000, 100_000]) {
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
      let first = 0
      for (const _ of check.all()) if (first === 0 && check.findings.length > 0) first = performance.now() - start
      const whole = performance.now() - start
      const ids = [...level.placements()].map(({ id }) => id)
      const times = Array.from({ length: 21 }, (_, i) => {
        const id = ids[Math.floor((ids.length * (i + 1)) / 23)]!
        const { touched } = applyChange(level, [
          {
            do: 'put',
            id,
            fields: {
              translation: [
                level.need(id).translation[0] + 0.5,
                level.need(id).translation[1],
                level.need(id).translation[2],
              ],
            },
          },
        ])
        index.update(touched)
        const since = performance.now()
        check.recheck(touched)
        return performance.now() - since
      }).sort((a, b) => a - b)
      console.log(
        `${count} placements: whole ${whole.toFixed(0)} ms (${before ? `${(whole / before).toFixed(1)} times the one before` : ''}), first finding after ${first.toFixed(0)} ms, ${check.findings.length} findings; again after one move: median ${times[10]!.toFixed(2)} ms = 1/${Math.round(whole / times[10]!)} of the whole, worst ${times[20]!.toFixed(2)} ms`,
      )
      before = whole
    }, 600_000)
  }
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
    console.log(
      `${a.triangles} and ${b.triangles} triangles: median ${times[30]!.toFixed(1)} ms, worst ${times[59]!.toFixed(1)} ms a move`,
    )
  }, 600_000)
})
