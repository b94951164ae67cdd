import fc from 'fast-check'
import type { InstancedMesh } from 'three'
import { BufferGeometry, Matrix4, MeshBasicMaterial } from 'three'
import { describe, expect, it } from 'vitest'
import type { ShapeCopies } from '~~/core/scene/expand'
import type { Drawable } from './instanced'
import { CopyBatches } from './copy-batches'
import { DrawLimit } from './draw-limit'

const drawable = (triangles: number): Drawable => [{ geometry: new BufferGeometry(), material: new MeshBasicMaterial(), triangles }]
const [crate, box] = [drawable(100), drawable(12)]
const batches = (most?: number) => new CopyBatches(() => crate, () => box, false, most)

/** Copies in a row along X, a metre apart. */
function row(count: number, shape = 'crate'): ShapeCopies {
  const matrices = new Float64Array(count * 16)
  for (let i = 0; i < count; i++) new Matrix4().makeTranslation(i, 0, 0).toArray(matrices, i * 16)
  return { shape, matrices, indices: Int32Array.from({ length: count }, (_, i) => i) }
}

const meshesOf = (of: CopyBatches) => of.object.children.flatMap(group => group.children as InstancedMesh[])
const placesOf = (mesh: InstancedMesh) => Array.from({ length: mesh.count }, (_, i) => mesh.instanceMatrix.array[i * 16 + 12]!)

describe('copies drawn by instancing', () => {
  it('are each drawn once, however many there are, and written again into the same array when they are fewer', () => {
    fc.assert(fc.property(fc.integer({ min: 1, max: 6000 }), fc.integer({ min: 1, max: 6000 }), (first, second) => {
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
    }), { numRuns: 30 })
  })

  it('are drawn by a mesh that is turned over where they are mirrored, whichever comes first', () => {
    const turned = drawable(100)
    const of = new CopyBatches((_, mirrored) => mirrored ? turned : crate, () => box, false)
    const some = row(6)
    for (const i of [0, 2, 5]) some.matrices[i * 16 + 5] = -1
    of.set('a', [some], new Matrix4())
    const drawn = meshesOf(of).map(mesh => [mesh.geometry === turned[0]!.geometry, placesOf(mesh)])
    expect(drawn).toEqual([[false, [1, 3, 4]], [true, [0, 2, 5]]])
    of.set('a', [row(6)], new Matrix4())
    expect(meshesOf(of).map(mesh => [mesh.geometry === turned[0]!.geometry, placesOf(mesh)])).toEqual([[false, [0, 1, 2, 3, 4, 5]]])
  })

  it('are boxes beyond six million triangles, and keep what they are otherwise', () => {
    const of = batches()
    of.set('a', [row(60_000)], new Matrix4())
    expect(of.count()).toEqual({ placed: 60_000, triangles: 6_000_000 })
    of.set('a', [row(60_001)], new Matrix4())
    expect(of.count()).toEqual({ placed: 60_001, triangles: 60_001 * 12 })
  })

  it('are thinned out evenly to a number of triangles; few of them never', () => {
    const of = batches()
    of.set('many', [row(50_000)], new Matrix4())
    of.set('few', [row(100, 'lamp')], new Matrix4())
    of.thinTo(110_000)
    const [many, few] = meshesOf(of)
    expect([many!.count, few!.count]).toEqual([1000, 100])
    expect(of.drawnTriangles()).toBe(110_000)
    // All over a row, and if they are rows of 250, all over their field: of its 100 parts each has some of the thousand.
    const places = placesOf(many!)
    const inRow = new Set(places.map(place => Math.floor(place / 1000)))
    const inField = new Set(places.map(place => `${Math.floor(place / 250 / 20)} ${Math.floor(place % 250 / 25)}`))
    expect([inRow.size, inField.size]).toEqual([50, 100])
    of.thinTo(5_005_000)
    expect(of.drawnTriangles()).toBeLessThanOrEqual(5_005_100)
    of.thinTo(10_000_000)
    expect(many!.count).toBe(50_000)
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

describe('how much is drawn', () => {
  const limit = () => {
    let redraws = 0
    const of = new DrawLimit({} as WebGL2RenderingContext, () => redraws++)
    return { of, redraws: () => redraws }
  }

  it('grows until all is drawn where the machine is quick', () => {
    const { of, redraws } = limit()
    const wanted = 12_000_000
    for (let i = 0; i < 10; i++) of.took(4, Math.min(of.triangles, wanted), wanted)
    expect(of.triangles).toBeGreaterThan(wanted)
    expect(redraws()).toBe(2)
  })

  it('shrinks to what can be drawn in time where it is slow, and never asks again and again', () => {
    const { of, redraws } = limit()
    // Four million triangles a second, a quarter of it in the time for a frame.
    for (let i = 0; i < 10; i++) of.took(of.triangles / 4000, of.triangles, 12_000_000)
    expect(of.triangles).toBeCloseTo(1_000_000, -3)
    expect(redraws()).toBe(1)
    // However slow it is, half a million are drawn.
    for (let i = 0; i < 10; i++) of.took(5000, of.triangles, 12_000_000)
    expect(of.triangles).toBe(500_000)
    expect(redraws()).toBe(1)
  })
})
