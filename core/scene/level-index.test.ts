import fc from 'fast-check'
import { Box3, BoxGeometry, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyTree, testId, testPlacement } from '../../tests/support'
import { MeshBuilder } from '../mesh/mesh-builder'
import { applyChange } from '../level/change'
import { bareView } from './level-view'
import type { Placement } from '../level/schema'
import { degreesToQuat } from '../math/transform'
import { LevelIndex } from './level-index'
import { Solid } from '../mesh/solid'

const plain = { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] } as const
const box = new Solid(new MeshBuilder().add({ ...plain }, new BoxGeometry(1, 2, 3)).build())
const thing = { kind: 'part' as const, partId: testId(99) }

function start(...placements: Partial<Placement>[]) {
  const level = bareView(placements.map((fields, i) => testPlacement(i + 1, { ...thing, ...fields })))
  return { level, index: new LevelIndex(level, () => box) }
}

const along = (x: number, y: number) => new Ray(new Vector3(x, y, 50), new Vector3(0, 0, -1))

describe('everything on a ray', () => {
  it('comes nearest first, each thing once, without what is not asked for', () => {
    const { index } = start(
      { translation: [0, 0, -5] },
      { translation: [0, 0, 5] },
      { translation: [9, 0, 0] },
      { translation: [0, 0, 0] },
    )
    const hits = index.raycastAll(along(0, 1))
    expect(hits.map(hit => hit.id)).toEqual([testId(2), testId(4), testId(1)])
    // Half the depth of 3 m in front of each middle.
    hits.map(hit => hit.distance).forEach((distance, i) => expect(distance).toBeCloseTo([43.5, 48.5, 53.5][i]!, 6))
    expect(index.raycastAll(along(0, 1), id => id !== testId(4)).map(hit => hit.id)).toEqual([testId(2), testId(1)])
    expect(index.raycast(along(0, 1))!.id).toBe(testId(2))
  })
})

describe('what changes touch', () => {
  it('leaves the index as one made anew would be', () => {
    fc.assert(
      fc.property(
        anyTree(8),
        fc.array(fc.record({ n: fc.nat(7), hidden: fc.boolean(), x: fc.integer({ min: -20, max: 20 }) }), {
          maxLength: 6,
        }),
        (tree, edits) => {
          const level = bareView(tree.map(placement => ({ ...placement, ...thing })))
          const index = new LevelIndex(level, () => box)
          for (const { n, hidden, x } of edits) {
            const id = testId((n % tree.length) + 1)
            index.update(applyChange(level, [{ do: 'put', id, fields: { hidden, translation: [x, 0, 0] } }]).touched)
          }
          const anew = new LevelIndex(level, () => box)
          const all = (of: LevelIndex) => of.bounds(new Box3())
          expect(all(index).isEmpty()).toBe(all(anew).isEmpty())
          if (!all(anew).isEmpty()) {
            expect(all(index).min.distanceTo(all(anew).min)).toBeLessThan(1e-9)
            expect(all(index).max.distanceTo(all(anew).max)).toBeLessThan(1e-9)
          }
          for (const y of [0.5, 5, -7])
            expect(index.raycastAll(along(y, y)).map(hit => hit.id)).toEqual(
              anew.raycastAll(along(y, y)).map(hit => hit.id),
            )
        },
      ),
    )
  })

  it('takes out what was removed, with what layers and stations are called passing by', () => {
    const { level, index } = start({})
    index.update(applyChange(level, [{ do: 'remove', id: testId(1) }]).touched)
    index.update([testId(500)])
    expect(index.bounds().isEmpty()).toBe(true)
    expect(index.raycast(along(0, 1))).toBeNull()
  })
})

describe('sizes', () => {
  it("are along the thing's own axes, as large as it is in the world, and along the world's", () => {
    const { index } = start(
      { kind: 'group', partId: null, scale: [2, 2, 2] },
      { parentId: testId(1), rotation: degreesToQuat([0, 90, 0]), scale: [1, 1.5, 1] },
    )
    index.extents.localSizeOf(testId(2))!.forEach((side, i) => expect(side).toBeCloseTo([2, 6, 6][i]!, 6))
    index.extents.sizeOf([testId(2)])!.forEach((side, i) => expect(side).toBeCloseTo([6, 6, 2][i]!, 6))
    // A group is as large as what is in it.
    index.extents.localSizeOf(testId(1))!.forEach((side, i) => expect(side).toBeCloseTo([6, 6, 2][i]!, 6))
  })

  it('of what shows nothing are none', () => {
    const { index } = start({ kind: 'group', partId: null })
    expect(index.extents.localSizeOf(testId(1))).toBeNull()
    expect(index.extents.sizeOf([testId(1)])).toBeNull()
    expect(index.extents.boundsOf([testId(1)]).isEmpty()).toBe(true)
  })
})
