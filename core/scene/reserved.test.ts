import { describe, expect, it } from 'vitest'
import { testId } from '../../tests/support'
import { createPlacement } from '../level/create'
import { Level } from '../level/level'
import type { Operation } from '../level/schema'
import { copyId } from './copy-id'
import { reservedAmong, reservedAs } from './reserved'

const [ROW, STALL, SIGN, CRATE, LAYER] = [1, 2, 3, 4, 5].map(testId) as [string, string, string, string, string]
const group = (id: string, name: string, more: object = {}) => createPlacement({ id, name, kind: 'group', ...more })
const level = new Level(
  [
    group(ROW, 'Row'),
    group(STALL, 'Stall', { parentId: ROW }),
    group(SIGN, 'Sign', { parentId: STALL }),
    group(CRATE, 'Crate', { layerId: LAYER }),
  ],
  { layers: [{ id: LAYER, name: 'Goods', color: '#112233', order: 0, visible: true, locked: false }] },
)
const put = (id: string, fields: object) => ({ do: 'put', id, fields }) as Operation
const moved = (id: string) => put(id, { translation: [1, 0, 0] })
const by = (...ids: string[]) => new Map(ids.map(id => [id, 'Ada']))
const found = (reserved: ReadonlyMap<string, string>, ...operations: Operation[]) =>
  reservedAmong(level, reserved, operations).map(({ name }) => name)

describe('what is reserved', () => {
  it('is a thing, what is in it, and a copy of it', () => {
    const stall = { id: STALL, name: 'Stall', by: 'Ada' }
    expect([STALL, SIGN, copyId(STALL, '0/1')].map(id => reservedAs(level, by(STALL), id))).toEqual([
      stall,
      stall,
      stall,
    ])
    expect([ROW, CRATE, null].map(id => reservedAs(level, by(STALL), id))).toEqual([null, null, null])
    expect(reservedAs(level, by(LAYER), CRATE)).toEqual({ id: LAYER, name: 'Goods', by: 'Ada' })
  })

  it('is changed by what changes it, what it hangs from or what hangs from it, and by what is put into it', () => {
    expect(found(by(STALL), moved(STALL))).toEqual(['Stall'])
    expect(found(by(STALL), moved(SIGN), { do: 'remove', id: SIGN })).toEqual(['Stall'])
    expect(found(by(STALL), moved(ROW))).toEqual(['Stall'])
    expect(found(by(STALL), put(CRATE, { parentId: SIGN }))).toEqual(['Stall'])
    expect(found(by(LAYER), put(STALL, { layerId: LAYER }), moved(CRATE))).toEqual(['Goods'])
    expect(found(by(LAYER), { do: 'put-layer', id: LAYER, fields: { visible: false } } as Operation)).toEqual(['Goods'])
    expect(found(by(ROW, LAYER), moved(SIGN), moved(CRATE))).toEqual(['Row', 'Goods'])
  })

  it('is not by what has nothing to do with it, nor by notes', () => {
    expect(found(by(STALL), moved(CRATE))).toEqual([])
    expect(found(new Map(), moved(STALL))).toEqual([])
    expect(found(by(STALL), { do: 'put-thread', id: STALL, fields: {} } as Operation)).toEqual([])
  })
})
