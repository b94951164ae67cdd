import fc from 'fast-check'
import { InstancedMesh, Matrix4, MeshBasicMaterial, SphereGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import type { ShapeCopies } from '~~/core/scene/expand'
import type { Drawable } from './instanced'
import { CopyBatches } from './copy-batches'

const drawable = (triangles: number): Drawable => [
  { geometry: new SphereGeometry(1, 8, 6), material: new MeshBasicMaterial(), triangles },
]
const [crate, box] = [drawable(100), drawable(12)]
const batches = (most?: number) => new CopyBatches(() => crate, { boxOf: () => box, most })

/** Copies in a row along X, a metre apart. */
function row(count: number, shape = 'crate'): ShapeCopies {
  const matrices = new Float64Array(count * 16)
  for (let i = 0; i < count; i++) new Matrix4().makeTranslation(i, 0, 0).toArray(matrices, i * 16)
  return { shape, matrices, indices: Int32Array.from({ length: count }, (_, i) => i) }
}

const meshesOf = (of: CopyBatches) => of.object.children.flatMap(group => group.children as InstancedMesh[])
/** What is really drawn, and where along X. */
const drawnBy = (of: CopyBatches) => {
  const found: { geometry: unknown; places: number[] }[] = []
  of.object.traverseVisible(each => {
    if (each instanceof InstancedMesh && each.count > 0) found.push({ geometry: each.geometry, places: placesOf(each) })
  })
  return found
}
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
    const of = new CopyBatches((_, mirrored) => (mirrored ? turned : crate))
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

  it('are boxes beyond six million triangles where there are boxes, and keep what they are otherwise', () => {
    const of = batches()
    of.set('a', [row(60_000)], new Matrix4())
    expect(of.count()).toEqual({ placed: 60_000, triangles: 6_000_000 })
    of.set('a', [row(60_001)], new Matrix4())
    expect(of.count()).toEqual({ placed: 60_001, triangles: 60_001 * 12 })
    const whole = new CopyBatches(() => crate)
    whole.set('a', [row(60_001)], new Matrix4())
    expect(whole.count().triangles).toBe(6_000_100)
  })

  it('are drawn as they are chosen, each where it stands: by simpler meshes, some of them, or all whole again', () => {
    const of = batches()
    of.set('many', [row(50_000)], new Matrix4())
    of.set('few', [row(100, 'lamp')], new Matrix4().makeTranslation(0, 0, 7))
    const sources = of.sources(() => [{ drawable: box, error: 0.5 }])
    expect(sources.map(({ levels }) => levels.map(({ triangles }) => triangles))).toEqual([
      [100, 12],
      [100, 12],
    ])
    expect(sources.map(({ chunks }) => chunks.reduce((sum, { count }) => sum + count, 0))).toEqual([50_000, 100])
    // In the world, where the arrangement stands.
    expect(sources[1]!.chunks[0]!.box.min.z).toBeCloseTo(6, 5)
    expect(Math.max(...sources[0]!.chunks.map(({ box: { max } }) => max.x))).toBeCloseTo(50_000, 5)
    const further = new Matrix4().makeTranslation(0, 0, 90)
    of.set('few', [row(100, 'lamp')], further)
    expect(of.sources(() => [{ drawable: box, error: 0.5 }])[1]!.chunks[0]!.box.min.z).toBeCloseTo(89, 5)
    const copies = [row(100, 'lamp')]
    of.set('few', copies, further)
    of.sources(() => [{ drawable: box, error: 0.5 }])
    of.set('few', copies, new Matrix4().makeTranslation(0, 0, -90))
    expect(of.sources(() => [{ drawable: box, error: 0.5 }])[1]!.chunks[0]!.box.min.z).toBeCloseTo(-91, 5)
    const [first, second] = sources[0]!.chunks
    of.show([
      [
        { source: 0, chunk: first!, level: 1, count: 5 },
        { source: 0, chunk: second!, level: 0, count: second!.count },
      ],
      [],
    ])
    const shown = () => drawnBy(of)
    const within = ({ box: { min, max } }: (typeof sources)[0]['chunks'][0], x: number) => x >= min.x && x <= max.x
    const simple = shown().filter(({ geometry }) => geometry === box[0]!.geometry)
    expect(simple.flatMap(({ places }) => places)).toHaveLength(5)
    expect(simple.every(({ places }) => places.every(x => within(first!, x)))).toBe(true)
    const whole = shown().filter(({ geometry }) => geometry === crate[0]!.geometry)
    expect(whole.flatMap(({ places }) => places)).toHaveLength(second!.count)
    expect(whole.every(({ places }) => places.every(x => within(second!, x)))).toBe(true)
    of.drawAll()
    expect(
      shown()
        .flatMap(({ places }) => places)
        .sort((a, b) => a - b),
    ).toEqual(
      [...Array.from({ length: 50_000 }, (_, i) => i), ...Array.from({ length: 100 }, (_, i) => i)].sort(
        (a, b) => a - b,
      ),
    )
    expect(of.count().placed).toBe(50_100)
  })

  it('are drawn by passes: only what is not looked through, or only what is', () => {
    const glass = drawable(50)
    ;(glass[0]!.material as MeshBasicMaterial).transparent = true
    const of = new CopyBatches(shape => (shape === 'glass' ? glass : crate))
    of.set('a', [row(3), row(4, 'glass')], new Matrix4())
    const sources = of.sources(() => [])
    expect(sources.map(({ isClear }) => isClear)).toEqual([false, true])
    const all = sources.map(({ chunks }, source) =>
      chunks.map(chunk => ({ source, chunk, level: 0, count: chunk.count })),
    )
    const counts = (pass?: 'solid' | 'clear') => {
      of.show(all, pass)
      return drawnBy(of).map(({ places }) => places.length)
    }
    expect([counts('solid'), counts('clear'), counts()]).toEqual([[3], [4], [3, 4]])
  })

  it('beyond the most that are asked for are left out when they are written, and the array is no longer than that', () => {
    const of = batches(2500)
    of.set('a', [row(100_000)], new Matrix4())
    const [mesh] = meshesOf(of)
    expect([mesh!.count, mesh!.instanceMatrix.array.length]).toEqual([2500, 2500 * 16])
    expect(Math.max(...placesOf(mesh!))).toBeGreaterThan(99_000)
  })
})
