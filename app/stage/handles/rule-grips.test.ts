import { Box3, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { View } from '../view'
import { Handles } from './handles'

function bench() {
  const view = new View(
    'walkaround',
    true,
    () => new Box3(new Vector3(-9, 0, -9), new Vector3(9, 3, 9)),
    () => {},
  )
  view.setRect({ x: 0, y: 0, width: 800, height: 600 })
  view.lookFrom(new Vector3(4, 5, 9), new Vector3(0, 0, 0))
  const handles = new Handles()
  handles.choose('all')
  handles.place({ origin: new Vector3(), axes: new Quaternion(), box: null })
  return { view, handles }
}
const grip = (index: number) => ({ do: 'grip' as const, index })

describe('grips of a rule', () => {
  it('stand where they are in free places, and aside of handles where one is in the way, and are found there', () => {
    const { view, handles } = bench()
    const tag = handles.grip({ do: 'move', kind: 'axis', axis: 0 }, view)!
    const onTag = view.rayAt(tag).at(9, new Vector3())
    handles.setGrips([{ at: onTag }, { at: new Vector3(-5, 0, 0) }])
    expect(handles.asideOf(grip(1), view)).toEqual({ x: 0, y: 0 })
    const aside = handles.asideOf(grip(0), view)
    expect(Math.hypot(aside.x, aside.y)).toBeGreaterThan(20)
    const [drawn, place] = [handles.grip(grip(0), view)!, view.project(onTag)!]
    expect([drawn.x - place.x, drawn.y - place.y]).toEqual([expect.closeTo(aside.x, 6), expect.closeTo(aside.y, 6)])
    expect(handles.hit(drawn, view)).toEqual(grip(0))
    // What was under it can be taken hold of.
    expect(handles.hit(tag, view)).toEqual({ do: 'move', kind: 'axis', axis: 0 })
  })

  it('come out from under bars', () => {
    const { view, handles } = bench()
    const at = new Vector3(-5, 0, 0)
    handles.setGrips([{ at }])
    const { x, y } = view.project(at)!
    const bar = { left: x - 30, right: x + 30, top: y - 10, bottom: y + 10 }
    handles.setBars([bar])
    const drawn = handles.grip(grip(0), view)!
    expect(drawn.x < bar.left || drawn.x > bar.right || drawn.y < bar.top || drawn.y > bar.bottom).toBe(true)
    expect(handles.hit(drawn, view)).toEqual(grip(0))
  })
})
