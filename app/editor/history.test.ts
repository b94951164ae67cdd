import { describe, expect, it } from 'vitest'
import { History } from './history'
import type { UndoStep, UndoSteps } from './saving/kept-steps'

const step = (id: string, joins?: string): UndoStep => ({
  id,
  label: id,
  operations: [{ do: 'put', id, fields: { name: id } }],
  ...(joins === undefined ? {} : { joins }),
})

function begun(undo: UndoStep[] = [], redo: UndoStep[] = []) {
  const told: UndoSteps[] = []
  const history = new History({ undo, redo }, steps => told.push(steps))
  const now = () => [told.at(-1)!.undo, told.at(-1)!.redo].map(steps => steps.map(({ id }) => id).join())
  return { history, told, now }
}

describe('history', () => {
  it('goes back and forth, and what was undone is gone after something new', () => {
    const { history, now } = begun()
    history.add(step('a'))
    history.add(step('b'))
    history.undone(step('b'))
    expect([now(), history.lastUndo?.id, history.lastRedo?.id]).toEqual([['a', 'b'], 'a', 'b'])
    history.redone(step('b2'))
    expect(now()).toEqual(['a,b2', ''])
    history.undone(step('b2'))
    history.add(step('c'))
    expect(now()).toEqual(['a,c', ''])
  })

  it('drops a step that cannot be undone, or done again', () => {
    const { history, now } = begun([step('a'), step('b')], [step('c')])
    history.undone(null)
    expect(now()).toEqual(['a', 'c'])
    history.redone(null)
    expect(now()).toEqual(['a', ''])
  })

  it('joins steps of one name until that is ended: undone together, the last first', () => {
    const { history, told, now } = begun()
    history.add(step('a', 'wheel'))
    history.add(step('b', 'wheel'))
    expect(told.at(-1)!.undo.map(({ operations }) => operations.map(({ id }) => id).join())).toEqual(['b,a'])
    history.endJoining()
    history.add(step('c', 'wheel'))
    history.add(step('d', 'other'))
    history.add(step('e'))
    history.add(step('f'))
    expect(now()[0]).toBe('b,c,d,e,f')
  })

  it('forgets the steps of changes that were given up', () => {
    const { history, now } = begun([step('a'), step('b'), step('c')], [step('d'), step('e')])
    history.without(new Set(['b', 'd']))
    expect(now()).toEqual(['a,c', 'e'])
  })
})
