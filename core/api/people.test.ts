import { describe, expect, it } from 'vitest'
import { testId } from '../../tests/support'
import type { Person, PersonUpdate } from './people'
import { lettersOf, withUpdates } from './people'

const level = testId(99)
const ada: PersonUpdate = { id: testId(1), role: 'work', name: 'Ada', mark: 3 }

describe('who is in a level', () => {
  it('is known once the name and the role are, and by what was said last', () => {
    const nobody = new Map<string, Person>()
    const partial = withUpdates(nobody, { level, people: [{ id: testId(1), picked: [testId(5)] }], gone: [] })
    expect(partial.size).toBe(0)
    const known = withUpdates(nobody, { level, people: [ada], gone: [] })
    expect(known.get(testId(1))).toEqual({
      ...ada,
      picked: [],
      reserved: [],
      away: false,
      drags: null,
      view: null,
      proven: false,
    })
    const later = withUpdates(known, { level, people: [{ id: testId(1), picked: [testId(5)] }], gone: [] })
    expect([later.get(testId(1))!.picked, later.get(testId(1))!.name, known.get(testId(1))!.picked]).toEqual([
      [testId(5)],
      'Ada',
      [],
    ])
    expect(withUpdates(later, { level, people: [], gone: [testId(1), testId(2)] }).size).toBe(0)
  })

  it('is told whole when the connection stands anew, and never the one before the page', () => {
    const known = withUpdates(new Map(), { level, people: [ada], gone: [] })
    const anew = withUpdates(known, {
      level,
      you: testId(2),
      people: [
        { id: testId(2), role: 'work', name: 'I' },
        { id: testId(3), role: 'look', name: 'Ben' },
      ],
      gone: [],
    })
    expect([...anew.values()].map(({ name, role }) => [name, role])).toEqual([['Ben', 'look']])
    expect(withUpdates(anew, { level, people: [{ ...ada, id: testId(2) }], gone: [] }, testId(2)).size).toBe(1)
  })
})

describe('letters', () => {
  it('are each their own, for the first of a name the shortest', () => {
    const people = ['Ada', 'ada', 'Adam', 'Ben', '!?', 'Élodie', 'A', 'A'].map((name, i) => ({
      id: testId(i + 1),
      name,
    }))
    expect(
      lettersOf([
        { id: 'a', name: 'Ada', initials: 'AB' },
        { id: 'b', name: 'Ben', initials: 'AB' },
      ]),
    ).toEqual(
      new Map([
        ['a', 'AB'],
        ['b', 'B'],
      ]),
    )
    const letters = lettersOf(people.toReversed())
    expect(people.map(({ id }) => letters.get(id))).toEqual(['A', 'Ad', 'Aa', 'B', '?', 'É', 'A2', 'A3'])
    expect(new Set(letters.values()).size).toBe(people.length)
  })
})
