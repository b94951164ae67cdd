import { describe, expect, it } from 'vitest'
import type { Dragged } from '~~/core/api/people'
import { presenceSchema } from '~~/core/api/people'
import { createPlacement } from '~~/core/level/create'
import type { Operation } from '~~/core/level/schema'
import { testId } from '../../../tests/support'
import { DraggedByOthers } from './dragged-by-others'
import { draggedToTell, newsOf, pickedToTell } from './own-presence'

const [ADA, BEN] = [testId(1), testId(2)]
const crate = createPlacement({ id: testId(10), name: 'Crate', kind: 'part', partId: testId(50), order: 0 })
const group = createPlacement({ id: testId(11), name: 'Group', kind: 'group', order: 0 })
const level = { get: (id: string) => [crate, group].find(each => each.id === id) }

const dragged = (x: number, more: Partial<Dragged> = {}): Dragged => ({
  id: crate.id,
  parentId: null,
  translation: [x, 0, 0],
  rotation: [0, 0, 0, 1],
  scale: [1, 1, 1],
  pivot: [0, 0, 0],
  partId: null,
  ...more,
})
const xOf = (operations: readonly Operation[]) =>
  operations.map(each => (each.do === 'put' ? each.fields.translation![0] : null))

describe('what others hold', () => {
  it('goes smoothly from where it stands to where they tell, and is there after a while', () => {
    const seen = new DraggedByOthers(level, false)
    seen.tell(ADA, { things: [dragged(4)], of: 1 }, 0)
    expect(xOf(seen.operations())).toEqual([0])
    const way = Array.from({ length: 60 }, (_, i) => {
      seen.step(16, i * 16)
      return xOf(seen.operations())[0]!
    })
    expect(way).toEqual(way.toSorted((a, b) => a - b))
    expect([way[0]! < 1, way.at(-1)]).toEqual([true, 4])
    expect(seen.step(16, 1000)).toEqual({ moved: false, goesOn: false })
    expect([...seen.movers]).toEqual([[crate.id, ADA]])
  })

  it('stays where it was let go of until the level has it there, or for a short while', () => {
    const seen = new DraggedByOthers(level, true)
    seen.tell(ADA, { things: [dragged(4)], of: 1 }, 0)
    seen.tell(ADA, null, 100)
    expect([xOf(seen.operations()), seen.movers.size]).toEqual([[4], 0])
    seen.step(16, 500)
    expect(xOf(seen.operations())).toEqual([4])
    seen.touched(new Set([crate.id]))
    expect([seen.operations(), seen.step(16, 510).moved]).toEqual([[], true])
    seen.tell(ADA, { things: [dragged(5)], of: 1 }, 600)
    seen.tell(ADA, null, 700)
    expect(seen.step(16, 5000)).toEqual({ moved: true, goesOn: false })
    expect(seen.operations()).toEqual([])
    // Where nobody drags anything, that is shown as well, once.
    const anew = new DraggedByOthers(level, true)
    expect([anew.step(16, 0).moved, anew.step(16, 16).moved]).toEqual([true, false])
  })

  it('is shown only where it can be: hanging from what it does here, or new', () => {
    const seen = new DraggedByOthers(level, true)
    const fresh = dragged(2, { id: testId(30), parentId: group.id, partId: testId(50) })
    const things = [
      dragged(1, { parentId: group.id }),
      dragged(1, { id: testId(31) }),
      dragged(1, { id: testId(32), parentId: testId(33), partId: testId(50) }),
      fresh,
    ]
    seen.tell(ADA, { things, of: 4 }, 0)
    const { id, ...fields } = fresh
    expect(seen.operations()).toEqual([{ do: 'put', id, fields }])
    seen.tell(BEN, { things: [dragged(7)], of: 1 }, 0)
    seen.forget(ADA)
    expect(xOf(seen.operations())).toEqual([7])
  })
})

describe('what others are told of the person here', () => {
  it('is what is moved, turned or sized, and parts that are put down, in numbers that are not too long', () => {
    const turn = Math.SQRT1_2
    const operations: Operation[] = [
      { do: 'put', id: crate.id, fields: { translation: [1 / 3, -1e-9, 2], rotation: [0, turn, 0, turn] } },
      { do: 'put', id: group.id, fields: { name: 'Renamed' } },
      {
        do: 'put',
        id: testId(40),
        fields: {
          ...createPlacement({ id: testId(40), name: 'New', kind: 'part', partId: testId(50), order: 0 }),
          parentId: group.id,
        },
      },
      { do: 'remove', id: testId(41) },
    ]
    const told = draggedToTell(operations, level.get)
    expect(told).toEqual({
      of: 2,
      things: [
        dragged(0, { translation: [0.333333, 0, 2], rotation: [0, 0.707106781, 0, 0.707106781] }),
        dragged(0, { id: testId(40), parentId: group.id, partId: testId(50) }),
      ],
    })
    expect(presenceSchema.partial().safeParse({ drags: told }).success).toBe(true)
    expect(draggedToTell(null, level.get)).toBeNull()
    // What would hang from something else is told once that is done.
    expect(
      draggedToTell([{ do: 'put', id: crate.id, fields: { parentId: group.id, translation: [0, 0, 0] } }], level.get),
    ).toBeNull()
  })

  it('is bounded, and only what is new', () => {
    expect(pickedToTell([`${crate.id}#1`, `${crate.id}#2`, group.id])).toEqual([crate.id, group.id])
    expect(pickedToTell(Array.from({ length: 1000 }, (_, i) => testId(i + 1)))).toHaveLength(100)
    const is = { name: 'Ada', mark: 1, picked: [crate.id], drags: null, view: null, reserved: [] }
    expect(newsOf({}, is)).toEqual(is)
    expect(newsOf({ ...is, picked: [] }, is)).toEqual({ picked: [crate.id] })
    expect(newsOf(is, { ...is, drags: { things: [dragged(1e300)], of: 1 }, mark: 2 })).toEqual({ mark: 2 })
  })
})
