import fc from 'fast-check'
import type { InstancedMesh } from 'three'
import { Matrix4, MeshBasicMaterial, SphereGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import type { ShapeCopies } from '~~/core/scene/expand'
import type { Drawable } from './instanced'
import { CopyBatches } from './copy-batches'

const drawable = (triangles: number): Drawable => [
  { geometry: new SphereGeometry(1, 8, 6), material: new MeshBasicMaterial(), triangles },
]
const [crate, box] = [drawable(100), drawable(12)]
const batches = (most?: number) =>
  new CopyBatches(
    () => crate,
    () => box,
    false,
    most,
  )

/** Copies in a row along X, a metre apart. */
function row(count: number, shape = 'crate'): ShapeCopies {
  const matrices = new Float64Array(count * 16)
  for (let i = 0; i < count; i++) new Matrix4().makeTranslation(i, 0, 0).toArray(matrices, i * 16)
  return { shape, matrices, indices: Int32Array.from({ length: count }, (_, i) => i) }
}

const meshesOf = (of: CopyBatches) => of.object.children.flatMap(group => group.children as InstancedMesh[])
const placesOf = (mesh: InstancedMesh) =>
  Array.from({ length: mesh.count }, (_, i) => mesh.instanceMatrix.array[i * 16 + 12]!)

describe('copies drawn by instancing', () => {
  it('are each drawn once, however many there are, and written again into the same array when they are fewer', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 6000 }), fc.integer({ min: 1, max: 6000 }), (first, second) => {
        const of = batches()
        of.set('a', [row(first)], new Matrix4())
        const [mesh] = meshesOf(of)
        expect(placesOf(mesh!).sort((a, b) => a - b)).toEqual(Array.from({ length: first }, (_, i) => i))
        of.set('a', [row(second)], new Matrix4().makeTranslation(0, 5, 0))
        expect(meshesOf(of)).toHaveLength(1)
        expect(meshesOf(of)[0] === mesh).toBe(second <= first)
        expect(new Set(placesOf(meshesOf(of)[0]!)).size).toBe(second)
        of.remove('a')
        expect(of.isEmpty).toBe(true)
      }),
      { numRuns: 30 },
    )
  })

  it('are drawn by a mesh that is turned over where they are mirrored, whichever comes first', () => {
    const turned = drawable(100)
    const of = new CopyBatches(
      (_, mirrored) => (mirrored ? turned : crate),
      () => box,
      false,
    )
    const some = row(6)
    for (const i of [0, 2, 5]) some.matrices[i * 16 + 5] = -1
    of.set('a', [some], new Matrix4())
    const drawn = meshesOf(of).map(mesh => [mesh.geometry === turned[0]!.geometry, placesOf(mesh)])
    expect(drawn).toEqual([
      [false, [1, 3, 4]],
      [true, [0, 2, 5]],
    ])
    of.set('a', [row(6)], new Matrix4())
    expect(meshesOf(of).map(mesh => [mesh.geometry === turned[0]!.geometry, placesOf(mesh)])).toEqual([
      [false, [0, 1, 2, 3, 4, 5]],
    ])
  })

  it('are boxes beyond six million triangles, and keep what they are otherwise', () => {
    const of = batches()
    of.set('a', [row(60_000)], new Matrix4())
    expect(of.count()).toEqual({ placed: 60_000, triangles: 6_000_000 })
    of.set('a', [row(60_001)], new Matrix4())
    expect(of.count()).toEqual({ placed: 60_001, triangles: 60_001 * 12 })
  })

  it('are drawn by a simpler mesh as a whole, and thinned out evenly', () => {
    const of = batches()
    of.set('many', [row(50_000)], new Matrix4())
    of.set('few', [row(100, 'lamp')], new Matrix4().makeTranslation(0, 0, 7))
    const sources = of.sources(() => [{ drawable: box, error: 0.5 }])
    expect(
      sources.map(({ levels, chunks }) => [levels.map(({ triangles }) => triangles), chunks.map(({ count }) => count)]),
    ).toEqual([
      [[100, 12], [50_000]],
      [[100, 12], [100]],
    ])
    // The box of all of them, where the arrangement stands.
    expect(sources[1]!.chunks[0]!.box.min.z).toBeCloseTo(6, 5)
    expect(sources[0]!.chunks[0]!.box.max.x).toBeCloseTo(50_000, 5)
    of.show([[{ source: 0, chunk: sources[0]!.chunks[0]!, level: 1, count: 1000 }], []])
    const [whole, simple, lamp] = meshesOf(of)
    expect([whole!.count, simple!.count, lamp!.count, whole!.visible, simple!.visible]).toEqual([
      0,
      1000,
      0,
      false,
      true,
    ])
    // All over a row, and if they are rows of 250, all over their field: of its 100 parts each has some of the
    // thousand.
    const places = placesOf(simple!)
    const inRow = new Set(places.map(place => Math.floor(place / 1000)))
    const inField = new Set(places.map(place => `${Math.floor(place / 250 / 20)} ${Math.floor((place % 250) / 25)}`))
    expect([inRow.size, inField.size]).toEqual([50, 100])
    of.drawAll()
    expect([whole!.count, simple!.count]).toEqual([50_000, 0])
    expect(of.count().placed).toBe(50_100)
  })

  it('beyond the most that are asked for are left out when they are written, and the array is no longer than that', () => {
    const of = batches(2500)
    of.set('a', [row(100_000)], new Matrix4())
    const [mesh] = meshesOf(of)
    expect([mesh!.count, mesh!.instanceMatrix.array.length]).toEqual([2500, 2500 * 16])
    expect(Math.max(...placesOf(mesh!))).toBeGreaterThan(99_000)
  })
})
