import fc from 'fast-check'
import { BoxGeometry, BufferAttribute, BufferGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { meshVolume } from '../../tests/support'
import type { Mesh } from './mesh'
import { meshBounds, meshBytes, triangleCount } from './mesh'
import { chamferedBox } from './chamfered-box'
import { MeshBuilder } from './mesh-builder'

const stone = { name: 'Stone', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] } as const
const anySide = fc.double({ min: 0.2, max: 4, noNaN: true })

/** Every edge, by its ends' places, has to be walked once each way. */
function isClosed(mesh: Mesh): boolean {
  const edges = new Map<string, number>()
  for (const { positions, indices } of mesh.primitives) {
    const name = (i: number) =>
      Array.from(positions.subarray(indices[i]! * 3, indices[i]! * 3 + 3), value => value.toFixed(5)).join()
    for (let i = 0; i < indices.length; i += 3) {
      for (const [a, b] of [
        [i, i + 1],
        [i + 1, i + 2],
        [i + 2, i],
      ] as const) {
        const [from, to] = [name(a), name(b)]
        const key = from < to ? `${from}|${to}` : `${to}|${from}`
        edges.set(key, (edges.get(key) ?? 0) + (from < to ? 1 : -1))
      }
    }
  }
  return [...edges.values()].every(balance => balance === 0)
}

describe('chamferedBox', () => {
  it('is closed, and as large as a box less what its edges and corners lose', () => {
    fc.assert(
      fc.property(anySide, anySide, anySide, fc.double({ min: 0.01, max: 0.09, noNaN: true }), (w, h, d, c) => {
        const mesh = new MeshBuilder().add({ ...stone }, chamferedBox(w, h, d, c)).build()
        // Each edge loses a prism of c²/2 over the length between the corners, each corner a cube of c less the pyramid
        // c³/6 that stays.
        const edges = 4 * ((c * c) / 2) * (w + h + d - 6 * c)
        const corners = 8 * (c ** 3 - c ** 3 / 6)
        expect(meshVolume(mesh)).toBeCloseTo(w * h * d - edges - corners, 4)
        expect(isClosed(mesh)).toBe(true)
        expect(triangleCount(mesh)).toBe(44)
      }),
    )
  })
})

describe('MeshBuilder', () => {
  it('puts the pivot into the middle of the bottom, and keeps sizes', () => {
    const mesh = new MeshBuilder().add({ ...stone }, new BoxGeometry(1, 2, 3), [10, 5, -7]).build()
    const { min, max } = meshBounds(mesh)
    expect([min.toArray(), max.toArray()]).toEqual([
      [-0.5, 0, -1.5],
      [0.5, 2, 1.5],
    ])
    expect(meshVolume(mesh)).toBeCloseTo(6, 6)
    // 24 corners of three floats for place and normal, 36 indices: 24 · 24 + 36 · 4 bytes.
    expect(meshBytes(mesh)).toBe(24 * 24 + 36 * 4)
  })

  it('makes one primitive for each material, and turns normals with the shape', () => {
    const [a, b] = [{ ...stone }, { ...stone, name: 'Wood' }]
    const mesh = new MeshBuilder()
      .add(a, new BoxGeometry(1, 1, 1), [0, 0, 0], [0, 90, 0])
      .add(b, new BoxGeometry(1, 1, 1))
      .add(a, new BoxGeometry(2, 1, 1))
      .build()
    expect(mesh.primitives.map(primitive => primitive.material.name)).toEqual(['Stone', 'Wood'])
    const [first] = mesh.primitives
    // The first face of the box looks along +X before it is turned about Y, and along -Z after.
    Array.from(first!.normals.subarray(0, 3)).forEach((value, i) => expect(value).toBeCloseTo([0, 0, -1][i]!, 6))
  })

  it('leaves out triangles without area, which would have no normal', () => {
    const flat = new BufferGeometry()
      .setAttribute(
        'position',
        new BufferAttribute(Float32Array.from([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0]), 3),
      )
      .setAttribute(
        'normal',
        new BufferAttribute(
          Float32Array.from({ length: 18 }, (_, i) => (i % 3 === 2 ? 1 : 0)),
          3,
        ),
      )
    expect(triangleCount(new MeshBuilder().add({ ...stone }, flat).build())).toBe(1)
  })
})
