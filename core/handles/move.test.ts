import fc from 'fast-check'
import { Matrix4, PerspectiveCamera, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyTree, anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange } from '../level/change'
import { LevelDocument } from '../level/document'
import type { ViewDirections } from './axis-drag'
import { AXES, MoveDrag, movePlacements } from './move'

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
const anyAxis = fc.constantFrom(0, 1, 2)

describe('MoveDrag along an axis', () => {
  it('goes exactly as far as the point under the pointer lies along the axis', () => {
    fc.assert(fc.property(anyEye, anyAxis, fc.double({ min: -3, max: 3, noNaN: true }), (eye, axis, way) => {
      const origin = new Vector3(0.5, -0.25, 0.75)
      const { view, rayTo } = eyeAt(eye, origin)
      const end = origin.clone().addScaledVector(AXES[axis]!, way)
      const sight = origin.clone().sub(eye).normalize()
      fc.pre(Math.abs(sight.dot(AXES[axis]!)) < 0.98)
      const moved = new MoveDrag(rayTo(origin), origin, { kind: 'axis', axis }, view).update(rayTo(end), 0)
      expect(moved[axis]).toBeCloseTo(way, 6)
      expect(moved.filter((_, i) => i !== axis)).toEqual([0, 0])
    }))
  })

  it('stays calm and goes away from the viewer as the pointer goes up, when the axis points at the viewer', () => {
    const origin = new Vector3()
    for (const side of [-1, 1]) {
      const { view, rayTo } = eyeAt(new Vector3(0.02, 0.03, 10 * side), origin)
      const drag = new MoveDrag(rayTo(origin), origin, { kind: 'axis', axis: 2 }, view)
      const small = drag.update(rayTo(view.up.clone().multiplyScalar(0.05)), 0)
      const large = drag.update(rayTo(view.up.clone()), 0)
      // The far side is -Z for a viewer on +Z.
      expect(Math.sign(large[2])).toBe(-side)
      expect(Math.abs(large[2])).toBeGreaterThan(0.8)
      expect(Math.abs(large[2])).toBeLessThan(1.2)
      expect(Math.abs(small[2])).toBeLessThan(0.1)
    }
  })

  it('keeps the last good place where the pointer has left the axis\'s plane behind the horizon', () => {
    const origin = new Vector3()
    const { view, rayTo } = eyeAt(new Vector3(0, 2, 10), origin)
    const drag = new MoveDrag(rayTo(origin), origin, { kind: 'axis', axis: 0 }, view)
    const good = drag.update(rayTo(new Vector3(2, 0, 0)), 0)
    expect(drag.update(new Ray(new Vector3(0, 2, 10), new Vector3(0, 0.1, 1).normalize()), 0)).toEqual(good)
  })

  it('lands on the grid of the world, not of where it began', () => {
    const origin = new Vector3(0.13, 0, 0)
    const { view, rayTo } = eyeAt(new Vector3(1, 4, 8), origin)
    const drag = new MoveDrag(rayTo(origin), origin, { kind: 'axis', axis: 0 }, view)
    const [x] = drag.update(rayTo(new Vector3(1.03, 0, 0)), 0.25)
    expect(origin.x + x).toBe(1)
  })
})

describe('MoveDrag in a plane', () => {
  it('follows the pointer over the plane and leaves its axis alone, also off the grid', () => {
    fc.assert(fc.property(anyEye, anyAxis, anyVec3, (eye, axis, to) => {
      const origin = new Vector3(0.1, 0.2, 0.3)
      const { view, rayTo } = eyeAt(eye, origin)
      const sight = origin.clone().sub(eye).normalize()
      fc.pre(Math.abs(sight.getComponent(axis)) > 0.1)
      const end = new Vector3(...to).multiplyScalar(0.05).add(origin).setComponent(axis, origin.getComponent(axis))
      const drag = new MoveDrag(rayTo(origin), origin, { kind: 'plane', axis }, view)
      const moved = new Vector3(...drag.update(rayTo(end), 0)).add(origin)
      expect(moved.distanceTo(end)).toBeLessThan(1e-6)
      expect(drag.update(rayTo(end), 0.5)[axis]).toBe(0)
    }))
  })
})

describe('movePlacements', () => {
  it('moves every chosen thing by the offset in the world, whatever it hangs from', () => {
    fc.assert(fc.property(anyTree(8), fc.array(fc.nat(), { minLength: 1, maxLength: 4 }), anyVec3, (tree, which, offset) => {
      const document = new LevelDocument(tree)
      const ids = new Set(which.map(n => tree[n % tree.length]!.id))
      const before = new Map(tree.map(({ id }) => [id, document.worldMatrix(id).clone()]))
      applyChange(document, movePlacements(document, ids, offset))
      const shift = new Matrix4().makeTranslation(...offset)
      for (const { id } of tree) {
        const goes = [...ids].some(chosen => document.isWithin(id, chosen))
        const expected = goes ? before.get(id)!.clone().premultiply(shift) : before.get(id)!
        const size = Math.max(...expected.elements.map(Math.abs), 1)
        document.worldMatrix(id).elements.forEach((value, i) => expect(Math.abs(value - expected.elements[i]!) / size).toBeLessThan(1e-7))
      }
    }))
  })

  it('moves what hangs from a moved thing once', () => {
    const document = new LevelDocument([testPlacement(1), testPlacement(2, { parentId: testId(1) })])
    expect(movePlacements(document, [testId(1), testId(2)], [1, 0, 0])).toHaveLength(1)
  })
})
