import fc from 'fast-check'
import { BoxGeometry, ConeGeometry, Matrix4, OrthographicCamera, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, testId, testPlacement, testSolid } from '../../tests/support'
import { copyId } from './copy-id'
import type { GridRule } from '../arrange/rules/grid'
import { keysOf } from '../arrange/rules'
import { release } from '../edit/release'
import { RULES } from '../arrange/rules'
import { applyChange } from '../level/change'
import { bareView } from './level-view'
import { LevelIndex } from './level-index'

// More copies than are kept one by one must be found as the placements they would be if they were released.
const [A, PART] = [testId(1), testId(900)]
const rule: GridRule = { ...RULES.grid.first, counts: [25, 8, 25], spacing: [2, 2.5, 1.5], stagger: 0.5, centred: true }
const solid = testSolid(new BoxGeometry(1, 0.5, 0.7), new ConeGeometry(0.4, 1.2, 8))

function both(translation: [number, number, number], rotation: [number, number, number, number]) {
  const make = () =>
    bareView([
      testPlacement(1, {
        kind: 'arrangement',
        own: {
          rule,
          exceptions: { '3,4,1': { move: [0.4, 0.2, 0], turn: [0, 0.6, 0, 0.8] }, '0,0,0': { hidden: true } },
        },
        translation,
        rotation,
      }),
      testPlacement(2, { kind: 'part', partId: PART, parentId: A, translation: [0.2, 0, 0.1] }),
    ])
  const [live, released] = [make(), make()]
  let next = 5000
  applyChange(released, release(released, A, () => testId(next++)).operations)
  return {
    live: { level: live, index: new LevelIndex(live, () => solid) },
    released: { level: released, index: new LevelIndex(released, () => solid) },
  }
}

const close = (a: Vector3, b: Vector3) => a.distanceTo(b) < 1e-6

describe('thousands of copies', () => {
  it('are hit by rays where placements in their stead are', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        fc.array(fc.tuple(anyVec3, anyVec3), { minLength: 20, maxLength: 20 }),
        (at, turn, rays) => {
          const { live, released } = both(at, turn)
          for (const [from, to] of rays) {
            const ray = new Ray(
              new Vector3(...from).add(new Vector3(...at)),
              new Vector3(...to).sub(new Vector3(...from)).normalize(),
            )
            if (ray.direction.lengthSq() < 0.5) continue
            const [a, b] = [live.index.raycast(ray), released.index.raycast(ray)]
            expect(a === null).toBe(b === null)
            if (!a || !b) continue
            expect(a.distance).toBeCloseTo(b.distance, 6)
            expect(a.id).toBe(A)
            // The copy that is named stands where the hit thing stands.
            if (close(a.point, b.point))
              expect(
                close(
                  new Vector3().setFromMatrixPosition(live.level.worldMatrix(a.copy!)),
                  new Vector3().setFromMatrixPosition(released.level.worldMatrix(b.id)),
                ),
              ).toBe(true)
            expect(live.index.raycastAll(ray)).toHaveLength(released.index.raycastAll(ray).length)
          }
        },
      ),
      { numRuns: 6, endOnFailure: true },
    )
  })

  it('are as large and reach as far, and are near the same boxes', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyVec3, (at, turn, towards) => {
        const { live, released } = both(at, turn)
        live.index.extents
          .sizeOf([A])!
          .forEach((value, axis) => expect(value).toBeCloseTo(released.index.extents.sizeOf([A])![axis]!, 6))
        live.index.extents
          .localSizeOf(A)!
          .forEach((value, axis) => expect(value).toBeCloseTo(released.index.extents.localSizeOf(A)![axis]!, 6))
        for (const way of [towards, [1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]] as const) {
          const direction = new Vector3(...way).normalize()
          if (direction.lengthSq() < 0.5) continue
          const reach = ({ index, level }: typeof live) => index.extents.extreme(level.subtree(A), direction)!.reach
          expect(reach(live)).toBeCloseTo(reach(released), 6)
        }
        const box = live.index.extents.boundsOf([A])
        box.min.lerp(box.max, 0.6)
        const near = ({ index }: typeof live) => {
          let count = 0
          index.near(box, () => count++)
          return count
        }
        expect(near(live)).toBe(near(released))
        expect(near(live)).toBeLessThan(5000)
        expect(live.index.shownBy(A)).toHaveLength(4999)
        // Each by itself as well, wherever in its run it is.
        const places = keysOf(rule)
        for (let i = 1; i < 400; i += 7) expect(live.index.shownBy(copyId(A, places.keyAt(i)))).toHaveLength(1)
      }),
      { numRuns: 6, endOnFailure: true },
    )
  })

  it('are taken by a frame that touches one, and by one around all of them only', () => {
    const {
      live: { index },
    } = both([0, 0, 0], [0, 0, 0, 1])
    const camera = new OrthographicCamera(-60, 60, 60, -60, 0.1, 400)
    camera.position.set(0, 200, 0)
    camera.lookAt(0, 0, 0)
    camera.updateMatrixWorld()
    const projection = new Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse)
    const all = { x0: -0.9, y0: -0.9, x1: 0.9, y1: 0.9 }
    expect(index.pickInFrame(projection, all, 'inside')).toEqual([A])
    expect(index.pickInFrame(projection, { ...all, x0: 0 }, 'inside')).toEqual([])
    expect(index.pickInFrame(projection, { ...all, x0: 0 }, 'touch')).toEqual([A])
    expect(index.pickInFrame(projection, { ...all, x0: 0.7 }, 'touch')).toEqual([])
  })
})
