import bunny from 'bunny'
import fc from 'fast-check'
import { BufferAttribute, BufferGeometry, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { applyChange } from '../../core/level/change'
import { LevelIndex } from '../../core/scene/level-index'
import type { Mesh } from '../../core/mesh/mesh'
import { Solid } from '../../core/mesh/solid'
import type { LevelView } from '../../core/scene/level-view'
import { bareView } from '../../core/scene/level-view'
import { anyQuat, anyScale, anyVec3, testId, testPlacement } from '../support'

/** The Stanford bunny (Stanford University Computer Graphics Laboratory), as the package `bunny` carries it. */
const mesh = bunnyMesh()
const solid = new Solid(mesh)

function bunnyMesh(): Mesh {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(bunny.positions.flat()), 3))
  geometry.setIndex(bunny.cells.flat())
  geometry.computeVertexNormals()
  return {
    primitives: [
      {
        material: { name: 'Stone', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] },
        positions: geometry.getAttribute('position').array as Float32Array,
        normals: geometry.getAttribute('normal').array as Float32Array,
        indices: Uint32Array.from(geometry.getIndex()!.array),
      },
    ],
  }
}

/**
 * Distance along a ray to a triangle's front, or Infinity, written out after Möller and Trumbore, "Fast, Minimum
 * Storage Ray/Triangle Intersection", 1997 (from memory), with the culling branch; the ray's direction need not be of
 * unit length.
 */
function mollerTrumbore(origin: Vector3, direction: Vector3, a: Vector3, b: Vector3, c: Vector3): number {
  const [edge1, edge2] = [b.clone().sub(a), c.clone().sub(a)]
  const p = direction.clone().cross(edge2)
  const det = edge1.dot(p)
  if (det <= 0) return Infinity
  const t = origin.clone().sub(a)
  const u = t.dot(p)
  if (u < 0 || u > det) return Infinity
  const q = t.cross(edge1)
  const v = direction.dot(q)
  if (v < 0 || u + v > det) return Infinity
  const distance = edge2.dot(q) / det
  return distance >= 0 ? distance : Infinity
}

/**
 * The nearest front over all triangles of all placements, each transformed to the world with the winding glTF asks for.
 */
function bruteForce(level: LevelView, ray: Ray): { id: string; distance: number } | null {
  let best: { id: string; distance: number } | null = null
  const { positions, indices } = mesh.primitives[0]!
  for (const { id } of level.placements()) {
    const matrix = level.worldMatrix(id)
    // glTF 2.0, 3.7.4: a negative determinant turns the winding of the triangles round.
    const mirrored = matrix.determinant() < 0
    const corner = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3).applyMatrix4(matrix)
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [corner(i), corner(mirrored ? i + 2 : i + 1), corner(mirrored ? i + 1 : i + 2)]
      const distance = mollerTrumbore(ray.origin, ray.direction, a!, b!, c!)
      if (distance < (best?.distance ?? Infinity)) best = { id, distance }
    }
  }
  return best
}

describe('a ray against the level', () => {
  it('meets what looking at every triangle of every bunny meets', () => {
    const anyPlace = fc.record({ translation: anyVec3, rotation: anyQuat, scale: anyScale })
    let hits = 0
    fc.assert(
      fc.property(
        fc.array(anyPlace, { minLength: 1, maxLength: 5 }),
        anyVec3,
        fc.nat(),
        fc.nat(),
        (places, from, which, vertex) => {
          const level = bareView(
            places.map((place, i) => testPlacement(i + 1, { kind: 'part', partId: testId(99), ...place })),
          )
          const index = new LevelIndex(level, () => solid)
          // Aimed near a vertex of one of them, so that most rays hit something.
          const aim = new Vector3(...bunny.positions[vertex % bunny.positions.length]!)
            .multiplyScalar(0.97)
            .applyMatrix4(level.worldMatrix(testId((which % places.length) + 1)))
          const origin = new Vector3(...from)
          fc.pre(origin.distanceTo(aim) > 1)
          const ray = new Ray(origin, aim.sub(origin).normalize())
          const expected = bruteForce(level, ray)
          const found = index.raycast(ray)
          expect(found?.id).toBe(expected?.id)
          if (found && expected) {
            hits++
            expect(Math.abs(found.distance - expected.distance) / expected.distance).toBeLessThan(1e-6)
            expect(found.normal.dot(ray.direction)).toBeLessThan(1e-6)
          }
        },
      ),
      { numRuns: 60 },
    )
    expect(hits).toBeGreaterThan(20)
  }, 120_000)

  it('still does after things have moved', () => {
    const level = bareView([
      testPlacement(1, { kind: 'part', partId: testId(99) }),
      testPlacement(2, { kind: 'part', partId: testId(99), translation: [40, 0, 0] }),
    ])
    const index = new LevelIndex(level, () => solid)
    const ray = new Ray(new Vector3(60, 5, 0.5), new Vector3(-1, 0, 0))
    expect(index.raycast(ray)!.id).toBe(testId(2))
    applyChange(level, [{ do: 'put', id: testId(2), fields: { translation: [40, 50, 0] } }])
    index.update([testId(2)])
    expect(index.raycast(ray)!.id).toBe(testId(1))
    expect(index.raycast(ray, () => false)).toBeNull()
  })
})
