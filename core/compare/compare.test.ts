import fc from 'fast-check'
import { create } from 'jsondiffpatch'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyTree, anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange, ChangeError } from '../level/change'
import { createPlacement } from '../level/create'
import { Level, recordsOf } from '../level/level'
import type { Operation } from '../level/schema'
import { relationsRefused } from '../relate/refuse'
import { degreesToQuat } from '../math/transform'
import { differencesOf } from './differences'
import { comparisonOf } from './table'
import { taking } from './take'

/** A level as plain rows by id, for an independent way of comparing. */
const rowsOf = (level: Level): Record<string, Record<string, unknown>> =>
  JSON.parse(
    JSON.stringify({
      placements: Object.fromEntries([...level.placements()].map(each => [each.id, each])),
      ...Object.fromEntries(
        Object.entries(recordsOf(level)).map(([table, all]) => [
          table,
          Object.fromEntries(all.map(each => [each.id, each] as const)),
        ]),
      ),
    }),
  ) as Record<string, Record<string, unknown>>

const copyOf = (level: Level) => new Level([...level.placements()], recordsOf(level))

const MOST = 14
const anyId = fc.integer({ min: 1, max: MOST }).map(testId)
const anySmall = (base: number) => fc.integer({ min: base, max: base + 2 }).map(testId)
const BOX = { type: 'box', width: 1, height: 1, depth: 1 } as const

/** One thing that somebody does; what is not possible as things stand is left out. */
const anyStep: fc.Arbitrary<Operation[]> = fc.oneof(
  fc
    .tuple(anyId, anyVec3, anyQuat)
    .map(([id, translation, rotation]): Operation[] => [{ do: 'put', id, fields: { translation, rotation } }]),
  fc.tuple(anyId, fc.option(anyId)).map(([id, parentId]): Operation[] => [{ do: 'put', id, fields: { parentId } }]),
  fc.tuple(anyId, fc.option(anyId)).map(([id, parentId]): Operation[] => {
    const { id: _id, ...fields } = createPlacement({ id, name: 'Added', kind: 'group', parentId })
    return [{ do: 'put', id, fields }]
  }),
  anyId.map((id): Operation[] => [{ do: 'remove', id }]),
  fc
    .tuple(
      anySmall(100),
      fc.string({ minLength: 1, maxLength: 3 }).map(text => `L${text.replace(/\W/g, '')}`),
    )
    .map(([id, name]): Operation[] => [
      { do: 'put-layer', id, fields: { name, color: '#112233', visible: true, locked: false, order: 1 } },
    ]),
  anySmall(100).map((id): Operation[] => [{ do: 'remove-layer', id }]),
  fc
    .tuple(anyId, fc.option(anySmall(100)))
    .map(([id, layerId]): Operation[] => [{ do: 'put', id, fields: { layerId } }]),
  fc.tuple(anyId, anySmall(200), fc.integer({ min: 1, max: 3 })).map(([id, blockId, width]): Operation[] => [
    { do: 'put-block', id: blockId, fields: { shape: { ...BOX, width }, color: '#445566' } },
    { do: 'put', id, fields: { kind: 'block', blockId, partId: null, own: {} } },
  ]),
  fc.tuple(anyId, anySmall(200)).map(([id, blockId]): Operation[] => [
    { do: 'put', id, fields: { kind: 'group', blockId: null, partId: null, own: {} } },
    { do: 'remove-block', id: blockId },
  ]),
  fc.tuple(anySmall(300), anyId, anyId).map(([id, held, on]): Operation[] => [
    {
      do: 'put-relation',
      id,
      fields: {
        held,
        point: [0, 0, 0],
        holders: [{ on, at: [0, 0, 0], point: [0, 0, 0] }],
        rule: { kind: 'same', of: 'height', times: 1 },
      },
    },
  ]),
  anySmall(300).map((id): Operation[] => [{ do: 'remove-relation', id }]),
)

/** What comes of a level when steps are done to it one after the other. */
function worked(level: Level, steps: readonly Operation[][]): Level {
  const after = copyOf(level)
  for (const operations of steps) {
    if (relationsRefused(after, operations) !== null) continue
    try {
      applyChange(after, operations)
    } catch (error) {
      if (!(error instanceof ChangeError)) throw error
    }
  }
  return after
}

const anyLevels = fc
  .tuple(
    anyTree(12),
    fc.array(anyStep, { maxLength: 8 }),
    fc.array(anyStep, { maxLength: 14 }),
    fc.array(anyStep, { maxLength: 14 }),
  )
  .map(([tree, before, mine, theirs]) => {
    const base = worked(new Level(tree), before)
    return { base, here: worked(base, mine), there: worked(base, theirs) }
  })

describe('comparing levels', () => {
  it('finds what an independent comparison of the rows finds, nothing missing and nothing twice', () => {
    // jsondiffpatch: an object's delta has a key for each value that differs; one value for added, three for removed.
    const met = new Set<string>()
    const differ = create({ arrays: { detectMove: false } })
    fc.assert(
      fc.property(anyLevels, ({ here, there }) => {
        const delta = (differ.diff(rowsOf(here), rowsOf(there)) ?? {}) as Record<string, Record<string, unknown>>
        const expected = Object.values(delta)
          .flatMap(table => Object.entries(table))
          .map(([id, change]) => {
            if (Array.isArray(change)) return [id, change.length === 1 ? 'only there' : 'only here', []] as const
            return [id, 'on both', Object.keys(change as object).sort()] as const
          })
        const found = differencesOf(here, there).map(({ id, is, fields }) => [id, is, fields.toSorted()] as const)
        const byId = (a: readonly [string, ...unknown[]], b: readonly [string, ...unknown[]]) => (a[0] < b[0] ? -1 : 1)
        expect(found.toSorted(byId)).toEqual(expected.toSorted(byId))
        for (const { record, is } of differencesOf(here, there)) met.add(`${record ?? 'placement'} ${is}`)
      }),
      { numRuns: 300 },
    )
    // Otherwise the levels would be too much alike to show anything.
    for (const record of ['placement', 'layer', 'block', 'relation'])
      for (const is of ['only here', 'only there', 'on both']) expect(met).toContain(`${record} ${is}`)
  })

  it('gives theirs to the last bit when all is taken', () => {
    fc.assert(
      fc.property(anyLevels, fc.boolean(), ({ base, here, there }, isKnown) => {
        const all = differencesOf(here, there, isKnown ? base : null)
        const { operations, along } = taking(
          here,
          there,
          all,
          all.map(({ key }) => key),
          true,
        )
        const after = copyOf(here)
        const { inverse } = applyChange(after, operations)
        expect(rowsOf(after)).toEqual(rowsOf(there))
        expect(along).toEqual([])
        applyChange(after, inverse)
        expect(rowsOf(after)).toEqual(rowsOf(here))
      }),
      { numRuns: 300 },
    )
  })

  it('gives theirs when any part is taken and then the rest', () => {
    fc.assert(
      fc.property(anyLevels, fc.func(fc.boolean()), ({ here, there }, isChosen) => {
        const after = copyOf(here)
        const first = differencesOf(here, there)
        const some = first.filter(({ key }) => isChosen(key))
        const taken = taking(
          after,
          there,
          first,
          some.map(({ key }) => key),
          true,
        )
        expect(relationsRefused(after, taken.operations)).toBeNull()
        applyChange(after, taken.operations)
        const rest = differencesOf(after, there)
        // What was asked for is done; nothing else was touched than what is said to have come along.
        const left = new Set(rest.map(({ key }) => key))
        for (const { key } of some) expect(left.has(key), key).toBe(false)
        const touched = new Set([...some.map(({ key }) => key), ...taken.along])
        for (const { key } of first) if (!touched.has(key)) expect(left.has(key), key).toBe(true)
        applyChange(
          after,
          taking(
            after,
            there,
            rest,
            rest.map(({ key }) => key),
            true,
          ).operations,
        )
        expect(rowsOf(after)).toEqual(rowsOf(there))
      }),
      { numRuns: 400 },
    )
  })

  it('knows who changed what since both began, and leaves what was changed here alone', () => {
    const post = testPlacement(1)
    const base = new Level([post, testPlacement(2), testPlacement(3), testPlacement(4)])
    const here = worked(base, [
      [{ do: 'put', id: testId(1), fields: { translation: [1, 0, 0], name: 'Mine' } }],
      [{ do: 'put', id: testId(2), fields: { hidden: true } }],
      [{ do: 'remove', id: testId(3) }],
    ])
    const there = worked(base, [
      [{ do: 'put', id: testId(1), fields: { scale: [2, 2, 2], name: 'Theirs' } }],
      [{ do: 'put', id: testId(3), fields: { name: 'Renamed' } }],
      [{ do: 'remove', id: testId(4) }],
    ])
    const all = differencesOf(here, there, base)
    expect(Object.fromEntries(all.map(({ id, since, mine, is }) => [id, [is, since, mine]]))).toEqual({
      [testId(1)]: ['on both', 'both', ['translation']],
      [testId(2)]: ['on both', 'here', ['hidden']],
      [testId(3)]: ['only there', 'both', []],
      [testId(4)]: ['only here', 'there', []],
    })
    const { operations } = taking(
      here,
      there,
      all,
      all.map(({ key }) => key),
    )
    const after = copyOf(here)
    applyChange(after, operations)
    expect(after.need(testId(1))).toMatchObject({ translation: [1, 0, 0], scale: [2, 2, 2], name: 'Theirs' })
    expect(after.need(testId(2)).hidden).toBe(true)
    expect(after.need(testId(3)).name).toBe('Renamed')
    expect(after.has(testId(4))).toBe(false)
  })

  it('says three ways of changing a field as an independent table of cases does', () => {
    // Of a field: as it was, changed here, changed there. Common practice of three-way merging.
    const field = (value: number) => new Level([testPlacement(1, { order: value })])
    const cases: [here: number, there: number, since: string | undefined][] = [
      [0, 0, undefined],
      [1, 0, 'here'],
      [0, 1, 'there'],
      [1, 2, 'both'],
      [1, 1, undefined],
    ]
    for (const [mine, theirs, since] of cases)
      expect(differencesOf(field(mine), field(theirs), field(0))[0]?.since).toBe(since)
  })

  it('says as a table what is added, gone, moved and turned from one to the other', () => {
    const thing = (i: number, more: object = {}) => testPlacement(i, { name: `Thing ${i}`, ...more })
    const from = new Level([thing(1), thing(2), thing(3)])
    const to = new Level([
      thing(1, { translation: [3, 0, 4] }),
      thing(2, { rotation: degreesToQuat([0, 90, 0]) }),
      thing(4),
    ])
    const side = { name: 'a level', revision: 0 }
    const { counts, differences } = comparisonOf(from, to, { from: side, to: side } as never)
    expect(counts).toMatchObject({ added: 1, gone: 1, moved: 1, turned: 1 })
    const told = new Map(differences.map(each => [each.name, each]))
    expect([told.get('Thing 4')!.effects, told.get('Thing 3')!.effects]).toEqual([['added'], ['gone']])
    expect(told.get('Thing 1')).toMatchObject({ effects: ['moved'], moved: 5 })
    expect(told.get('Thing 2')!.turned).toBeCloseTo(90, 9)
  })

  it('does not take what others are not asked for when something goes that holds things', () => {
    const level = new Level([testPlacement(1), testPlacement(2, { parentId: testId(1) })])
    const there = new Level([testPlacement(2)])
    const all = differencesOf(level, there)
    const { operations, along } = taking(level, there, all, [`/${testId(1)}`])
    expect(along).toEqual([`/${testId(2)}`])
    expect(operations).toContainEqual({ do: 'put', id: testId(2), fields: { parentId: null } })
  })
})
