import fc from 'fast-check'
import { Box3, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Handle } from '~~/core/edit/handles/handle'
import { View } from '../view'
import { Handles } from './handles'

function bench() {
  // Without perspective, which makes what is nearer larger.
  const view = new View(
    'front',
    true,
    () => new Box3(new Vector3(-9, -9, -9), new Vector3(9, 9, 9)),
    () => {},
  )
  view.setRect({ x: 40, y: 20, width: 900, height: 700 })
  view.lookFrom(new Vector3(0, 0, 9), new Vector3())
  const handles = new Handles()
  handles.choose('move')
  handles.place({ origin: new Vector3(), axes: new Quaternion(), box: null })
  return { view, handles }
}

const away = (handles: Handles, view: View, handle: Handle) => {
  const [at, origin] = [handles.grip(handle, view)!, view.project(new Vector3())!]
  return Math.hypot(at.x - origin.x, at.y - origin.y)
}

describe('handles of another size', () => {
  it('stand so much farther out, and are found where they stand', () => {
    const { view, handles } = bench()
    const axes = ([0, 1] as const).map((axis): Handle => ({ do: 'move', kind: 'axis', axis }))
    const ordinary = axes.map(each => away(handles, view, each))
    fc.assert(
      fc.property(
        fc.double({ min: 0.6, max: 2, noNaN: true }),
        fc.double({ min: 1, max: 2, noNaN: true }),
        (wanted, finger) => {
          handles.setSize({ wanted, finger })
          axes.forEach((each, i) => {
            expect(away(handles, view, each) / ordinary[i]!).toBeCloseTo(wanted * finger, 9)
            expect(handles.hit(handles.grip(each, view)!, view)).toEqual(each)
          })
        },
      ),
      { numRuns: 40 },
    )
  })

  it('are hit from as much farther beside', () => {
    const { view, handles } = bench()
    const peg: Handle = { do: 'move', kind: 'axis', axis: 1 }
    const beside = (pixels: number) => {
      const { x, y } = handles.grip(peg, view)!
      return handles.hit({ x: x + pixels, y: y - pixels }, view)
    }
    expect([beside(11), beside(16)]).toEqual([peg, null])
    handles.setSize({ finger: 1.6 })
    expect([beside(16), beside(24)]).toEqual([peg, null])
  })
})
