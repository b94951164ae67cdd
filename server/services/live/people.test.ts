import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { testId } from '../../../tests/support'
import type { Called, PeopleMessage, Person, Said } from '../../../core/api/people'
import { RESERVED_AFTER, withUpdates } from '../../../core/api/people'
import type { OfPeople } from './announce'
import { announcementSchema, LONGEST_ANNOUNCED } from './announce'
import type { Speaker } from './people'
import { People, SERVER_SILENT } from './people'

const LEVEL = testId(900)

/** Servers that hear each other, and a page with each that knows what it is told. */
function servers(count: number) {
  let now = 0
  let cut = false
  const wire: OfPeople[] = []
  const calls: Called[][] = []
  const known = Array.from({ length: count }, () => new Map<string, Person>())
  const all = known.map((_, i) => {
    calls.push([])
    return new People(testId(1000 + i), {
      tell: (message: PeopleMessage) => {
        if (message.level === LEVEL) known[i] = withUpdates(known[i]!, message)
      },
      call: called => calls[i]!.push(called),
      announce: said => {
        const text = JSON.stringify(announcementSchema.parse(said))
        expect(Buffer.byteLength(text)).toBeLessThanOrEqual(LONGEST_ANNOUNCED)
        if (!cut) wire.push(said)
      },
      soon: () => {},
      now: () => now,
    })
  })
  const stopped = new Set<People>()
  const settle = () => {
    for (let i = 0; i < 4; i++) {
      for (const each of all) each.flush()
      for (const said of wire.splice(0)) for (const each of all) if (!stopped.has(each)) each.hear(said)
    }
  }
  /** Time passes, in which servers say every now and then that they are there. */
  const pass = (milliseconds: number) => {
    for (let left = milliseconds; left > 0; left -= 20_000) {
      now += Math.min(left, 20_000)
      for (const each of all) if (!stopped.has(each)) each.check()
      settle()
    }
  }
  return {
    all,
    known,
    calls,
    settle,
    stop: (server: People) => {
      server.end()
      stopped.add(server)
    },
    pass,
    wait: (milliseconds: number) => (now += milliseconds),
    cutOff: (isCut: boolean) => (cut = isCut),
  }
}

const worker = (id: string): Speaker => ({ id, role: 'work', person: null })
const looker = (id: string): Speaker => ({ id, role: 'look', person: null })
const here = (name: string, more: object = {}): Said => ({ here: { name, ...more } })
const names = (people: ReadonlyMap<string, Person>) => [...people.values()].map(({ name }) => name).toSorted()

describe('people of several servers', () => {
  it('see each other, whichever server each is with, and nobody who has left', () => {
    const { all, known, settle } = servers(3)
    all[0]!.say(LEVEL, worker(testId(1)), here('Ada'))
    for (const each of all) each.begin()
    settle()
    all[1]!.say(LEVEL, looker(testId(2)), here('Ben'))
    settle()
    expect(known.map(names)).toEqual([
      ['Ada', 'Ben'],
      ['Ada', 'Ben'],
      ['Ada', 'Ben'],
    ])
    expect(all[2]!.in(LEVEL).map(({ role }) => role)).toEqual(['work', 'look'])
    all[0]!.leave(LEVEL, testId(1))
    settle()
    expect(known.map(names)).toEqual([['Ben'], ['Ben'], ['Ben']])
    all[1]!.end()
    settle()
    expect([names(known[0]!), names(known[2]!)]).toEqual([[], []])
  })

  it('are told to a server that was not known, by whatever it is heard of first', () => {
    const { all, known, settle, cutOff } = servers(2)
    // Each begins while nobody hears it, and has somebody with it.
    cutOff(true)
    for (const each of all) each.begin()
    all[0]!.say(LEVEL, worker(testId(1)), here('Ada'))
    all[1]!.say(LEVEL, worker(testId(2)), here('Ben'))
    settle()
    cutOff(false)
    all[0]!.check()
    settle()
    expect(known.map(names)).toEqual([
      ['Ada', 'Ben'],
      ['Ada', 'Ben'],
    ])
    const late = servers(2)
    for (const each of late.all) each.begin()
    late.all[0]!.say(LEVEL, worker(testId(1)), here('Ada'))
    late.all[0]!.hear({ server: testId(1001), people: [], gone: [] })
    late.settle()
    expect(late.known.map(names)).toEqual([['Ada'], ['Ada']])
  })

  it('are gone with a server that says nothing any more, and back once it is heard', () => {
    const { all, known, settle, wait, cutOff } = servers(2)
    for (const each of all) each.begin()
    settle()
    all[0]!.say(LEVEL, worker(testId(1)), here('Ada'))
    settle()
    expect(names(known[1]!)).toEqual(['Ada'])
    cutOff(true)
    wait(SERVER_SILENT + 1)
    all[1]!.check()
    settle()
    expect(names(known[1]!)).toEqual([])
    cutOff(false)
    // What was announced meanwhile was missed: each begins again.
    all[0]!.say(LEVEL, worker(testId(3)), here('Cy'))
    for (const each of all) each.begin()
    settle()
    expect(names(known[1]!)).toEqual(['Ada', 'Cy'])
  })

  it('are spoken for by nobody else, and call only once they have a name', () => {
    const { all, known, settle, calls } = servers(2)
    for (const each of all) each.begin()
    settle()
    all[0]!.say(LEVEL, looker(testId(1)), here('Ada'))
    settle()
    all[1]!.say(LEVEL, worker(testId(1)), here('Not Ada'))
    all[1]!.leave(LEVEL, testId(1))
    all[1]!.hear({ server: testId(77), people: [{ level: LEVEL, id: testId(1), name: 'Not Ada' }], gone: [] })
    settle()
    const call = { to: null, at: [1, 2, 3], from: [0, 0, 0] } as Called['call']
    all[1]!.say(LEVEL, worker(testId(4)), { call })
    all[0]!.say(LEVEL, looker(testId(1)), { call })
    settle()
    expect(known.map(names)[0]).toEqual(['Ada'])
    expect(calls).toEqual([[{ level: LEVEL, by: testId(1), call }], [{ level: LEVEL, by: testId(1), call }]])
  })

  it('keep what they have reserved for five minutes after they have left, on whatever server, and not longer', () => {
    const { all, known, settle, pass } = servers(2)
    for (const each of all) each.begin()
    all[0]!.say(LEVEL, worker(testId(1)), here('Ada', { reserved: [testId(50)], picked: [testId(51)] }))
    all[0]!.say(LEVEL, looker(testId(2)), here('Ben', { reserved: [testId(52)] }))
    settle()
    // Who may only look keeps nothing from others.
    expect([...known[1]!.values()].map(({ reserved }) => reserved)).toEqual([[testId(50)], []])
    all[0]!.leave(LEVEL, testId(1))
    all[0]!.leave(LEVEL, testId(2))
    settle()
    for (const each of known)
      expect([...each.values()]).toMatchObject([
        { name: 'Ada', away: true, reserved: [testId(50)], picked: [], view: null },
      ])
    pass(RESERVED_AFTER)
    expect(known.map(names)).toEqual([['Ada'], ['Ada']])
    pass(1)
    expect(known.map(names)).toEqual([[], []])
    expect(all.map(({ size }) => size)).toEqual([0, 0])
  })

  it('keep it also when the server ends that they were with; each other one says for itself how long', () => {
    const { all, known, settle, pass, stop } = servers(3)
    for (const each of all) each.begin()
    all[0]!.say(LEVEL, worker(testId(1)), here('Ada', { reserved: [testId(50)] }))
    settle()
    stop(all[0]!)
    settle()
    pass(RESERVED_AFTER)
    all[1]!.begin()
    settle()
    expect([names(known[1]!), names(known[2]!)]).toEqual([['Ada'], ['Ada']])
    pass(1)
    expect([names(known[1]!), names(known[2]!)]).toEqual([[], []])
  })

  it('have what they had reserved again when they come back, and lose it to who takes it over while they are away', () => {
    const { all, known, settle } = servers(2)
    for (const each of all) each.begin()
    all[0]!.say(LEVEL, worker(testId(1)), here('Ada', { reserved: [testId(50), testId(51)] }))
    settle()
    all[0]!.leave(LEVEL, testId(1))
    all[1]!.say(LEVEL, worker(testId(2)), here('Ben', { reserved: [testId(51)] }))
    settle()
    const held = (of: ReadonlyMap<string, Person>) => [...of.values()].map(({ id, reserved }) => [id, reserved])
    for (const each of known)
      expect(held(each)).toEqual([
        [testId(1), [testId(50)]],
        [testId(2), [testId(51)]],
      ])
    all[1]!.say(LEVEL, worker(testId(3)), here('Ada', { reserved: [testId(50)] }))
    settle()
    for (const each of known)
      expect(held(each)).toEqual([
        [testId(2), [testId(51)]],
        [testId(3), [testId(50)]],
      ])
  })

  it('are here again whom a server that was silent for long has with it, also with what they have reserved', () => {
    const { all, known, settle, pass, wait, cutOff } = servers(2)
    for (const each of all) each.begin()
    all[0]!.say(LEVEL, worker(testId(1)), here('Ada', { reserved: [testId(50)] }))
    settle()
    cutOff(true)
    wait(SERVER_SILENT + 1)
    all[1]!.check()
    settle()
    expect([...known[1]!.values()]).toMatchObject([{ away: true }])
    cutOff(false)
    for (const each of all) each.begin()
    settle()
    expect([...known[1]!.values()]).toMatchObject([{ name: 'Ada', away: false, reserved: [testId(50)] }])
    all[0]!.leave(LEVEL, testId(1))
    pass(RESERVED_AFTER + 1)
    expect(known.map(names)).toEqual([[], []])
  })

  it('know the same of each other in the end, however much is said, also more than is announced at once', () => {
    const digits = 1 / 3
    const thing = (i: number) => ({
      id: testId(i),
      parentId: null,
      translation: [digits, digits, digits] as [number, number, number],
      rotation: [0, 0, 0, 1] as [number, number, number, number],
      scale: [1, 1, 1] as [number, number, number],
      pivot: [digits, digits, digits] as [number, number, number],
      partId: null,
    })
    const said = fc.oneof(
      fc.record({ name: fc.constantFrom('Ada', 'Ben', 'ü'.repeat(100)) }),
      fc.record({ picked: fc.array(fc.integer({ min: 1, max: 500 }).map(testId), { maxLength: 100 }) }),
      fc.record({
        drags: fc.constantFrom(null, { things: Array.from({ length: 14 }, (_, i) => thing(i + 1)), of: 20 }),
      }),
    )
    const step = fc.record({
      server: fc.nat(2),
      person: fc.integer({ min: 1, max: 12 }),
      said: fc.option(said, { freq: 6 }),
      settles: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(step, { maxLength: 60, size: 'max' }), steps => {
        const { all, known, settle } = servers(3)
        for (const each of all) each.begin()
        settle()
        for (const { server, person, said: news, settles } of steps) {
          // Each person is with one server.
          const [at, id] = [all[person % 3]!, testId(person)]
          if (news) at.say(LEVEL, worker(id), { here: news })
          else at.leave(LEVEL, id)
          if (settles) settle()
          else all[server]!.flush()
        }
        settle()
        const [first, ...rest] = all.map(each => each.in(LEVEL).toSorted((a, b) => (a.id < b.id ? -1 : 1)))
        for (const others of rest) expect(others).toEqual(first)
        for (const pages of known) expect([...pages.values()].toSorted((a, b) => (a.id < b.id ? -1 : 1))).toEqual(first)
      }),
      { numRuns: 60 },
    )
  })
})
