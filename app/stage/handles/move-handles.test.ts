import fc from 'fast-check'
import { Box3, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Handle } from '~~/core/edit/handles/handle'
import type { Constraint } from '~~/core/edit/handles/lock'
import type { ViewKind } from '~~/core/math/pose'
import { anyVec3 } from '../../../tests/support'
import { View } from '../view'
import { Handles } from './handles'

function bench(kind: ViewKind, eye: Vector3, origin = new Vector3(0.3, 0.2, -0.4)) {
  const view = new View(
    kind,
    true,
    () => new Box3(new Vector3(-9, -9, -9), new Vector3(9, 9, 9)),
    () => {},
  )
  view.setRect({ x: 0, y: 0, width: 900, height: 700 })
  view.lookFrom(eye, origin)
  const handles = new Handles()
  handles.choose('move')
  handles.place({ origin, axes: new Quaternion(), box: null })
  return { view, handles, origin }
}

const move = (constraint: Constraint): Handle => ({ do: 'move', ...constraint })

const oblique = new Vector3(7, 6, 9)

describe('the Move handles', () => {
  it('are found where they say they can be taken hold of, from any side', () => {
    const all: Constraint[] = [
      { kind: 'view' },
      ...([0, 1, 2] as const).flatMap((axis): Constraint[] => [
        { kind: 'axis', axis },
        { kind: 'plane', axis },
      ]),
    ]
    fc.assert(
      fc.property(
        anyVec3.filter(at => Math.min(...at.map(Math.abs)) > 8),
        at => {
          const { view, handles } = bench('walkaround', new Vector3(...at).multiplyScalar(0.5))
          for (const handle of all) {
            const grip = handles.grip(move(handle), view)!
            const found = handles.hit(grip, view)
            // Seen from some sides a quarter-disc lies behind a stick, which then comes first.
            if (handle.kind !== 'plane') expect(found).toEqual(move(handle))
            else expect(found).not.toBeNull()
          }
        },
      ),
    )
  })

  it('are easy to hit: a peg within at least ten pixels', () => {
    const { view, handles } = bench('walkaround', oblique)
    for (const axis of [0, 1, 2] as const) {
      const { x, y } = handles.grip(move({ kind: 'axis', axis }), view)!
      for (let turn = 0; turn < 8; turn++) {
        const at = { x: x + 10 * Math.cos((turn * Math.PI) / 4), y: y + 10 * Math.sin((turn * Math.PI) / 4) }
        expect(handles.hit(at, view)).toEqual(move({ kind: 'axis', axis }))
      }
    }
  })

  it('keep their size on the screen, near and far', () => {
    const lengths = [0.3, 1, 4].map(factor => {
      const { view, handles, origin } = bench('front', oblique)
      view.zoom(origin, factor)
      const [a, b] = [view.project(origin)!, handles.grip(move({ kind: 'axis', axis: 0 }), view)!]
      return Math.hypot(a.x - b.x, a.y - b.y)
    })
    for (const length of lengths) expect(length).toBeCloseTo(lengths[0]!, 6)
  })

  it("point to the viewer's side, so that no axis is hidden behind the thing", () => {
    for (const side of [-1, 1]) {
      const { view, handles, origin } = bench('walkaround', new Vector3(6 * side, 5 * side, 8 * side))
      for (const axis of [0, 1, 2] as const) {
        const grip = handles.grip(move({ kind: 'axis', axis }), view)!
        const tip = view.project(origin.clone().setComponent(axis, origin.getComponent(axis) + side))!
        const middle = view.project(origin)!
        expect((grip.x - middle.x) * (tip.x - middle.x) + (grip.y - middle.y) * (tip.y - middle.y)).toBeGreaterThan(0)
      }
    }
  })

  it('leave out an axis that points at the viewer, and are nowhere while hidden', () => {
    const { view, handles, origin } = bench('front', oblique)
    expect(handles.hit(handles.grip(move({ kind: 'axis', axis: 2 }), view)!, view)).toEqual(move({ kind: 'view' }))
    handles.place(null)
    expect(handles.isShown).toBe(false)
    expect(handles.hit(view.project(origin)!, view)).toBeNull()
    expect(handles.grip(move({ kind: 'view' }), view)).toBeNull()
  })

  it('say whether lighting one up changes anything', () => {
    const { handles } = bench('walkaround', oblique)
    expect(handles.light(move({ kind: 'axis', axis: 1 }))).toBe(true)
    expect(handles.light(move({ kind: 'axis', axis: 1 }))).toBe(false)
    expect(handles.light(move({ kind: 'axis', axis: 1 }), true)).toBe(true)
    expect(handles.light(null)).toBe(true)
  })
})
