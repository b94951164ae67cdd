import fc from 'fast-check'
import { expect, it } from 'vitest'
import { anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange } from './change'
import { Level } from './level'
import type { Unanswered } from './rebase'
import { rebase } from './rebase'
import type { Change, Operation } from './schema'

let made = 100
const change = (...operations: Operation[]): Change => ({
  id: testId(made++),
  label: 'Change',
  author: 'Test',
  operations,
})
const move = (n: number, translation: [number, number, number]): Operation => ({
  do: 'put',
  id: testId(n),
  fields: { translation },
})
const start = () => new Level([1, 2, 3, 4].map(n => testPlacement(n)))

function make(level: Level, changes: Change[]): Unanswered[] {
  return changes.map(entry => ({ change: entry, inverse: applyChange(level, entry.operations).inverse }))
}

it('gives what applying theirs and then ours would give', () => {
  const anyMoves = (numbers: number[]) =>
    fc.array(
      fc.tuple(fc.constantFrom(...numbers), anyVec3).map(([n, at]) => change(move(n, at))),
      { maxLength: 5 },
    )
  fc.assert(
    fc.property(anyMoves([1, 2]), anyMoves([3, 4]), (mine, theirs) => {
      const level = start()
      const { dropped } = rebase(level, make(level, mine), theirs, new Set())
      expect(dropped).toEqual([])
      const expected = start()
      for (const entry of [...theirs, ...mine]) applyChange(expected, entry.operations)
      expect([...level.placements()]).toEqual([...expected.placements()])
    }),
  )
})

it('drops what meets theirs and what stood on it, and keeps the rest', () => {
  const level = start()
  const { id: newId, ...fields } = testPlacement(9, { parentId: testId(1) })
  const mine = [change({ do: 'put', id: newId, fields }), change(move(9, [5, 0, 0])), change(move(2, [1, 0, 0]))]
  const ours = make(level, mine)
  const { dropped, kept } = rebase(level, ours, [change({ do: 'remove', id: testId(1) })], new Set())
  expect(dropped).toEqual([mine[0], mine[1]])
  expect(kept.map(entry => entry.change)).toEqual([mine[2]])
  expect(level.has(testId(9))).toBe(false)
  expect(level.need(testId(2)).translation).toEqual([1, 0, 0])
  for (const { inverse } of kept.toReversed()) applyChange(level, inverse)
  expect(level.need(testId(2)).translation).toEqual([0, 0, 0])
})

it('takes back what is lost anyway', () => {
  const level = start()
  const mine = [change(move(1, [1, 1, 1]))]
  const { dropped } = rebase(level, make(level, mine), [], new Set([mine[0]!.id]))
  expect(dropped).toEqual(mine)
  expect(level.need(testId(1)).translation).toEqual([0, 0, 0])
})
