import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { levelOfBoxes, testId } from '../../tests/support'
import type { PointOn } from '../level/fields'
import type { RelationRule } from '../level/relation'
import type { Operation } from '../level/schema'
import { applyChange } from '../level/change'
import type { Vec3 } from '../math/vectors'
import { findKept } from './find-kept'
import { heldNumbers } from './held-numbers'

const holder = (number: number): PointOn => ({ at: [0, 0, 0], on: testId(number), point: [0, 0, 0] })
const keep = (id: number, held: number, by: number, rule: RelationRule): Operation => ({
  do: 'put-relation',
  id: testId(600 + id),
  fields: { held: testId(held), point: [0, 0, 0], holders: [holder(by)], rule },
})
const apart = (along: Vec3): RelationRule => ({ kind: 'apart', along, distance: 1 })

function scene(...operations: Operation[]) {
  const turn = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), Math.PI / 2).toArray()
  const { level, index } = levelOfBoxes([
    { name: 'Quay slab', size: [8, 1, 8], translation: [0, -1, 0] },
    { name: 'Stall', rotation: turn as [number, number, number, number] },
    { name: 'Crate of tea', size: [1, 1, 1], parentId: testId(2), translation: [1, 0, 0] },
    { name: 'Lamp', size: [1, 1, 1], translation: [3, 0, 0] },
  ])
  applyChange(level, operations)
  const said = (id: number, inWorld: boolean) => {
    const found = heldNumbers(level, index, testId(id), inWorld)
    return found && Object.entries(found).map(([row, by]) => `${row} ${by.map(each => each.length).join('')}`)
  }
  return { level, said }
}

describe('the numbers of a thing that are held', () => {
  it('are those along what is asked, in the axes in which they are shown', () => {
    const { said } = scene(keep(1, 3, 4, apart([1, 0, 0])))
    expect(said(3, true)).toEqual(['position 100', 'turn 000', 'size 000'])
    // What it hangs from is turned by a quarter: its own Z goes along the world's X.
    expect(said(3, false)).toEqual(['position 001', 'turn 000', 'size 000'])
    expect(said(4, true)).toBeNull()
  })

  it('are its turn, its size and its height, each by what takes it', () => {
    const { said } = scene(
      keep(1, 4, 1, { kind: 'on', rest: 'lowest', leaning: false, offset: 0, stays: false }),
      keep(2, 4, 2, { kind: 'facing', upright: true }),
      keep(3, 4, 3, { kind: 'same', of: 'height', times: 1 }),
    )
    expect(said(4, true)).toEqual(['position 010', 'turn 010', 'size 010'])
    expect(scene(keep(1, 4, 2, { kind: 'facing', upright: false })).said(4, true)![1]).toBe('turn 111')
  })
})

describe('finding by what keeps things', () => {
  it('finds what is held by something, and what holds something, by the words of either name', () => {
    const { level } = scene(keep(1, 3, 1, apart([1, 0, 0])), keep(2, 4, 3, apart([1, 0, 0])))
    const found = (text: string) => findKept(level, text)?.map(id => level.need(id).name)
    expect(found('held by')).toEqual(['Crate of tea', 'Lamp'])
    expect(found('held by quay')).toEqual(['Crate of tea'])
    expect(found('lamp held by TEA crate')).toEqual(['Lamp'])
    expect(found('lamp held by quay')).toEqual([])
    expect(found('holds')).toEqual(['Quay slab', 'Crate of tea'])
    expect(found('slab holds crate')).toEqual(['Quay slab'])
    expect(found('holds lamp')).toEqual(['Crate of tea'])
    expect(findKept(level, 'household')).toBeNull()
  })
})
