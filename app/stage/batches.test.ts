import fc from 'fast-check'
import type { InstancedMesh } from 'three'
import { BufferGeometry, Matrix4, MeshBasicMaterial } from 'three'
import { describe, expect, it } from 'vitest'
import type { Drawable } from './instanced'
import { PartBatches } from './batches'

const drawables: Record<string, Drawable> = {
  a: [{ geometry: new BufferGeometry(), material: new MeshBasicMaterial(), triangles: 10 }],
  b: [0, 1].map(() => ({ geometry: new BufferGeometry(), material: new MeshBasicMaterial(), triangles: 7 })),
}

/** What the batches would draw: for each part the positions of its instances, sorted. */
function drawn(batches: PartBatches): Record<string, number[]> {
  const found: Record<string, number[]> = {}
  for (const mesh of batches.object.children as InstancedMesh[]) {
    const part = Object.keys(drawables).find(key => drawables[key]!.some(({ geometry }) => geometry === mesh.geometry))!
    found[part] = Array.from({ length: mesh.count }, (_, i) => mesh.instanceMatrix.array[i * 16 + 12]!).sort(
      (x, y) => x - y,
    )
  }
  return found
}

const anyStep = fc.record({
  id: fc.integer({ min: 0, max: 12 }),
  part: fc.constantFrom('a', 'b', null),
  x: fc.integer({ min: -100, max: 100 }),
})

describe('PartBatches', () => {
  it('draws exactly what was set and not removed, whatever the order', () => {
    fc.assert(
      fc.property(fc.array(anyStep, { maxLength: 120, size: 'max' }), steps => {
        const batches = new PartBatches(part => drawables[part], false)
        const expected = new Map<number, { part: string; x: number }>()
        for (const { id, part, x } of steps) {
          if (part === null) {
            batches.remove(String(id))
            expected.delete(id)
          } else {
            batches.set(String(id), part, new Matrix4().makeTranslation(x, 0, 0))
            expected.set(id, { part, x })
          }
        }
        const positions = (part: string) =>
          [...expected.values()]
            .filter(entry => entry.part === part)
            .map(({ x }) => x)
            .sort((p, q) => p - q)
        const actual = drawn(batches)
        for (const part of ['a', 'b']) expect(actual[part] ?? []).toEqual(positions(part))
        expect(batches.count()).toEqual({
          placed: expected.size,
          triangles: positions('a').length * 10 + positions('b').length * 14,
        })
      }),
    )
  })

  it('shares one list of matrices between the materials of a part', () => {
    const batches = new PartBatches(part => drawables[part], false)
    for (let i = 0; i < 40; i++) batches.set(`x${i}`, 'b', new Matrix4())
    const [one, two] = batches.object.children as InstancedMesh[]
    expect(one!.instanceMatrix).toBe(two!.instanceMatrix)
    expect(batches.matrixBytes()).toBe(40 * 64)
    expect([...batches.uses()]).toEqual([['b', 40]])
  })

  it('uploads only what moved', () => {
    const batches = new PartBatches(part => drawables[part], false)
    for (let i = 0; i < 100; i++) batches.set(`x${i}`, 'a', new Matrix4())
    const { instanceMatrix } = batches.object.children[0] as InstancedMesh
    instanceMatrix.clearUpdateRanges()
    batches.set('x42', 'a', new Matrix4().makeTranslation(1, 2, 3))
    expect(instanceMatrix.updateRanges).toEqual([{ start: 42 * 16, count: 16 }])
  })

  it('leaves out what has no mesh yet', () => {
    const batches = new PartBatches(() => undefined, false)
    batches.set('x', 'c', new Matrix4())
    expect(batches.isEmpty).toBe(true)
  })
})
