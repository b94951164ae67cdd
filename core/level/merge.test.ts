import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyTree, anyVec3, testId } from '../../tests/support'
import { applyChange } from './change'
import { Level } from './level'
import { mergeOperations } from './merge'
import type { Operation, Placement } from './schema'

const content = (level: Level) => [...level.placements()].sort((a, b) => (a.id < b.id ? -1 : 1))

describe('operations of many changes as one', () => {
  it('take a level back to any earlier state, as the inverses one by one do', () => {
    const edit = fc.record({
      which: fc.nat(),
      what: fc.constantFrom('move' as const, 'name' as const, 'remove' as const, 'add' as const),
      to: anyVec3,
    })
    fc.assert(
      fc.property(anyTree(8), fc.array(edit, { maxLength: 12 }), fc.nat(), (placements, edits, at) => {
        const level = new Level(placements)
        const states = [content(level)]
        const inverses: Operation[][] = []
        edits.forEach(({ which, what, to }, i) => {
          const ids = content(level).map(({ id }) => id)
          const id = ids[which % ids.length]
          let operations: Operation[] = []
          if (what === 'add' || !id)
            operations = [
              {
                do: 'put',
                id: testId(100 + i),
                fields: fieldsOf({ ...placements[0]!, name: `New ${i}`, parentId: null }),
              },
            ]
          else if (what === 'remove')
            operations = level
              .subtree(id)
              .reverse()
              .map(below => ({ do: 'remove', id: below }))
          else operations = [{ do: 'put', id, fields: what === 'move' ? { translation: to } : { name: `Name ${i}` } }]
          inverses.push(applyChange(level, operations).inverse)
          states.push(content(level))
        })
        const back = at % states.length
        const merged = mergeOperations(inverses.slice(back).reverse().flat())
        expect(new Set(merged.map(({ id }) => id)).size).toBe(merged.length)
        applyChange(
          level,
          merged.filter(operation => operation.do !== 'remove' || level.has(operation.id)),
        )
        expect(content(level)).toEqual(states[back])
      }),
    )
  })
})

function fieldsOf({ id: _id, ...fields }: Placement): Omit<Placement, 'id'> {
  return fields
}
