import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyTree, anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange, ChangeError, conflicts, footprintOf } from './change'
import { Level } from './level'
import type { Operation, Placement, PlacementFields } from './schema'

const content = (level: Level) => [...level.placements()].sort((a, b) => (a.id < b.id ? -1 : 1))
const put = (id: string, fields: Partial<PlacementFields>): Operation => ({ do: 'put', id, fields })
const create = ({ id, ...fields }: Placement) => put(id, fields)

const meet = (theirs: { operations: Operation[] }, mine: { operations: Operation[] }) =>
  conflicts(footprintOf([theirs]), footprintOf([mine]))

function codeOf(run: () => unknown): string {
  try {
    run()
  } catch (error) {
    if (error instanceof ChangeError) return `${error.code} ${error.field}`
    throw error
  }
  return 'none'
}

/** Operations that may or may not fit: moves, renames, new parents, new records, removals. */
const anyOperations = fc.array(
  fc.oneof(
    fc.tuple(fc.integer({ min: 1, max: 12 }), anyVec3).map(([n, translation]) => put(testId(n), { translation })),
    fc
      .tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 0, max: 12 }))
      .map(([n, above]) => put(testId(n), { parentId: above ? testId(above) : null })),
    fc.integer({ min: 1, max: 12 }).map((n): Operation => ({ do: 'remove', id: testId(n) })),
    fc.integer({ min: 9, max: 14 }).map(n => create(testPlacement(n, { parentId: n % 2 ? testId(1) : null }))),
  ),
  { maxLength: 6, size: 'max' },
)

describe('applyChange', () => {
  it('applied and inverted gives the same level, and one that fails changes nothing', () => {
    let applied = 0
    fc.assert(
      fc.property(anyTree(8), anyOperations, (tree, operations) => {
        const level = new Level(tree)
        const before = structuredClone(content(level))
        const order = level.children(null)
        try {
          const { inverse } = applyChange(level, operations)
          applied++
          applyChange(level, inverse)
        } catch (error) {
          if (!(error instanceof ChangeError)) throw error
        }
        expect(content(level)).toEqual(before)
        expect(level.children(null)).toEqual(order)
      }),
      { numRuns: 500 },
    )
    // Otherwise the property above would say nothing about inverses.
    expect(applied).toBeGreaterThan(100)
  })

  it('gives the same as putting the records together anew', () => {
    fc.assert(
      fc.property(anyTree(8), anyOperations, (tree, operations) => {
        const level = new Level(tree)
        for (const { id } of tree) level.worldMatrix(id)
        try {
          applyChange(level, operations)
        } catch (error) {
          if (!(error instanceof ChangeError)) throw error
        }
        const anew = new Level(content(level))
        for (const { id } of anew.placements()) {
          expect(level.worldMatrix(id).elements).toEqual(anew.worldMatrix(id).elements)
          expect(level.children(id)).toEqual(anew.children(id))
        }
      }),
    )
  })

  it('names what is wrong and where', () => {
    const tree = () =>
      new Level([
        testPlacement(1),
        testPlacement(2, { parentId: testId(1) }),
        testPlacement(3, { parentId: testId(2) }),
      ])
    expect(codeOf(() => applyChange(tree(), [{ do: 'remove', id: testId(9) }]))).toBe('missing operations.0.id')
    expect(codeOf(() => applyChange(tree(), [{ do: 'remove', id: testId(2) }]))).toBe('has-children operations.0.id')
    expect(codeOf(() => applyChange(tree(), [put(testId(1), { parentId: testId(3) })]))).toBe(
      'cycle operations.0.fields.parentId',
    )
    expect(codeOf(() => applyChange(tree(), [put(testId(1), { parentId: testId(1) })]))).toBe(
      'cycle operations.0.fields.parentId',
    )
    expect(
      codeOf(() => applyChange(tree(), [put(testId(3), { name: 'x' }), put(testId(1), { parentId: testId(8) })])),
    ).toBe('missing operations.1.fields.parentId')
    expect(codeOf(() => applyChange(tree(), [put(testId(9), { name: 'x' })]))).toMatch(
      /^incomplete operations\.0\.fields\./,
    )
    expect(codeOf(() => applyChange(tree(), [put(testId(1), { scale: [1, 0, 1] })]))).toBe(
      'incomplete operations.0.fields.scale.1',
    )
    expect(
      codeOf(() => applyChange(tree(), [create(testPlacement(4, { kind: 'part', partId: testId(99) }))], () => false)),
    ).toBe('unknown-part operations.0.fields.partId')
    expect(codeOf(() => applyChange(tree(), [create(testPlacement(4, { kind: 'part' }))]))).toBe(
      'incomplete operations.0.fields.partId',
    )
  })

  it('finds a cycle that the record itself is not part of', () => {
    const tree = new Level([testPlacement(1), testPlacement(2, { parentId: testId(1) }), testPlacement(3)])
    expect(
      codeOf(() =>
        applyChange(tree, [put(testId(3), { parentId: testId(1) }), put(testId(1), { parentId: testId(2) })]),
      ),
    ).toMatch(/^cycle/)
  })

  it('removes a whole branch in any order', () => {
    const level = new Level([testPlacement(1), testPlacement(2, { parentId: testId(1) })])
    const { inverse } = applyChange(level, [
      { do: 'remove', id: testId(1) },
      { do: 'remove', id: testId(2) },
    ])
    expect(level.size).toBe(0)
    applyChange(level, inverse)
    expect(level.children(testId(1))).toEqual([testId(2)])
  })
})

describe('a change as large as it may be', () => {
  it('on one record is taken back by its inverse', () => {
    const level = new Level([testPlacement(1)])
    const { inverse } = applyChange(
      level,
      Array.from({ length: 50_000 }, (_, i) => put(testId(1), { order: i })),
    )
    expect(level.need(testId(1)).order).toBe(49_999)
    applyChange(level, inverse)
    expect(level.need(testId(1))).toEqual(testPlacement(1))
  })

  it('may hang things 10,000 deep and no deeper, in whatever order they come', () => {
    const chain = (count: number) =>
      Array.from({ length: count }, (_, i) => create(testPlacement(i + 1, { parentId: i > 0 ? testId(i) : null })))
    applyChange(new Level(), chain(10_001))
    applyChange(new Level(), chain(10_001).reverse())
    expect(codeOf(() => applyChange(new Level(), chain(10_002)))).toMatch(/^too-deep operations\.\d+\.fields\.parentId/)
    expect(codeOf(() => applyChange(new Level(), chain(10_002).reverse()))).toMatch(/^too-deep/)
  })

  it('lets a thing be moved whose own fields make no sense, from before they were looked at as closely', () => {
    const broken = {
      ...testPlacement(1),
      kind: 'arrangement' as const,
      own: { rule: { type: 'line' } },
    } as unknown as Placement
    const level = new Level([broken])
    applyChange(level, [put(testId(1), { translation: [1, 2, 3], name: 'Moved' })])
    expect(level.need(testId(1))).toMatchObject({ name: 'Moved', own: { rule: { type: 'line' } } })
    expect(codeOf(() => applyChange(level, [put(testId(1), { name: '' })]))).toBe('incomplete operations.0.fields.name')
    expect(
      codeOf(() =>
        applyChange(level, [put(testId(1), { own: { rule: { type: 'line' } } as unknown as PlacementFields['own'] })]),
      ),
    ).toMatch(/^incomplete operations\.0\.fields\.own/)
  })
})

describe('conflicts', () => {
  it('sees the same record touched, and a parent taken away', () => {
    const move = { operations: [put(testId(1), { translation: [1, 0, 0] as [number, number, number] })] }
    const rename = { operations: [put(testId(1), { name: 'x' })] }
    const hang = { operations: [put(testId(2), { parentId: testId(1) })] }
    const remove = { operations: [{ do: 'remove', id: testId(1) } as const] }
    expect(meet(move, rename)).toBe(true)
    expect(meet(move, hang)).toBe(false)
    expect(meet(remove, hang)).toBe(true)
    expect(meet(hang, remove)).toBe(true)
  })
})
