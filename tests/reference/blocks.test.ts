import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Mesh } from '../../core/mesh/mesh'
import { meshBounds } from '../../core/mesh/mesh'
import type { BlockShape } from '../../core/mesh/block'
import { BLOCK_KINDS, blockShapeSchema, blockSize, drawnBlock, FIRST_BLOCKS } from '../../core/mesh/block'
import { blockKey, meshOfBlockKey } from '../../core/mesh/block-key'
import { blockMesh } from '../../core/mesh/block-mesh'
import { riserAndTread, stairWarnings } from '../../core/mesh/stairs'
import { meshVolume, TEST_MATERIAL, testId } from '../support'

// Volumes and areas by the formulas of solid geometry, with the regular n-gon of circumradius r in place of the circle:
// area n/2 · r² · sin(2π/n), side 2 · r · sin(π/n), apothem r · cos(π/n).

const ngonArea = (n: number, r: number) => (n / 2) * r * r * Math.sin((2 * Math.PI) / n)
const side = (n: number, r: number) => 2 * r * Math.sin(Math.PI / n)
const apothem = (n: number, r: number) => r * Math.cos(Math.PI / n)

function meshArea(mesh: Mesh): number {
  let sum = 0
  for (const { positions, indices } of mesh.primitives) {
    const at = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3)
    for (let i = 0; i < indices.length; i += 3)
      sum +=
        at(i + 1)
          .sub(at(i))
          .cross(at(i + 2).sub(at(i)))
          .length() / 2
  }
  return sum
}

/** Sides of triangles that do not have exactly one partner running the other way at the same place. */
function openSides(mesh: Mesh): number {
  const counts = new Map<string, number>()
  for (const { positions, indices } of mesh.primitives) {
    const key = (i: number) => [0, 1, 2].map(k => positions[indices[i]! * 3 + k]! + 0).join(' ')
    for (let i = 0; i < indices.length; i++) {
      const side = `${key(i)} > ${key(i % 3 === 2 ? i - 2 : i + 1)}`
      counts.set(side, (counts.get(side) ?? 0) + 1)
    }
  }
  return [...counts].filter(([side, count]) => count !== 1 || counts.get(side.split(' > ').reverse().join(' > ')) !== 1)
    .length
}

/** Corners whose normal is not of unit length or looks away from its triangle's outside. */
function wrongNormals(mesh: Mesh): number {
  let wrong = 0
  for (const { positions, normals, indices } of mesh.primitives) {
    const at = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3)
    for (let i = 0; i < indices.length; i += 3) {
      const face = at(i + 1)
        .sub(at(i))
        .cross(at(i + 2).sub(at(i)))
        .normalize()
      for (let k = 0; k < 3; k++) {
        const normal = new Vector3().fromArray(normals, indices[i + k]! * 3)
        if (Math.abs(normal.length() - 1) > 1e-5 || normal.dot(face) < 0.2) wrong++
      }
    }
  }
  return wrong
}

const length = fc.double({ min: 0.05, max: 20, noNaN: true })
const sides = fc.integer({ min: 3, max: 64 })
const anyBlock: fc.Arbitrary<BlockShape> = fc.oneof(
  fc.record({ type: fc.constant('box' as const), width: length, height: length, depth: length }),
  fc.record({ type: fc.constant('slab' as const), width: length, depth: length, thickness: length }),
  fc.record({ type: fc.constant('cylinder' as const), radius: length, height: length, sides }),
  fc.record({
    type: fc.constant('cone' as const),
    radius: length,
    top: fc.oneof(fc.constant(0), length),
    height: length,
    sides,
  }),
  fc.record({ type: fc.constant('ball' as const), radius: length, sides }),
  fc
    .record({
      type: fc.constant('ring' as const),
      radius: length,
      share: fc.double({ min: 0.05, max: 1.9, noNaN: true }),
      sides,
    })
    .map(({ share, ...ring }) => ({ ...ring, thickness: ring.radius * share })),
  fc.record({ type: fc.constant('wedge' as const), width: length, height: length, depth: length }),
  fc.record({
    type: fc.constant('steps' as const),
    width: length,
    height: length,
    depth: length,
    count: fc.integer({ min: 1, max: 40 }),
  }),
  fc
    .record({
      type: fc.constant('tube' as const),
      radius: length,
      share: fc.double({ min: 0.05, max: 0.95, noNaN: true }),
      height: length,
      sides,
    })
    .map(({ share, ...tube }) => ({ ...tube, wall: tube.radius * share })),
)

function volumeAndArea(block: BlockShape): { volume: number; area: number } | null {
  switch (block.type) {
    case 'box': {
      const { width: w, height: h, depth: d } = block
      return { volume: w * h * d, area: 2 * (w * h + h * d + d * w) }
    }
    case 'slab': {
      const { width: w, thickness: h, depth: d } = block
      return { volume: w * h * d, area: 2 * (w * h + h * d + d * w) }
    }
    case 'cylinder': {
      const { radius: r, height: h, sides: n } = block
      return { volume: ngonArea(n, r) * h, area: 2 * ngonArea(n, r) + n * side(n, r) * h }
    }
    case 'cone': {
      const { radius: r, top: t, height: h, sides: n } = block
      // A frustum: h/3 · (A + a + √(A·a)); its sides are trapezia whose height is the slant between the apothems.
      const [big, small] = [ngonArea(n, r), ngonArea(n, t)]
      const slant = Math.hypot(h, apothem(n, r) - apothem(n, t))
      return {
        volume: (h / 3) * (big + small + Math.sqrt(big * small)),
        area: big + small + ((n * (side(n, r) + side(n, t))) / 2) * slant,
      }
    }
    case 'tube': {
      const { radius: r, wall, height: h, sides: n } = block
      const inner = r - wall
      return {
        volume: (ngonArea(n, r) - ngonArea(n, inner)) * h,
        area: 2 * (ngonArea(n, r) - ngonArea(n, inner)) + n * (side(n, r) + side(n, inner)) * h,
      }
    }
    case 'wedge': {
      const { width: w, height: h, depth: d } = block
      return { volume: (w * h * d) / 2, area: w * d + w * h + d * h + w * Math.hypot(d, h) }
    }
    case 'steps': {
      const { width: w, height: h, depth: d, count: n } = block
      return { volume: (w * d * h * (n + 1)) / (2 * n), area: 2 * w * (d + h) + (d * h * (n + 1)) / n }
    }
    default:
      return null
  }
}

describe('the mesh of a block', () => {
  it('is closed, with normals outside, as large as its numbers say, whatever they are', () => {
    fc.assert(
      fc.property(anyBlock, block => {
        const mesh = blockMesh(block, TEST_MATERIAL)
        expect(openSides(mesh)).toBe(0)
        expect(wrongNormals(mesh)).toBe(0)
        expect(meshVolume(mesh)).toBeGreaterThan(0)
        const box = meshBounds(mesh)
        const size = box.getSize(new Vector3()).toArray()
        // A polygon need not reach its circle along both axes.
        blockSize(block).forEach((value, axis) => expect(size[axis]! / value).toBeLessThan(1 + 1e-5))
        expect(box.max.y - (block.type === 'slab' ? 0 : blockSize(block)[1])).toBeLessThan(
          1e-5 * Math.max(1, blockSize(block)[1]),
        )
        expect(Math.abs(block.type === 'slab' ? box.max.y : box.min.y)).toBeLessThan(0.2 * blockSize(block)[1] + 1e-9)
      }),
    )
  })

  it('has the volume and the area of its formula', () => {
    fc.assert(
      fc.property(
        anyBlock.filter(block => volumeAndArea(block) !== null),
        block => {
          const mesh = blockMesh(block, TEST_MATERIAL)
          const { volume, area } = volumeAndArea(block)!
          expect(meshVolume(mesh) / volume).toBeCloseTo(1, 4)
          expect(meshArea(mesh) / area).toBeCloseTo(1, 4)
        },
      ),
    )
  })

  it('of many sides comes near the round bodies: ball 4/3·π·r³ and 4·π·r², ring 2·π²·R·r² and 4·π²·R·r (Pappus)', () => {
    const ball = blockMesh({ type: 'ball', radius: 1.5, sides: 128 }, TEST_MATERIAL)
    expect(meshVolume(ball) / ((4 / 3) * Math.PI * 1.5 ** 3)).toBeCloseTo(1, 2)
    expect(meshArea(ball) / (4 * Math.PI * 1.5 ** 2)).toBeCloseTo(1, 2)
    const ring = blockMesh({ type: 'ring', radius: 2, thickness: 1, sides: 128 }, TEST_MATERIAL)
    expect(meshVolume(ring) / (2 * Math.PI ** 2 * 2 * 0.5 ** 2)).toBeCloseTo(1, 2)
    expect(meshArea(ring) / (4 * Math.PI ** 2 * 2 * 0.5)).toBeCloseTo(1, 2)
  })

  it('stands with the middle of its bottom at its pivot, a slab with the middle of its top', () => {
    for (const kind of BLOCK_KINDS) {
      const box = meshBounds(blockMesh(FIRST_BLOCKS[kind], TEST_MATERIAL))
      const middle = box.getCenter(new Vector3())
      expect(Math.hypot(middle.x, middle.z)).toBeLessThan(1e-6)
      expect(kind === 'slab' ? box.max.y : box.min.y).toBeCloseTo(0, 6)
    }
  })

  it('climbs from its front to its back', () => {
    const { positions } = blockMesh(FIRST_BLOCKS.steps, TEST_MATERIAL).primitives[0]!
    const tops = Array.from({ length: positions.length / 3 }, (_, i) => [
      positions[i * 3 + 1]!,
      positions[i * 3 + 2]!,
    ]).filter(([y]) => Math.abs(y! - 0.9) < 1e-6)
    expect(Math.max(...tops.map(([, z]) => z!))).toBeCloseTo(-0.6, 5)
  })
})

describe("a block's key", () => {
  it('is the same for equal blocks, another for others, and makes the same mesh', () => {
    const block = { id: testId(1), color: '#a08060', shape: FIRST_BLOCKS.tube }
    const turned = {
      ...block,
      id: testId(2),
      shape: Object.fromEntries(Object.entries(block.shape).reverse()) as typeof block.shape,
    }
    expect(blockKey(turned)).toBe(blockKey(block))
    expect(blockKey({ ...block, color: '#a08061' })).not.toBe(blockKey(block))
    const mesh = meshOfBlockKey(blockKey(block))
    expect(mesh.primitives[0]!.positions).toEqual(blockMesh(FIRST_BLOCKS.tube, TEST_MATERIAL).primitives[0]!.positions)
  })

  it('comes of numbers that make a shape; others are refused with the field', () => {
    const field = (shape: object) => blockShapeSchema.safeParse(shape).error?.issues[0]?.path.join('.')
    for (const kind of BLOCK_KINDS) expect(blockShapeSchema.parse(FIRST_BLOCKS[kind])).toEqual(FIRST_BLOCKS[kind])
    expect(field({ ...FIRST_BLOCKS.tube, wall: 0.5 })).toBe('wall')
    expect(field({ ...FIRST_BLOCKS.ring, thickness: 1 })).toBe('thickness')
    expect(field({ ...FIRST_BLOCKS.box, width: 0 })).toBe('width')
    expect(field({ ...FIRST_BLOCKS.cylinder, sides: 2.5 })).toBe('sides')
    expect(field({ ...FIRST_BLOCKS.steps, count: 0 })).toBe('count')
  })

  it('drawn, is as wide and as high as it was drawn', () => {
    for (const kind of BLOCK_KINDS) {
      const drawn = drawnBlock(FIRST_BLOCKS[kind], 3, 3, 0.5)
      expect(blockShapeSchema.safeParse(drawn).success).toBe(true)
      expect(blockSize(drawn)[0]).toBeCloseTo(3, 9)
      if (kind !== 'ball') expect(blockSize(drawn)[1]).toBeCloseTo(0.5, 9)
    }
  })
})

describe('steps', () => {
  // International Building Code 2021, 1011.5.2: riser 102 to 178 mm, tread at least 279 mm (from memory).
  // Blondel: two risers and one tread make 600 to 640 mm (from memory).
  it.each([
    [0.15, 0.32, 0],
    [0.17, 0.29, 0],
    [0.178, 0.279, 0],
    [0.102, 0.43, 0],
    [0.2, 0.22, 2],
    [0.08, 0.46, 1],
    [0.17, 0.26, 1],
    [0.17, 0.4, 1],
  ])('of riser %d and tread %d have %d things wrong with them', (riser, tread, count) => {
    expect(stairWarnings({ riser, tread })).toHaveLength(count)
  })

  it('as they come can be walked', () => {
    expect(stairWarnings(riserAndTread(FIRST_BLOCKS.steps))).toEqual([])
  })
})
