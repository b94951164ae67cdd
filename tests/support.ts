import fc from 'fast-check'
import { Vector3 } from 'three'
import type { Mesh } from '../core/geometry/mesh'
import type { Placement, Quat, Vec3 } from '../core/level/schema'
import { createPlacement } from '../core/level/create'

// Things that tests of several areas need: made-up levels and arbitrary numbers.

/** Ids that read well in a failure: 1, 2, 3 ... as UUIDs. */
export function testId(number: number): string {
  return `00000000-0000-7000-8000-${number.toString(16).padStart(12, '0')}`
}

export function testPlacement(number: number, fields: Partial<Placement> = {}): Placement {
  return createPlacement({ id: testId(number), name: `Thing ${number}`, kind: 'group', order: number, ...fields })
}

export const anyLength = fc.double({ min: -50, max: 50, noNaN: true })
export const anyVec3: fc.Arbitrary<Vec3> = fc.tuple(anyLength, anyLength, anyLength)
export const anyFactor = fc.oneof(fc.double({ min: 0.2, max: 4, noNaN: true }), fc.double({ min: -4, max: -0.2, noNaN: true }))
export const anyScale: fc.Arbitrary<Vec3> = fc.tuple(anyFactor, anyFactor, anyFactor)
export const anyQuat: fc.Arbitrary<Quat> = fc.tuple(anyLength, anyLength, anyLength, anyLength)
  .filter(quat => Math.hypot(...quat) > 0.1)
  .map(quat => quat.map(value => value / Math.hypot(...quat)) as Quat)

/** Up to `most` placements in a random tree: each hangs from an earlier one or from none. */
export function anyTree(most: number): fc.Arbitrary<Placement[]> {
  const one = fc.record({ above: fc.nat(), top: fc.boolean(), translation: anyVec3, rotation: anyQuat, scale: anyScale, pivot: anyVec3, order: fc.integer({ min: -5, max: 5 }) })
  return fc.array(one, { minLength: 1, maxLength: most }).map(entries => entries.map(({ above, top, ...fields }, i) =>
    testPlacement(i + 1, { ...fields, parentId: top || i === 0 ? null : testId(above % i + 1) })))
}

/** What a mesh encloses: a sixth of the sum of the corners' triple products (the divergence theorem); negative if inside out. */
export function meshVolume(mesh: Mesh): number {
  let sum = 0
  for (const { positions, indices } of mesh.primitives) {
    const at = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3)
    for (let i = 0; i < indices.length; i += 3) sum += at(i).dot(at(i + 1).cross(at(i + 2))) / 6
  }
  return sum
}
