import { BoxGeometry, Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { testId, testPlacement } from '../../../tests/support'
import { LevelIndex } from '../../scene/level-index'
import { Solid } from '../../mesh/solid'
import { MeshBuilder } from '../../mesh/mesh-builder'
import { bareView } from '../../scene/level-view'
import type { Placement } from '../../level/schema'
import { degreesToQuat } from '../../math/transform'
import { snapToStep } from './grid'
import { findLanding, standingRotation } from './landing'

const plain = { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] } as const
const box = new Solid(new MeshBuilder().add({ ...plain }, new BoxGeometry(4, 1, 4)).build())

function level(...placements: Partial<Placement>[]) {
  const level = bareView(
    placements.map((fields, i) => testPlacement(i + 1, { kind: 'part', partId: testId(99), ...fields })),
  )
  return new LevelIndex(level, () => box)
}

const down = (x: number, z: number, from = 20) => new Ray(new Vector3(x, from, z), new Vector3(0, -1, 0))

describe('findLanding', () => {
  it('lands on the top of what is under the pointer', () => {
    expect(findLanding(level({}), down(0.3, 0.2), 0)).toEqual({
      point: [0.3, 1, 0.2],
      normal: [0, 1, 0],
      surfaceId: testId(1),
    })
  })

  it('lands on the ground plane beside it, and on nothing above the horizon', () => {
    expect(findLanding(level({}), down(9, 0), 0)).toEqual({ point: [9, 0, 0], normal: [0, 1, 0], surfaceId: null })
    expect(findLanding(level({}), new Ray(new Vector3(0, 5, 9), new Vector3(0, 1, 0)), 0)).toBeNull()
  })

  it('comes onto the grid in plan, and onto the slope at the place it came to', () => {
    const tilted = level({ rotation: degreesToQuat([0, 0, 30]) })
    const landing = findLanding(tilted, down(0.6, 0.1), 0.25)!
    expect([landing.point[0], landing.point[2]]).toEqual([0.5, 0])
    const exact = findLanding(tilted, down(0.5, 0), 0)!
    expect(landing.point[1]).toBeCloseTo(exact.point[1], 6)
    // A plane turned by 30 degrees about Z rises by tan 30 degrees along X.
    const further = findLanding(tilted, down(1, 0), 0)!
    expect((further.point[1] - exact.point[1]) / 0.5).toBeCloseTo(Math.tan(Math.PI / 6), 4)
  })

  it('stays on a wall where it was met', () => {
    const landing = findLanding(level({}), new Ray(new Vector3(0.1, 0.4, 9), new Vector3(0, 0, -1)), 0.25)!
    expect(landing.normal).toEqual([0, 0, 1])
    expect(landing.point).toEqual([0.1, 0.4, 2])
  })

  it('does not see what is hidden', () => {
    expect(findLanding(level({ hidden: true }), down(0, 0), 0)!.surfaceId).toBeNull()
  })
})

describe('standingRotation', () => {
  it('keeps upright, or lays its up along the surface', () => {
    const normal = new Vector3(1, 2, -0.5).normalize()
    const up = (leaning: boolean) =>
      new Vector3(0, 1, 0).applyQuaternion(new Quaternion(...standingRotation(normal.toArray(), 40, leaning)))
    expect(up(false).distanceTo(new Vector3(0, 1, 0))).toBeLessThan(1e-12)
    expect(up(true).distanceTo(normal)).toBeLessThan(1e-12)
  })

  it('turns by the heading about the vertical', () => {
    const matrix = new Matrix4().makeRotationFromQuaternion(new Quaternion(...standingRotation([0, 1, 0], 90, false)))
    expect(new Vector3(0, 0, 1).applyMatrix4(matrix).distanceTo(new Vector3(1, 0, 0))).toBeLessThan(1e-12)
  })
})

it('snaps without the crumbs of binary fractions', () => {
  expect(snapToStep(0.31, 0.1)).toBe(0.3)
  expect(snapToStep(-0.13, 0.25)).toBe(-0.25)
  expect(Object.is(snapToStep(-0.1, 0.25), 0)).toBe(true)
  expect(snapToStep(1.234, 0)).toBe(1.234)
})
