import { expect, it } from 'vitest'
import { averageFinish } from './average-finish'
import type { Material, Mesh, Primitive } from './mesh'

const finish = (baseColor: Material['baseColor'], more: Partial<Material> = {}): Material => ({
  name: 'x',
  baseColor,
  roughness: 0.5,
  metallic: 0,
  emissive: [0, 0, 0],
  ...more,
})

/** A square of so many square metres, in two triangles. */
function square(area: number, material: Material, colors?: number[]): Primitive {
  const side = Math.sqrt(area)
  return {
    material,
    positions: new Float32Array([0, 0, 0, side, 0, 0, side, 0, side, 0, 0, side]),
    normals: new Float32Array(12),
    indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
    ...(colors ? { colors: new Float32Array([...colors, ...colors, ...colors, ...colors]) } : {}),
  }
}

it('is the mean of a mesh’s finishes by their area, with the colours of its vertices', () => {
  const mesh: Mesh = {
    primitives: [
      square(3, finish([1, 0, 0], { roughness: 1 })),
      square(1, finish([0, 1, 1], { emissive: [0, 0, 4] }), [0.5, 0.5, 1, 1]),
    ],
  }
  const { baseColor, roughness, emissive, opacity } = averageFinish(mesh)
  expect(baseColor.map(value => Number(value.toFixed(6)))).toEqual([0.75, 0.125, 0.25])
  expect([roughness, emissive[2]].map(value => Number(value.toFixed(6)))).toEqual([0.875, 1])
  expect(opacity).toBeUndefined()
  expect(averageFinish(mesh)).toBe(averageFinish(mesh))
})

it('can be looked through where most of the mesh can, and not because of a small pane', () => {
  const glass = finish([1, 1, 1], { opacity: 0.2 })
  expect(averageFinish({ primitives: [square(1, finish([0, 0, 0])), square(9, glass)] }).opacity).toBeCloseTo(0.28, 5)
  expect(averageFinish({ primitives: [square(9, finish([0, 0, 0])), square(1, glass)] }).opacity).toBeUndefined()
})

it('is the largest finish as it is where that has pictures, and the first of what has no area', () => {
  const pictured = finish([1, 1, 1], { textures: { baseColor: { hash: 'x' } } as unknown as Material['textures'] })
  expect(averageFinish({ primitives: [square(1, finish([0, 0, 0])), square(2, pictured)] })).toBe(pictured)
  const flat = finish([0, 1, 0])
  expect(averageFinish({ primitives: [square(0, flat)] })).toBe(flat)
})
