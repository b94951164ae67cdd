import { BoxGeometry } from 'three'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { RULES } from '~~/core/arrange/rules'
import type { ScatterRule } from '~~/core/arrange/scatter/rule'
import { FIRST_INGREDIENT } from '~~/core/arrange/scatter/rule'
import { Dealer, dealNow } from '~~/core/arrange/scatter/deal'
import { ChangeError } from '~~/core/level/change'
import type { Operation, Placement } from '~~/core/level/schema'
import { ShapeLibrary } from '~~/core/scene/shapes'
import { scatterOf, siteOf } from '~~/core/scene/scatter-site'
import { WorkerHere } from '../../tests/page'
import { testId, testPlacement, testSolid } from '../../tests/support'
import { DRAFT } from './dealing/dealing'
import { Session } from './session'

const [SLAB, CRATE, LAWN, SOURCE] = [testId(11), testId(12), testId(13), testId(14)]
const [SLAB_PART, TUFT_PART] = [testId(101), testId(102)]
const rule = (more: Partial<ScatterRule> = {}): ScatterRule => ({
  ...RULES.scatter.first,
  on: [{ id: SLAB, stream: 1 }],
  mix: [{ ...FIRST_INGREDIENT, source: SOURCE, stream: 1 }],
  measure: 'count',
  count: 40,
  keepRoom: false,
  ...more,
})

/** A slab with a lawn of forty tufts, and a crate far from it. */
function placements(): Placement[] {
  return [
    testPlacement(11, { kind: 'part', partId: SLAB_PART }),
    testPlacement(12, { kind: 'part', partId: TUFT_PART, translation: [50, 0, 0] }),
    testPlacement(13, { kind: 'arrangement', own: { rule: rule() } }),
    testPlacement(14, { kind: 'part', partId: TUFT_PART, parentId: LAWN }),
  ]
}

let session: Session
const heard = { applied: [] as Operation[], known: [] as string[], redealt: [] as string[], failed: [] as unknown[] }

beforeEach(() => {
  vi.stubGlobal('Worker', WorkerHere)
  for (const list of Object.values(heard)) list.length = 0
  const shapes = new ShapeLibrary()
  shapes.put(SLAB_PART, 'slab', testSolid(new BoxGeometry(8, 0.2, 8)).mesh)
  shapes.put(TUFT_PART, 'tuft', testSolid(new BoxGeometry(0.1, 0.1, 0.1)).mesh)
  const all = [] as never[]
  session = new Session(
    placements(),
    {},
    { shapes, tagsOf: () => [], part: () => undefined, all: () => all },
    {
      onApplied: operations => heard.applied.push(...operations),
      onKnown: id => heard.known.push(id),
      onRedealt: id => {
        heard.redealt.push(id)
        session.follow(new Set([id]))
      },
      onFailed: error => heard.failed.push(error),
    },
  )
})
afterEach(() => session.close())

const tufts = () => session.level.copies(LAWN)?.keys.count ?? 0
const rests = (count: number) =>
  vi.waitFor(() => expect([tufts(), session.dealing.known(LAWN)?.progress]).toEqual([count, null]), 20_000)
const put = (id: string, fields: Partial<Placement>): Operation => ({ do: 'put', id, fields })

describe('an open level', () => {
  it('deals its scatters as they would be dealt at once, and shows them', async () => {
    session.dealing.begin()
    await rests(40)
    const parts = { shapes: (session as unknown as { parts: { shapes: ShapeLibrary } }).parts.shapes, tagsOf: () => [] }
    const its = scatterOf(session.level, LAWN)!
    const site = siteOf(session.level, parts, LAWN, its)
    const skinOf = (key: string) => parts.shapes.solidBy(key)?.mesh.primitives
    const atOnce = dealNow(new Dealer(skinOf).deal(LAWN, its, site, {}))
    expect(session.dealing.known(LAWN)!.dealt!.matrices).toEqual(atOnce.matrices)
    expect([heard.redealt, heard.failed]).toEqual([[LAWN], []])
  })

  it('deals anew what a change has to do with, and nothing else', async () => {
    session.dealing.begin()
    await rests(40)
    heard.redealt.length = 0
    session.follow(session.apply([put(CRATE, { translation: [60, 0, 0] })]).touched)
    await new Promise(resolve => setTimeout(resolve, 200))
    expect(heard.redealt).toEqual([])
    const before = session.dealing.known(LAWN)!.dealt!.matrices[13]!
    session.follow(session.apply([put(SLAB, { translation: [0, 1, 0] })]).touched)
    await vi.waitFor(() => expect(session.dealing.known(LAWN)!.dealt!.matrices[13]! - before).toBeCloseTo(1, 9))
    session.follow(session.apply([put(LAWN, { own: { rule: rule({ count: 12 }) } })]).touched)
    await rests(12)
  })

  it('takes copies along with what they stand on at once, and deals them anew behind that', async () => {
    session.dealing.begin()
    await rests(40)
    const before = session.dealing.known(LAWN)!.dealt!
    const seen: number[] = []
    session.follow(session.apply([put(SLAB, { translation: [3, 1, 0] })]).touched)
    const gone = session.dealing.known(LAWN)!
    expect(gone.progress).toBe(0)
    for (let i = 0; i < 40; i++) {
      expect(gone.dealt!.matrices[i * 16 + 12]! - before.matrices[i * 16 + 12]!).toBeCloseTo(3, 9)
      expect(gone.dealt!.matrices[i * 16 + 13]! - before.matrices[i * 16 + 13]!).toBeCloseTo(1, 9)
    }
    // Nor is the arrangement moved away from it, as long as nothing of it is.
    await rests(40)
    expect(session.dealing.known(LAWN)!.dealt!.keys).toEqual(before.keys)
    session.follow(session.apply([put(LAWN, { translation: [0, 9, 0] })]).touched)
    for (const { matrix } of session.level.eachCopy(LAWN)) seen.push(matrix.elements[13]!)
    expect(seen).toHaveLength(40)
    for (const height of seen) expect(height).toBeCloseTo(gone.dealt!.matrices[13]!, 6)
    await rests(40)
    expect(heard.failed).toEqual([])
  })

  it('tries a rule out and goes back, and works on a draft that nobody else sees', async () => {
    session.dealing.begin()
    await rests(40)
    session.dealing.tryOut(LAWN, rule({ count: 5 }))
    await rests(5)
    session.dealing.tryOut(LAWN, null)
    await rests(40)
    session.dealing.tryOut(DRAFT, rule({ count: 7, mix: [{ ...FIRST_INGREDIENT, source: TUFT_PART, stream: 1 }] }))
    await vi.waitFor(() => expect(session.dealing.known(DRAFT)?.dealt?.count).toBe(7), 20_000)
    session.dealing.forget(DRAFT)
    expect([session.dealing.known(DRAFT), heard.redealt.includes(DRAFT), heard.known.at(-1)]).toEqual([
      undefined,
      false,
      DRAFT,
    ])
  })

  it('keeps the last good result where a rule makes no sense, and says why', async () => {
    session.dealing.begin()
    await rests(40)
    session.dealing.tryOut(LAWN, rule({ on: [] }))
    await vi.waitFor(() => expect(session.dealing.known(LAWN)?.report?.problem?.field).toBe('on'))
    expect([tufts(), session.dealing.known(LAWN)!.dealt!.count]).toEqual([40, 40])
  })

  it('tells what was done to it, whoever did it, and nothing of what could not be', () => {
    const moved = put(CRATE, { translation: [1, 0, 0] })
    const { inverse } = session.apply([moved])
    expect(() => session.apply([put(CRATE, { translation: [2, 0, 0] }), { do: 'remove', id: testId(77) }])).toThrow(
      ChangeError,
    )
    expect(heard.applied).toEqual([moved])
    const mine = { change: { id: testId(900), label: 'Mine', author: 'Ada', operations: [moved] }, inverse }
    const theirs = {
      id: testId(901),
      label: 'Theirs',
      author: 'Bo',
      operations: [put(CRATE, { name: 'Box', translation: [3, 0, 0] })],
    }
    const { dropped, applied } = session.rebase([mine], [theirs], new Set())
    expect(dropped).toEqual([mine.change])
    expect(heard.applied.slice(1)).toEqual(applied)
    expect([session.level.need(CRATE).name, session.level.need(CRATE).translation]).toEqual(['Box', [3, 0, 0]])
    // Whoever did the same to a level of its own has the same.
    const other = new Session(
      placements(),
      {},
      { shapes: new ShapeLibrary(), tagsOf: () => [], part: () => undefined, all: () => [] },
      {
        onApplied: () => {},
        onKnown: () => {},
        onRedealt: () => {},
        onFailed: () => {},
      },
    )
    other.apply(heard.applied)
    expect([...other.level.placements()]).toEqual([...session.level.placements()])
  })

  it('shows another level around it with its scatters', async () => {
    const around = await session.around(placements(), {})
    expect(around.copies(LAWN)!.keys.count).toBe(40)
    expect([tufts(), heard.failed]).toEqual([0, []])
  })

  it('leaves nobody waiting when it is closed', async () => {
    session.dealing.begin()
    session.close()
    await new Promise(resolve => setTimeout(resolve, 100))
    expect([tufts(), heard.redealt, heard.failed]).toEqual([0, [], []])
  })
})
