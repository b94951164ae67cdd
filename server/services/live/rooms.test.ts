import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { testId } from '../../../tests/support'
import type { Listening } from './rooms'
import { CLOSED, PAGE_SILENT, Rooms } from './rooms'

function listener(behind = 0) {
  const seen = { told: [] as string[], closed: [] as number[] }
  const who: Listening = {
    id: randomUUID(),
    by: [],
    send: text => seen.told.push(text),
    close: code => seen.closed.push(code),
    cut: () => seen.closed.push(0),
    heardAt: 0,
    behind: () => behind,
  }
  return { seen, who }
}

describe('who has a level open', () => {
  it('is told of that level alone, as long as it stays', () => {
    const rooms = new Rooms()
    const [ada, ben, cy] = [listener(), listener(), listener()]
    rooms.join(testId(1), ada.who)
    rooms.join(testId(1), ben.who)
    rooms.join(testId(2), cy.who)
    rooms.tell({ level: testId(1), revision: 3 })
    rooms.leave(testId(1), ben.who)
    rooms.tell({ level: testId(1), revision: 4 })
    const texts = [3, 4].map(revision => JSON.stringify({ level: testId(1), revision }))
    expect([ada.seen.told, ben.seen.told, cy.seen.told]).toEqual([texts, texts.slice(0, 1), []])
    rooms.leave(testId(1), ada.who)
    rooms.leave(testId(1), ada.who)
    expect(rooms.levels).toEqual([testId(2)])
    rooms.closeAll()
    expect([cy.seen.closed, rooms.levels]).toEqual([[CLOSED.leaving], []])
  })

  it('is cut when it says nothing any more, and no other is', () => {
    const rooms = new Rooms()
    const [ada, ben] = [listener(), listener()]
    for (const { who } of [ada, ben]) rooms.join(testId(1), who)
    ben.who.heardAt = 1000
    rooms.cutSilent(PAGE_SILENT)
    expect([ada.seen.closed, ben.seen.closed]).toEqual([[], []])
    rooms.cutSilent(PAGE_SILENT + 500)
    expect([ada.seen.closed, ben.seen.closed]).toEqual([[0], []])
  })

  it('is put off when it does not take what it is told, or when too many are there', () => {
    const rooms = new Rooms()
    const slow = listener(10_000_000)
    rooms.join(testId(1), slow.who)
    rooms.tell({ level: testId(1), revision: 3 })
    expect(slow.seen).toEqual({ told: [], closed: [CLOSED.later] })
    const all = Array.from({ length: 501 }, () => listener())
    const joined = all.map(({ who }) => rooms.join(testId(2), who))
    expect(joined.filter(each => !each)).toHaveLength(1)
    expect(all.filter(({ seen }) => seen.closed[0] === CLOSED.later)).toHaveLength(1)
    // Who leaves makes room.
    rooms.leave(testId(2), all[0]!.who)
    expect(rooms.join(testId(2), listener().who)).toBe(true)
  })
})
