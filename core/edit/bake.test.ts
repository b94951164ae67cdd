import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import {
  anyQuat,
  anyScale,
  anyTree,
  anyVec3,
  farthestApart,
  meshVolume,
  testId,
  testPlacement,
  testSolid,
} from '../../tests/support'
import { BoxGeometry, ConeGeometry } from 'three'
import { bakeMesh } from '../mesh/bake-mesh'
import { applyChange } from '../level/change'
import type { BakeWhat } from './bake'
import { bake, bakeSkewed, reset } from './bake'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'
import { previewMatrices } from '../scene/preview'
import type { Operation } from '../level/schema'
import { group, reparent } from '../level/tree'

const cone = testSolid(new ConeGeometry(0.5, 2, 7), new BoxGeometry(0.4, 0.3, 0.9)).mesh
const anyWhat = fc.constantFrom<BakeWhat>('size', 'turn', 'both')
const PART = testId(500)
const BAKED = testId(501)

function vertices(level: LevelView, id: string, mesh = cone): Vector3[] {
  return mesh.primitives.flatMap(({ positions }) =>
    Array.from({ length: positions.length / 3 }, (_, i) =>
      new Vector3().fromArray(positions, i * 3).applyMatrix4(level.worldMatrix(id)),
    ),
  )
}

describe('bake', () => {
  it('changes no vertex in the world, and leaves the numbers at rest and the winding positive', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyScale, anyVec3, anyWhat, (translation, rotation, scale, pivot, what) => {
        const level = bareView([testPlacement(1, { kind: 'part', partId: PART, translation, rotation, scale, pivot })])
        const before = vertices(level, testId(1))
        const { matrix, operations, skewed } = bake(level, testId(1), what, BAKED)
        applyChange(level, operations)
        const mesh = bakeMesh(cone, matrix)
        const size = Math.max(...before.map(point => point.length()), 1)
        // Meshes hold single precision; relative to the size that is 6e-8.
        expect(farthestApart(vertices(level, testId(1), mesh), before) / size).toBeLessThan(1e-6)
        expect(skewed).toEqual([])
        expect(meshVolume(mesh)).toBeGreaterThan(0)
        const after = level.need(testId(1))
        if (what !== 'turn') expect(after.scale).toEqual([1, 1, 1])
        if (what !== 'size') expect(after.rotation).toEqual([0, 0, 0, 1])
        expect(after.translation).toEqual(translation)
      }),
    )
  })

  it('is exact in double precision: the matrix takes every point to where it was, to 1e-9 of the size', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyScale,
        anyVec3,
        anyWhat,
        anyVec3,
        (translation, rotation, scale, pivot, what, at) => {
          const level = bareView([
            testPlacement(1, { kind: 'part', partId: PART, translation, rotation, scale, pivot }),
          ])
          const before = new Vector3(...at).applyMatrix4(level.worldMatrix(testId(1)))
          const { matrix, operations } = bake(level, testId(1), what, BAKED)
          applyChange(level, operations)
          const after = new Vector3(...at).applyMatrix4(matrix).applyMatrix4(level.worldMatrix(testId(1)))
          expect(after.distanceTo(before) / Math.max(1, before.length(), ...translation.map(Math.abs))).toBeLessThan(
            1e-9,
          )
        },
      ),
    )
  })

  it('keeps normals at right angles to the faces, outside, also when mirrored', () => {
    fc.assert(
      fc.property(anyQuat, anyScale, (rotation, scale) => {
        const level = bareView([testPlacement(1, { kind: 'part', partId: PART, rotation, scale })])
        const { matrix } = bake(level, testId(1), 'both', BAKED)
        const { positions, normals, indices } = bakeMesh(testSolid(new BoxGeometry(1, 2, 3)).mesh, matrix)
          .primitives[0]!
        for (let i = 0; i < indices.length; i += 3) {
          const [a, b, c] = [0, 1, 2].map(k => new Vector3().fromArray(positions, indices[i + k]! * 3)) as [
            Vector3,
            Vector3,
            Vector3,
          ]
          const face = b.sub(a).cross(c.sub(a)).normalize()
          expect(face.dot(new Vector3().fromArray(normals, indices[i]! * 3))).toBeGreaterThan(0.9999)
        }
      }),
    )
  })

  it('for all instances gives the others numbers that make them look as before, or names them as skewed', () => {
    fc.assert(
      fc.property(
        anyQuat,
        anyScale,
        anyQuat,
        anyScale,
        anyVec3,
        anyWhat,
        (rotation, scale, otherRotation, otherScale, pivot, what) => {
          const level = bareView([
            testPlacement(1, { kind: 'part', partId: PART, rotation, scale }),
            testPlacement(2, {
              kind: 'part',
              partId: PART,
              rotation: otherRotation,
              scale: otherScale,
              pivot,
              translation: [3, 1, 2],
            }),
          ])
          const before = vertices(level, testId(2))
          const { matrix, operations, skewed } = bake(level, testId(1), what, BAKED, [testId(2)])
          applyChange(level, operations)
          if (what === 'size') expect(skewed).toEqual([])
          if (!skewed.includes(testId(2))) {
            const size = Math.max(...before.map(point => point.length()), 1)
            expect(farthestApart(vertices(level, testId(2), bakeMesh(cone, matrix)), before) / size).toBeLessThan(1e-4)
          }
        },
      ),
    )
  })

  it('leaves what hangs below where it is', () => {
    fc.assert(
      fc.property(
        anyQuat,
        anyScale.map(([x]) => [x, x, x] as [number, number, number]),
        anyVec3,
        anyQuat,
        anyWhat,
        (rotation, scale, translation, turn, what) => {
          const level = bareView([
            testPlacement(1, { kind: 'part', partId: PART, rotation, scale, pivot: [0.3, 0.1, 0.2] }),
            testPlacement(2, { kind: 'part', partId: PART, parentId: testId(1), translation, rotation: turn }),
          ])
          const before = vertices(level, testId(2))
          const { operations, skewed } = bake(level, testId(1), what, BAKED)
          applyChange(level, operations)
          expect(skewed).toEqual([])
          expect(farthestApart(vertices(level, testId(2)), before)).toBeLessThan(
            1e-5 * Math.max(1, ...before.map(point => point.length())),
          )
        },
      ),
    )
  })

  it('keeps the look of what would be skewed when it is hung elsewhere, in a shape of its own', () => {
    fc.assert(
      fc.property(anyTree(5), anyVec3, (tree, at) => {
        const level = bareView(tree.map(placement => ({ ...placement, kind: 'part' as const, partId: PART })))
        const id = tree.at(-1)!.id
        const before = new Vector3(...at).applyMatrix4(level.worldMatrix(id))
        const { operations } = reparent(level, [id], null)
        const own = bakeSkewed(level, operations, id, BAKED)!
        applyChange(level, [...operations, own.operation])
        const after = new Vector3(...at).applyMatrix4(own.matrix).applyMatrix4(level.worldMatrix(id))
        expect(after.distanceTo(before) / Math.max(1, before.length())).toBeLessThan(1e-9)
      }),
    )
  })

  it('does so in a new group as well, and not for what other things hang from', () => {
    const skewing = [
      testPlacement(1, { scale: [3, 1, 1], kind: 'part', partId: PART }),
      testPlacement(2, {
        parentId: testId(1),
        rotation: [0, 0, 0.6, 0.8],
        kind: 'part',
        partId: PART,
        translation: [1, 2, 3],
      }),
    ]
    const level = bareView(skewing)
    const { operations } = group(level, new Set([testId(2)]), testId(9), 'Group', [4, 0, 0])
    const before = new Vector3(1, 1, 1).applyMatrix4(level.worldMatrix(testId(2)))
    const own = bakeSkewed(level, operations, testId(2), BAKED)!
    applyChange(level, [...operations, own.operation])
    expect(
      new Vector3(1, 1, 1)
        .applyMatrix4(own.matrix)
        .applyMatrix4(level.worldMatrix(testId(2)))
        .distanceTo(before),
    ).toBeLessThan(1e-9)
    expect(bakeSkewed(level, [], testId(1), BAKED)).toBeNull()
  })

  it('refuses to flatten', () => {
    expect(() =>
      bakeMesh(
        cone,
        bake(bareView([testPlacement(1, { kind: 'part', partId: PART })]), testId(1), 'size', BAKED).matrix.makeScale(
          1,
          0,
          1,
        ),
      ),
    ).toThrow(RangeError)
  })

  it('has its opposite: reset throws the number away', () => {
    const placement = testPlacement(1, { scale: [2, 3, 4], rotation: [0, 1, 0, 0] })
    expect(reset(placement, 'size')).toEqual({ scale: [1, 1, 1] })
    expect(reset(placement, 'turn')).toEqual({ rotation: [0, 0, 0, 1] })
  })
})

describe('previewMatrices', () => {
  it('are those the level has once the operations are done, for whatever they move', () => {
    fc.assert(
      fc.property(
        anyTree(8),
        anyTree(3),
        fc.array(fc.nat(), { minLength: 1, maxLength: 4 }),
        (tree, changes, which) => {
          const level = bareView(tree)
          const operations = which.map((n, i): Operation => {
            const { translation, rotation, scale } = changes[i % changes.length]!
            return { do: 'put', id: tree[n % tree.length]!.id, fields: { translation, rotation, scale } }
          })
          const shown = previewMatrices(level, operations)
          applyChange(level, operations)
          for (const { id } of tree) {
            const moves = operations.some(operation => level.isWithin(id, operation.id))
            expect(shown.has(id)).toBe(moves)
            if (moves) expect(shown.get(id)!.elements).toEqual(level.worldMatrix(id).elements)
          }
        },
      ),
    )
  })
})
