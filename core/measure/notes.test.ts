import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { testId } from '../../tests/support'
import { applyChange } from '../level/change'
import { createPlacement } from '../level/create'
import type { Operation } from '../level/schema'
import { withEndsKept } from './keep-ends'
import { bareView } from '../scene/level-view'
import { newThread, notesOf, placeOfNote, removeThread } from './notes'

const CRATE = testId(1)
const crate = (translation: [number, number, number]) =>
  createPlacement({
    id: CRATE,
    name: 'Crate',
    kind: 'group',
    translation,
    rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
  })
const said = (n: number, when: string) => ({ id: testId(n), text: `Note ${n}`, by: 'Ada', when })
const yard = () => bareView([crate([2, 0, 0])], {})
const there = () => true

describe('a note', () => {
  it('goes along with the thing it is on, and stays where it was when that is removed, until it is there again', () => {
    const level = yard()
    const note = newThread(level, { ...said(5, '2026-11-01T10:00:00.000Z'), at: new Vector3(2, 1, 0.5), on: CRATE })
    applyChange(level, [note], there)
    const placeOf = () => placeOfNote(level, level.threads.get(testId(5))!)
    applyChange(level, [{ do: 'put', id: CRATE, fields: { translation: [7, 0, 0] } }], there)
    expect(placeOf().at.distanceTo(new Vector3(7, 1, 0.5))).toBeLessThan(1e-9)
    const { inverse } = applyChange(level, withEndsKept(level, [{ do: 'remove', id: CRATE }]), there)
    expect(placeOf().isGone).toBe(true)
    expect(placeOf().at.distanceTo(new Vector3(7, 1, 0.5))).toBeLessThan(1e-9)
    expect(notesOf(level)[0]).toMatchObject({ on: null })
    applyChange(level, inverse, there)
    expect(notesOf(level)[0]).toMatchObject({ on: 'Crate' })
    expect(placeOf().at.distanceTo(new Vector3(7, 1, 0.5))).toBeLessThan(1e-9)
  })

  it('is removed with what was said to it, and nothing of others', () => {
    const level = yard()
    const put = (id: number, threadId: number): Operation => {
      const { id: answer, ...fields } = said(id, '2026-11-01T10:00:00.000Z')
      return { do: 'put-answer', id: answer, fields: { ...fields, threadId: testId(threadId) } }
    }
    const threads = [5, 6].map(n =>
      newThread(level, { ...said(n, '2026-11-01T10:00:00.000Z'), at: new Vector3(), on: null }),
    )
    applyChange(level, [...threads, put(7, 5), put(8, 6), put(9, 5)], there)
    applyChange(level, removeThread(level, testId(5)), there)
    expect([[...level.threads.keys()], [...level.answers.keys()]]).toEqual([[testId(6)], [testId(8)]])
  })

  it('is listed in the order of time, and so is what was said to it, whatever came first', () => {
    const moments = fc.array(fc.integer({ min: 0, max: 4_000_000_000_000 }), {
      minLength: 1,
      maxLength: 12,
      size: 'max',
    })
    fc.assert(
      fc.property(moments, times => {
        const level = yard()
        const iso = (time: number) => new Date(time).toISOString()
        applyChange(
          level,
          [
            ...times.map((time, i) =>
              newThread(level, { ...said(10 + i, iso(time)), at: new Vector3(i, 0, 0), on: null }),
            ),
            ...times.map((time, i): Operation => {
              const { id, ...fields } = said(100 + i, iso(time))
              return { do: 'put-answer', id, fields: { ...fields, threadId: testId(10) } }
            }),
          ],
          there,
        )
        const sorted = times.toSorted((a, b) => a - b).map(iso)
        const notes = notesOf(level)
        expect(notes.map(({ thread }) => thread.when)).toEqual(sorted)
        const first = notes.find(({ thread }) => thread.id === testId(10))!
        expect(first.answers.map(({ when }) => when)).toEqual(sorted)
      }),
    )
  })
})
