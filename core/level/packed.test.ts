import { decode, decodeSequence, encode, Tag } from 'cbor2'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyTree, testId } from '../../tests/support'
import { fromColumns } from './columns'
import { createPlacement, lightOwn } from './create'
import { KIND_NAMES } from './kinds'
import type { PackedPlacements } from './packed'
import { itemsOf, once, packHead, packItem, readHead, readPacked, UnreadableLevel, UUID } from './packed'
import { readEach } from './read'
import type { Placement } from './schema'

/** A column of ids as sixteen bytes each, written here without the code under test. */
const idBytes = (ids: readonly (string | null)[]) =>
  Uint8Array.from(ids.flatMap(id => [...Buffer.from((id ?? '0'.repeat(32)).replaceAll('-', ''), 'hex')]))

function pack(all: readonly Placement[]): PackedPlacements {
  const owned = [...all.entries()].filter(([, { own }]) => Object.keys(own).length > 0)
  const rows = all.map(({ order, translation, rotation, scale, pivot }) => [
    ...[order, ...translation, ...rotation],
    ...[...scale, ...pivot],
  ])
  return {
    count: all.length,
    ids: idBytes(all.map(({ id }) => id)),
    parents: once(idBytes(all.map(({ parentId }) => parentId)), UUID),
    parts: once(idBytes(all.map(({ partId }) => partId)), UUID),
    blocks: once(idBytes(all.map(({ blockId }) => blockId)), UUID),
    layers: once(idBytes(all.map(({ layerId }) => layerId)), UUID),
    kinds: once(Uint8Array.from(all, ({ kind }) => KIND_NAMES.indexOf(kind))),
    flags: once(Uint8Array.from(all, ({ hidden, locked }) => Number(hidden) + 2 * Number(locked))),
    numbers: Array.from({ length: 14 }, (_, k) => once(Float64Array.from(rows, row => row[k]!))),
    names: JSON.stringify(all.map(({ name }) => name)),
    own: JSON.stringify(owned.map(([, { own }]) => own)),
    ownOf: Uint32Array.from(owned, ([i]) => i),
  }
}

const anyPlacements = fc
  .tuple(
    anyTree(20),
    fc.array(
      fc.record({
        kind: fc.constantFrom(...KIND_NAMES),
        name: fc.string({ unit: 'grapheme' }),
        hidden: fc.boolean(),
        locked: fc.boolean(),
        partId: fc.constantFrom(null, testId(7), 'ffffffff-ffff-7fff-bfff-ffffffffffff'),
        layerId: fc.constantFrom(null, testId(10)),
        own: fc.constantFrom<Placement['own'][]>({}, lightOwn({ light: 'point' })),
      }),
      { minLength: 20, maxLength: 20 },
    ),
  )
  .map(([tree, more]) => tree.map((placement, i) => ({ ...placement, ...more[i] })))

const FIRST: Placement = createPlacement({ id: testId(1), name: 'Post', kind: 'group' })

describe('a packed level', () => {
  it('has all placements as they are, to the last bit, and its head as it is', () => {
    fc.assert(
      fc.property(fc.array(anyPlacements, { maxLength: 3 }), fc.json(), (parts, json) => {
        const level = { name: 'Quay', more: JSON.parse(json) as unknown }
        const bytes = Buffer.concat([packHead(level), ...parts.map(part => packItem(pack(part)))])
        const [head, ...items] = [...itemsOf(bytes)]
        expect(readHead(head)).toEqual(level)
        expect(items.flatMap(item => fromColumns(readPacked(item).columns))).toEqual(readEach(parts.flat()).placements)
      }),
      { numRuns: 60 },
    )
  })

  it('is looked at as closely by columns as one by one', () => {
    const numbers = [NaN, Infinity, -Infinity, 1e300, 0, -0, 1, 2e7, -2e7, 1e-300]
    const anyWrong: fc.Arbitrary<(placement: Placement) => unknown> = fc.constantFrom(
      (each: Placement) => each,
      ...numbers.map(value => (each: Placement) => ({ ...each, order: value })),
      ...numbers.map(value => (each: Placement) => ({ ...each, translation: [0, value, 0] })),
      ...numbers.map(value => (each: Placement) => ({ ...each, scale: [1, 1, value] })),
      ...numbers.map(value => (each: Placement) => ({ ...each, pivot: [value, 0, 0] })),
      ...numbers.map(value => (each: Placement) => ({ ...each, rotation: [0, value, 0, 1] })),
      ...['', ' ', 'x'.repeat(5000), 'a\nb', ' spaced '].map(name => (each: Placement) => ({ ...each, name })),
      ...['ffffffff-ffff-ffff-bfff-ffffffffffff', '01234567-89ab-0def-8123-456789abcdef'].map(
        id => (each: Placement) => ({ ...each, id, parentId: id, partId: id, layerId: id }),
      ),
      (each: Placement) => ({ ...each, kind: 'part', partId: null }),
      (each: Placement) => ({ ...each, kind: 'group', partId: testId(3) }),
      (each: Placement) => ({ ...each, kind: 'block', blockId: null }),
      (each: Placement) => ({ ...each, kind: 'arrangement', own: {} }),
      (each: Placement) => ({ ...each, kind: 'light', own: { light: 'none such' } }),
      (each: Placement) => ({ ...each, kind: 'part', partId: testId(3), own: { lamp: 2 } }),
    )
    fc.assert(
      fc.property(anyPlacements, fc.array(anyWrong, { minLength: 20, maxLength: 20 }), (placements, wrongs) => {
        const fine = placements.map(each => ({ ...each, kind: 'group' as const, partId: null, own: {} }))
        const given = fine.map((each, i) => (i % 5 === 0 ? wrongs[i]!(each) : each)) as Placement[]
        const [item] = [...itemsOf(packItem(pack(given)))]
        const { columns, unreadable } = readPacked(item)
        expect({ placements: fromColumns(columns), unreadable }).toEqual(readEach(given))
      }),
      { numRuns: 200 },
    )
  })

  it('is what the standards say: a sequence of items of tag 24, numbers as typed arrays with the lowest byte first', () => {
    // RFC 8949, 3.4.5.1 and 3.1: tag 24 is d8 18, a byte string of five bytes 45; the text "hand" is 64 and its bytes.
    expect(Buffer.from(packItem('hand')).toString('hex')).toBe('d8184564' + Buffer.from('hand').toString('hex'))
    // RFC 8746, 2.1: tag 86 (d8 56) is an array of doubles, least significant byte first; 1 is 00 .. f0 3f.
    expect(Buffer.from(packItem(new Float64Array([1]))).toString('hex')).toBe('d8184bd85648000000000000f03f')
    const items = [...decodeSequence(Buffer.concat([packItem(1), packItem([2])]))] as Tag[]
    expect(items.map(({ tag, contents }) => [tag, decode(contents as Uint8Array)])).toEqual([
      [24, 1],
      [24, [2]],
    ])
  })

  it('that is cut off anywhere, or is something else, is refused', () => {
    const whole = Buffer.concat([packHead({}), packItem(pack([]))])
    for (let length = 1; length < whole.length; length++) {
      if (length === packHead({}).length) continue
      expect(() => [...itemsOf(whole.subarray(0, length))], String(length)).toThrow(UnreadableLevel)
    }
    for (const other of [encode({}), Buffer.from('{"name":1}'), encode(new Tag(24, 'text')), Buffer.alloc(40, 0xff)])
      expect(() => [...itemsOf(other)]).toThrow(UnreadableLevel)
    expect(() => readHead({ format: 'other', version: 1, level: {} })).toThrow('handy-grid-level')
  })

  it('has what is the same for all once', () => {
    expect(once(new Float64Array([2, 2, 2]))).toEqual(new Float64Array([2]))
    expect(once(new Float64Array([2, 2, 3]))).toHaveLength(3)
    expect(once(new Uint8Array([1, 2, 1, 2]), 2)).toEqual(new Uint8Array([1, 2]))
    expect(once(new Uint8Array([1, 2, 2, 1]), 2)).toHaveLength(4)
    expect(once(new Uint8Array(0), 16)).toHaveLength(0)
    const all = Array.from({ length: 50 }, (_, i) => ({ ...FIRST, id: testId(i), name: `Post ${i}`, order: i }))
    expect(packItem(pack(all)).length).toBeLessThan(50 * (16 + 8 + 11) + 400)
  })

  it('with columns of different lengths, or other types, is refused', () => {
    const packed = pack([])
    for (const wrong of [
      { ...packed, count: 1 },
      { ...packed, ids: new Uint8Array(15) },
      { ...packed, numbers: packed.numbers.slice(1) },
      { ...packed, numbers: packed.numbers.map(() => [1]) },
      { ...packed, names: 'no JSON' },
      { ...packed, own: '{}' },
      { ...packed, count: 2 ** 40 },
    ])
      expect(() => readPacked(wrong)).toThrow()
  })
})
