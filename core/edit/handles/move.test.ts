import fc from 'fast-check'
import { Matrix4, PerspectiveCamera, Quaternion, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyTree, anyVec3, testId, testPlacement } from '../../../tests/support'
import { applyChange } from '../../level/change'
import { bareView } from '../../scene/level-view'
import type { ViewDirections } from './axis-drag'
import { snapOffset, WORLD_GRID } from '../snap/grid'
import { directionsOf } from './axes'
import { MoveDrag, movePlacements } from './move'

/** A camera that looks at a point, with rays through points of the world as a pointer over them would give. */
function eyeAt(eye: Vector3, target: Vector3) {
  const camera = new PerspectiveCamera(60, 1.6, 0.1, 1000)
  camera.position.copy(eye)
  camera.lookAt(target)
  camera.updateMatrixWorld()
  const [right, up, back] = [new Vector3(), new Vector3(), new Vector3()]
  camera.matrixWorld.extractBasis(right, up, back)
  const view: ViewDirections = { right, up, forward: back.negate() }
  return { view, rayTo: (point: Vector3) => new Ray(eye.clone(), point.clone().sub(eye).normalize()) }
}

const anyEye = anyVec3.filter(([x, y, z]) => Math.hypot(x, y, z) > 4).map(at => new Vector3(...at))
const anyAxis = fc.constantFrom(0 as const, 1 as const, 2 as const)
const anyAxes = fc.oneof(
  fc.constant(new Quaternion()),
  anyQuat.map(quat => new Quaternion(...quat)),
)
const lattice = (size: number) => ({ size, lattice: true })

describe('MoveDrag along an axis', () => {
  it('goes exactly as far as the point under the pointer lies along the axis, whatever the axes', () => {
    fc.assert(
      fc.property(anyEye, anyAxis, anyAxes, fc.double({ min: -3, max: 3, noNaN: true }), (eye, axis, axes, way) => {
        const origin = new Vector3(0.5, -0.25, 0.75)
        const { view, rayTo } = eyeAt(eye, origin)
        const direction = directionsOf(axes)[axis]
        fc.pre(Math.abs(origin.clone().sub(eye).normalize().dot(direction)) < 0.98)
        const end = origin.clone().addScaledVector(direction, way)
        const moved = new MoveDrag(rayTo(origin), origin, { kind: 'axis', axis }, axes, view).update(rayTo(end))
        expect(moved.dot(direction)).toBeCloseTo(way, 6)
        expect(moved.addScaledVector(direction, -way).length()).toBeLessThan(1e-6)
      }),
    )
  })

  it('stays calm and goes away from the viewer as the pointer goes up, when the axis points at the viewer', () => {
    const origin = new Vector3()
    for (const side of [-1, 1]) {
      const { view, rayTo } = eyeAt(new Vector3(0.02, 0.03, 10 * side), origin)
      const drag = new MoveDrag(rayTo(origin), origin, { kind: 'axis', axis: 2 }, new Quaternion(), view)
      const small = drag.update(rayTo(view.up.clone().multiplyScalar(0.05)))
      const large = drag.update(rayTo(view.up.clone()))
      // The far side is -Z for a viewer on +Z.
      expect(Math.sign(large.z)).toBe(-side)
      expect(Math.abs(large.z)).toBeGreaterThan(0.8)
      expect(Math.abs(large.z)).toBeLessThan(1.2)
      expect(Math.abs(small.z)).toBeLessThan(0.1)
    }
  })

  it("keeps the last good place where the pointer has left the axis's plane behind the horizon", () => {
    const origin = new Vector3()
    const { view, rayTo } = eyeAt(new Vector3(0, 2, 10), origin)
    const drag = new MoveDrag(rayTo(origin), origin, { kind: 'axis', axis: 0 }, new Quaternion(), view)
    const good = drag.update(rayTo(new Vector3(2, 0, 0)))
    expect(drag.update(new Ray(new Vector3(0, 2, 10), new Vector3(0, 0.1, 1).normalize()))).toEqual(good)
  })
})

describe('MoveDrag in a plane', () => {
  it('follows the pointer over the plane and leaves its axis alone', () => {
    fc.assert(
      fc.property(anyEye, anyAxis, anyAxes, anyVec3, (eye, axis, axes, to) => {
        const origin = new Vector3(0.1, 0.2, 0.3)
        const { view, rayTo } = eyeAt(eye, origin)
        const normal = directionsOf(axes)[axis]
        fc.pre(Math.abs(origin.clone().sub(eye).normalize().dot(normal)) > 0.1)
        const way = new Vector3(...to).multiplyScalar(0.05)
        way.addScaledVector(normal, -way.dot(normal))
        const moved = new MoveDrag(rayTo(origin), origin, { kind: 'plane', axis }, axes, view).update(
          rayTo(origin.clone().add(way)),
        )
        expect(moved.distanceTo(way)).toBeLessThan(1e-6)
      }),
    )
  })
})

describe('the grid', () => {
  const world = new Quaternion()

  it('lands on the lattice of the world, not of where the drag began', () => {
    const from = new Vector3(0.13, 0, 0)
    const moved = snapOffset(from, new Vector3(0.9, 0, 0), { kind: 'axis', axis: 0 }, world, lattice(0.25), WORLD_GRID)
    expect(from.x + moved.x).toBe(1)
    expect(
      snapOffset(
        from,
        new Vector3(0.9, 0, 0),
        { kind: 'axis', axis: 0 },
        world,
        { size: 0.25, lattice: false },
        WORLD_GRID,
      ).x,
    ).toBe(1)
    expect(
      snapOffset(from, new Vector3(0.9, 0, 0), { kind: 'axis', axis: 0 }, world, { size: 0, lattice: true }, WORLD_GRID)
        .x,
    ).toBe(0.9)
  })

  it('never leaves what the constraint holds still, and puts what is free on a line of the grid', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyVec3,
        anyAxis,
        anyAxes,
        anyAxes,
        fc.constantFrom(0.1, 0.25, 0.0254),
        (at, way, axis, axes, frame, size) => {
          const [from, offset] = [new Vector3(...at), new Vector3(...way)]
          const direction = directionsOf(axes)[axis]
          const grid = { axes: frame, origin: new Vector3(0.3, -0.1, 0.7) }
          const offLine = (point: Vector3) =>
            point
              .clone()
              .sub(grid.origin)
              .applyQuaternion(frame.clone().invert())
              .toArray()
              .map(value => Math.abs(value / size - Math.round(value / size)))
          const along = snapOffset(
            from,
            direction.clone().multiplyScalar(offset.dot(direction)),
            { kind: 'axis', axis },
            axes,
            lattice(size),
            grid,
          )
          expect(along.clone().addScaledVector(direction, -along.dot(direction)).length()).toBeLessThan(1e-9)
          expect(Math.min(...offLine(from.clone().add(along)))).toBeLessThan(1e-6)
          const flat = offset.clone().addScaledVector(direction, -offset.dot(direction))
          const over = snapOffset(from, flat, { kind: 'plane', axis }, axes, lattice(size), grid)
          expect(Math.abs(over.dot(direction))).toBeLessThan(1e-9)
          expect(offLine(from.clone().add(over)).sort((a, b) => a - b)[1]).toBeLessThan(1e-6)
          const free = snapOffset(from, offset, { kind: 'view' }, axes, lattice(size), grid)
          expect(Math.max(...offLine(from.clone().add(free)))).toBeLessThan(1e-6)
        },
      ),
    )
  })

  it("counts increments along the drag's own axes", () => {
    fc.assert(
      fc.property(anyVec3, anyVec3, anyAxes, (at, way, axes) => {
        const moved = snapOffset(
          new Vector3(...at),
          new Vector3(...way),
          { kind: 'view' },
          axes,
          { size: 0.25, lattice: false },
          WORLD_GRID,
        )
        for (const direction of directionsOf(axes)) {
          const steps = moved.dot(direction) / 0.25
          expect(steps).toBeCloseTo(Math.round(steps), 6)
        }
      }),
    )
  })
})

describe('movePlacements', () => {
  it('moves every chosen thing by the offset in the world, whatever it hangs from', () => {
    fc.assert(
      fc.property(anyTree(8), fc.array(fc.nat(), { minLength: 1, maxLength: 4 }), anyVec3, (tree, which, offset) => {
        const level = bareView(tree)
        const ids = new Set(which.map(n => tree[n % tree.length]!.id))
        const before = new Map(tree.map(({ id }) => [id, level.worldMatrix(id).clone()]))
        applyChange(level, movePlacements(level, ids, new Vector3(...offset)))
        const shift = new Matrix4().makeTranslation(...offset)
        for (const { id } of tree) {
          const goes = [...ids].some(chosen => level.isWithin(id, chosen))
          const expected = goes ? before.get(id)!.clone().premultiply(shift) : before.get(id)!
          const size = Math.max(...expected.elements.map(Math.abs), 1)
          level
            .worldMatrix(id)
            .elements.forEach((value, i) => expect(Math.abs(value - expected.elements[i]!) / size).toBeLessThan(1e-7))
        }
      }),
    )
  })

  it('moves what hangs from a moved thing once', () => {
    const level = bareView([testPlacement(1), testPlacement(2, { parentId: testId(1) })])
    expect(movePlacements(level, [testId(1), testId(2)], new Vector3(1, 0, 0))).toHaveLength(1)
  })
})
