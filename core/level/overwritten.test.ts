import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { testId } from '../../tests/support'
import { applyChange } from './change'
import { createPlacement } from './create'
import { Level } from './level'
import { onlyFields, overwritten, withoutFields } from './overwritten'
import type { Operation } from './schema'

const [A, B] = [testId(1), testId(2)]
const thing = (id: string) => createPlacement({ id, name: `Thing ${id.slice(-1)}`, kind: 'group', order: 0 })
const put = (id: string, fields: object) => ({ do: 'put', id, fields }) as Operation
const begun = () => new Level([thing(A), thing(B)])

describe('what others changed since a step', () => {
  it('is nothing as long as all is as it was left, also by what one did and took back since', () => {
    const level = begun()
    const mine = [put(A, { translation: [1, 0, 0], name: 'Mine' })]
    const { inverse } = applyChange(level, mine)
    const later = applyChange(level, [put(A, { translation: [2, 0, 0] })])
    applyChange(level, later.inverse)
    applyChange(level, [put(A, { scale: [2, 2, 2] }), put(B, { name: 'Theirs' })])
    expect(overwritten(level, mine, inverse)).toEqual([])
  })

  it('is told by field, with what is there and what would come back; the rest can be taken back alone', () => {
    const level = begun()
    const mine = [put(A, { translation: [1, 0, 0], name: 'Mine' })]
    const { inverse } = applyChange(level, mine)
    applyChange(level, [put(A, { translation: [7, 0, 0] })])
    const found = overwritten(level, mine, inverse)
    expect(found).toEqual([{ record: null, id: A, name: 'Mine', field: 'translation', is: [7, 0, 0], back: [0, 0, 0] }])
    expect(onlyFields(mine, found)).toEqual([put(A, { translation: [1, 0, 0] })])
    applyChange(level, withoutFields(inverse, found))
    expect(level.need(A)).toMatchObject({ name: 'Thing 1', translation: [7, 0, 0] })
  })

  it('holds for what was made, which others have changed, and not for what is gone', () => {
    const level = begun()
    const { id, ...fields } = thing(testId(3))
    const mine = [put(id, fields)]
    const { inverse } = applyChange(level, mine)
    applyChange(level, [put(id, { hidden: true })])
    const found = overwritten(level, mine, inverse)
    expect(found).toMatchObject([{ id, field: 'hidden', is: true, back: undefined }])
    expect(withoutFields(inverse, found)).toEqual([])
    applyChange(level, [{ do: 'remove', id }])
    expect(overwritten(level, mine, inverse)).toEqual([])
  })

  it('holds for other records as for things', () => {
    const level = begun()
    const layer = testId(9)
    applyChange(level, [
      {
        do: 'put-layer',
        id: layer,
        fields: { name: 'Ground', color: '#112233', order: 0, visible: true, locked: false },
      } as Operation,
    ])
    const mine = [{ do: 'put-layer', id: layer, fields: { name: 'Quay' } } as Operation]
    const { inverse } = applyChange(level, mine)
    applyChange(level, [{ do: 'put-layer', id: layer, fields: { name: 'Water' } } as Operation])
    expect(overwritten(level, mine, inverse)).toMatchObject([
      { record: 'layer', field: 'name', is: 'Water', back: 'Ground' },
    ])
  })

  it('is just what somebody else wrote last, whatever was done in whatever order', () => {
    const field = fc.constantFrom('translation', 'scale', 'pivot')
    const write = fc.record({ own: fc.boolean(), id: fc.constantFrom(A, B), field, to: fc.integer({ min: 1, max: 9 }) })
    fc.assert(
      fc.property(fc.array(write, { maxLength: 20, size: 'max' }), writes => {
        const level = begun()
        const mine: Operation[] = []
        const back: Operation[] = []
        const last = new Map<string, boolean>()
        const as = new Map<string, number>()
        for (const { own, id, field: name, to } of writes) {
          const operation = put(id, { [name]: [to, to, to] })
          const { inverse } = applyChange(level, [operation])
          if (own) {
            mine.push(operation)
            back.unshift(...inverse)
            as.set(`${id} ${name}`, to)
          }
          last.set(`${id} ${name}`, own || as.get(`${id} ${name}`) === to)
        }
        const expected = [...last].filter(([key, isOwn]) => !isOwn && as.has(key)).map(([key]) => key)
        const found = overwritten(level, mine, back).map(({ id, field: name }) => `${id} ${name}`)
        expect(found.toSorted()).toEqual(expected.toSorted())
      }),
    )
  })
})
