import { setTimeout as sleep } from 'node:timers/promises'
import fc from 'fast-check'
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest'
import { History } from '../../app/editor/history'
import { Sync } from '../../app/editor/saving/sync'
import type { levelSchema } from '../../core/api/schema'
import { journalSchema } from '../../core/api/schema'
import { applyChange, ChangeError } from '../../core/level/change'
import { createPlacement } from '../../core/level/create'
import { Level } from '../../core/level/level'
import { overwritten, withoutFields } from '../../core/level/overwritten'
import { rebase } from '../../core/level/rebase'
import type { Operation } from '../../core/level/schema'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { freshId, useServer } from './support'

const api = useServer()
let other: TestServer
beforeAll(async () => {
  other = await makeServer({ database: api.get().databaseUrl })
})
afterAll(() => other.dispose())
afterEach(() => vi.unstubAllGlobals())

const THINGS = 2
const FIELDS = ['translation', 'scale'] as const

/** A page as it is without its screen: the level, what waits, and what can be undone, by the application's own code. */
class Page {
  readonly level: Level
  readonly made: string[] = []
  readonly given = new Set<string>()
  private readonly sync: Sync
  private readonly history = new History({ undo: [], redo: [] }, () => {})

  constructor(
    levelId: string,
    private readonly name: string,
    placements: ReturnType<typeof levelSchema.parse>['placements'],
    revision: number,
  ) {
    this.level = new Level(placements)
    this.sync = new Sync(levelId, `${levelId} ${name}`, revision, {
      onState: () => {},
      rebase: (ours, theirs, lost) => {
        const rebased = rebase(this.level, ours, theirs, lost)
        this.history.without(new Set(rebased.dropped.map(({ id }) => id)))
        return rebased
      },
      onGivenUp: ({ dropped }) => dropped.forEach(({ id }) => this.given.add(id)),
    })
  }

  change(label: string, operations: readonly Operation[]) {
    try {
      const id = freshId()
      const { inverse } = applyChange(this.level, operations)
      this.made.push(id)
      this.sync.add({ id, label, author: this.name, operations: [...operations] }, inverse)
      return { id, label, operations: inverse, left: [...operations] }
    } catch (error) {
      if (error instanceof ChangeError) return null
      throw error
    }
  }

  do(label: string, operations: readonly Operation[]): void {
    const step = this.change(label, operations)
    if (step) this.history.add(step)
  }

  /** As far as it takes back nothing of others. */
  undo(): void {
    const step = this.history.lastUndo
    if (step) this.history.undone(this.back('Undo', step))
  }

  redo(): void {
    const step = this.history.lastRedo
    if (step) this.history.redone(this.back('Redo', step))
  }

  private back(label: string, { operations, left }: NonNullable<History['lastUndo']>) {
    const rest = withoutFields(operations, overwritten(this.level, left!, operations))
    return rest.length === 0 ? null : this.change(label, rest)
  }

  look(): void {
    this.sync.look()
  }

  /** Whether all that was done here is answered, and nothing else is in the level. */
  isAt(revision: number): boolean {
    return this.sync.isEven && this.sync.revision === revision
  }

  async hearAll(): Promise<void> {
    await this.sync.settled()
    this.sync.look()
    await this.sync.settled()
  }

  close(): void {
    this.sync.close()
  }
}

/** What is asked goes to one server after the other, late, or not at all, or its answer is lost. */
function weather(seed: number) {
  const really = fetch
  const state = { isFine: false }
  let at = seed >>> 0
  const roll = () => (at = (Math.imul(at, 1664525) + 1013904223) >>> 0) / 2 ** 32
  let turn = 0
  vi.stubGlobal('fetch', async (path: string, init?: RequestInit) => {
    // What the test itself asks goes where it says.
    if (path.startsWith('http')) return really(path, init)
    const server = [api.get(), other][turn++ % 2]!
    const luck = state.isFine ? 1 : roll()
    if (!state.isFine) await sleep(roll() * 12)
    if (luck < 0.1) throw new TypeError('cut before it was heard')
    const answer = await really(server.url + path, init)
    if (luck < 0.2) throw new TypeError('cut before it was answered')
    return answer
  })
  return state
}

const step = fc.record({
  page: fc.nat(5),
  what: fc.constantFrom('put', 'put', 'put', 'add', 'remove', 'undo', 'undo', 'redo', 'look'),
  thing: fc.nat(THINGS - 1),
  isEven: fc.boolean(),
  field: fc.constantFrom(...FIELDS),
})

describe('pages that work at one level at the same time', () => {
  it('all come to what the database has, keep every change once, and undo nothing of each other', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 2, max: 6 }),
        fc.integer(),
        fc.array(step, { minLength: 10, maxLength: 60, size: 'max' }),
        async (count, seed, steps) => {
          const level = await api.newLevel()
          const ids = Array.from({ length: THINGS }, freshId)
          await api.save(level.id, 0, {
            id: freshId(),
            label: 'Begin',
            author: 'Nobody',
            operations: ids.map((id, order): Operation => {
              const { id: _, ...fields } = createPlacement({ id, name: `Thing ${order}`, kind: 'group', order })
              return { do: 'put', id, fields }
            }),
          })
          const { placements, revision } = await api.level(level.id)
          const sky = weather(seed)
          const pages = Array.from({ length: count }, (_, i) => new Page(level.id, `Page ${i}`, placements, revision))
          let value = 1
          for (const { page, what, thing, field, isEven } of steps) {
            const at = pages[page % count]!
            // What was done elsewhere until now is known here from then on.
            if (isEven) await at.hearAll()
            const all = [...at.level.placements()]
            const target = all[thing % Math.max(all.length, 1)]
            // Each value is written once, so that it tells who wrote it.
            value++
            if (what === 'put' && target)
              at.do('Put', [{ do: 'put', id: target.id, fields: { [field]: [value, value, value] } }])
            else if (what === 'add') {
              const { id, ...fields } = createPlacement({
                id: freshId(),
                name: `New ${value}`,
                kind: 'group',
                order: value,
              })
              at.do('Add', [{ do: 'put', id, fields }])
            } else if (what === 'remove' && target) at.do('Remove', [{ do: 'remove', id: target.id }])
            else if (what === 'undo') at.undo()
            else if (what === 'redo') at.redo()
            else if (what === 'look') at.look()
          }
          sky.isFine = true
          for (let tries = 0; tries < 50; tries++) {
            const { revision: last } = await api.level(level.id)
            if (pages.every(page => page.isAt(last))) break
            for (const page of pages) await page.hearAll()
          }
          const there = await api.level(level.id)
          const sorted = (list: Iterable<{ id: string }>) => [...list].sort((a, b) => (a.id < b.id ? -1 : 1))
          for (const page of pages) expect(sorted(page.level.placements())).toEqual(sorted(there.placements))

          const { entries } = journalSchema.parse(
            (await api.call('GET', `/api/levels/${level.id}/journal?after=${revision}`)).json,
          )
          const kept = pages.flatMap(({ made, given }) => made.filter(id => !given.has(id)))
          expect(entries.map(({ id }) => id).toSorted()).toEqual(kept.toSorted())
          // By the journal alone: what is taken back was put there by the page itself, or is a value that it wrote and
          // another has put back. Whose a value is tells itself.
          const is = new Map<string, string>()
          const owners = new Map<string, string>()
          const writers = new Map<string, string>()
          for (const { label, author, operations } of entries)
            for (const operation of operations) {
              const isBack = label === 'Undo' || label === 'Redo'
              const fields: object = operation.do === 'put' ? operation.fields : placements[0]!
              for (const [field, to] of Object.entries(fields)) {
                const place = `${operation.id} ${field}`
                const written = `${place} ${JSON.stringify(to)}`
                const theirs = [writers.get(place) ?? author, owners.get(is.get(place) ?? '') ?? author]
                if (isBack) expect(theirs).toContain(author)
                else if (operation.do === 'put') owners.set(written, author)
                writers.set(place, author)
                if (operation.do === 'put') is.set(place, written)
                else is.delete(place)
              }
            }
          for (const page of pages) page.close()
        },
      ),
      { numRuns: 5, endOnFailure: true },
    )
  }, 120_000)
})
