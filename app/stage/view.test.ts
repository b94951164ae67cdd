import fc from 'fast-check'
import { Box3, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { ViewKind } from '~~/core/math/pose'
import { anyVec3 } from '../../tests/support'
import { View } from './view'

const level = new Box3(new Vector3(-20, -2, -20), new Vector3(20, 6, 20))
const kinds: ViewKind[] = ['walkaround', 'plan', 'front', 'side']

function viewOf(kind: ViewKind) {
  const view = new View(
    kind,
    true,
    () => level,
    () => {},
  )
  view.setRect({ x: 310, y: 46, width: 640, height: 480 })
  view.lookFrom(new Vector3(9, 7, 14), new Vector3(0.5, 0, -1))
  return view
}

const anyPoint = anyVec3.map(at => new Vector3(...at).multiplyScalar(0.1))

describe.each(kinds)('a %s view', kind => {
  it('has the ray of a pixel go through the point that is seen there', () => {
    fc.assert(
      fc.property(anyPoint, point => {
        const view = viewOf(kind)
        const seen = view.project(point)!
        expect(view.rayAt(seen).distanceToPoint(point)).toBeLessThan(1e-6)
      }),
    )
  })

  it('keeps the point taken hold of under the pointer while panning', () => {
    fc.assert(
      fc.property(
        anyPoint,
        fc.integer({ min: -200, max: 200 }),
        fc.integer({ min: -200, max: 200 }),
        (point, dx, dy) => {
          const view = viewOf(kind)
          const before = view.project(point)!
          view.pan(dx, dy, point)
          const after = view.project(point)!
          expect(after.x - before.x).toBeCloseTo(dx, 4)
          expect(after.y - before.y).toBeCloseTo(dy, 4)
        },
      ),
    )
  })

  it('keeps the point zoomed at where it is', () => {
    fc.assert(
      fc.property(anyPoint, fc.double({ min: 0.5, max: 2, noNaN: true }), (point, factor) => {
        const view = viewOf(kind)
        const before = view.project(point)!
        view.zoom(point, factor)
        const after = view.project(point)!
        expect(Math.hypot(after.x - before.x, after.y - before.y)).toBeLessThan(1e-3)
      }),
    )
  })

  it('spans as many metres a pixel as it says', () => {
    fc.assert(
      fc.property(anyPoint, point => {
        const view = viewOf(kind)
        const beside = point.clone().addScaledVector(view.directions().right, 0.01)
        const [a, b] = [view.project(point)!, view.project(beside)!]
        expect(Math.hypot(a.x - b.x, a.y - b.y) * view.metresPerPixel(point)).toBeCloseTo(0.01, 5)
      }),
    )
  })

  it('has the whole level between its near and far distances', () => {
    const view = viewOf(kind)
    for (const corner of [level.min, level.max, new Vector3(-20, 6, 20), new Vector3(20, -2, -20)]) {
      const depth = -corner.clone().applyMatrix4(view.camera.matrixWorldInverse).z
      expect(depth).toBeLessThan(view.camera.far)
      if (kind !== 'walkaround') expect(depth).toBeGreaterThan(view.camera.near)
    }
  })

  it('brings a box into view', () => {
    const view = viewOf(kind)
    const box = new Box3(new Vector3(3, 0, 4), new Vector3(5, 1, 9))
    view.frame(box, false)
    for (const corner of [box.min, box.max, new Vector3(3, 1, 9), new Vector3(5, 0, 4)]) {
      const seen = view.project(corner)!
      expect(view.contains(seen)).toBe(true)
    }
  })
})

describe('the fixed views', () => {
  it.each([
    ['plan', [0, -1, 0]],
    ['front', [0, 0, -1]],
    ['side', [-1, 0, 0]],
  ] as const)('%s looks along %j whatever is done to it', (kind, forward) => {
    const view = viewOf(kind)
    view.orbit(80, 50, new Vector3(1, 2, 3))
    view.lookAround(-40, 90)
    view.zoom(new Vector3(2, 0, 1), 0.6)
    view
      .directions()
      .forward.toArray()
      .forEach((value, i) => expect(value).toBeCloseTo(forward[i]!, 12))
  })

  it('show the plan with X to the right and -Z up, as a sheet lies on a table', () => {
    const { right, up } = viewOf('plan').directions()
    expect(right.x).toBeCloseTo(1, 12)
    expect(up.z).toBeCloseTo(-1, 12)
  })
})

describe('flying', () => {
  it('goes at the speed asked for, along where one looks', () => {
    const view = viewOf('walkaround')
    const [from, { forward }] = [view.eye.clone(), view.directions()]
    view.velocity = new Vector3(0, 0, 5)
    expect(view.update(0.4)).toBe(true)
    expect(view.eye.clone().sub(from).distanceTo(forward.multiplyScalar(2))).toBeLessThan(1e-9)
    view.velocity = null
    expect(view.update(0.4)).toBe(false)
  })
})

describe('near and far by hand', () => {
  it('take the place of those that follow', () => {
    const view = viewOf('walkaround')
    view.clip = { near: 2, far: 50 }
    view.update(0)
    expect([view.camera.near, view.camera.far]).toEqual([2, 50])
  })
})

it('gives a frame of the picture for two corners in any order', () => {
  const view = viewOf('walkaround')
  const frame = view.frameOf({ x: 950, y: 46 }, { x: 310, y: 286 })
  expect(frame).toEqual({ x0: -1, x1: 1, y0: 0, y1: 1 })
})
