import { decode, encode, Tag } from 'cbor2'
import { z } from 'zod'
import type { PlacementColumns } from './columns'
import { SharedValues, toColumns } from './columns'
import { coordinate, isOfUnitLength, nameSchema, scaleSchema } from './fields'
import { KIND_NAMES, KINDS } from './kinds'
import type { Unreadable } from './read'
import { readEach } from './read'
import type { Placement } from './schema'

// A level as it is sent to a page: a sequence of CBOR items (RFC 8742), each within a byte string of tag 24 (RFC 8949,
// 3.4.5.1), so that it is known how long it is before it has come. The first is the level without its placements; those
// follow by columns, numbers as typed arrays (RFC 8746); a column that has one value for all has it once.
// docs/formats.md describes it.

/** What the media type of such a sequence is called. */
export const PACKED_TYPE = 'application/cbor-seq'
/** Placements of one item at most. */
export const PACKED_AT_A_TIME = 10_000
/** Bytes of an id. */
export const UUID = 16
/** Order, translation x y z, rotation x y z w, scale x y z, pivot x y z. */
const NUMBERS = 14

const head = z.strictObject({ format: z.literal('handy-grid-level'), version: z.literal(1), level: z.looseObject({}) })

const bytes = z.custom<Uint8Array>(value => value instanceof Uint8Array, 'is no column of bytes')
const doubles = z.custom<Float64Array>(value => value instanceof Float64Array, 'is no column of numbers')
const packedSchema = z
  .strictObject({
    count: z.int().min(0).max(PACKED_AT_A_TIME),
    /** `UUID` bytes for each placement; of those that may be null all zero then. */
    ids: bytes,
    parents: bytes,
    parts: bytes,
    blocks: bytes,
    layers: bytes,
    /** The place of each one's kind in `KIND_NAMES`. */
    kinds: bytes,
    /** 1 if it is hidden, and 2 if it is locked. */
    flags: bytes,
    /** Fourteen columns. */
    numbers: z.array(doubles).length(NUMBERS),
    /** JSON: a list of all names. */
    names: z.string(),
    /** JSON: a list of the own fields of those that have any, and which those are. */
    own: z.string(),
    ownOf: z.instanceof(Uint32Array),
  })
  .refine(({ count, ids, parents, parts, blocks, layers, kinds, flags, numbers }) => {
    const isLong = (columns: readonly (Uint8Array | Float64Array)[], width: number) =>
      columns.every(({ length }) => length === count * width || (length === width && count > 0))
    return isLong([ids, parents, parts, blocks, layers], UUID) && isLong([kinds, flags, ...numbers], 1)
  }, 'has columns of different lengths')

export type PackedPlacements = z.infer<typeof packedSchema>

/** What was sent is no level, or has not come whole. */
export class UnreadableLevel extends Error {
  constructor() {
    super('The level that was sent cannot be read. Try again.')
  }
}

/** An item as it is sent. @param value what CBOR knows, and typed arrays */
export function packItem(value: unknown): Uint8Array {
  return encode(new Tag(24, encode(value)))
}

/**
 * A column with what is the same for all in it once.
 *
 * @param width of what each has in it
 */
export function once<C extends Uint8Array | Float64Array>(column: C, width = 1): C {
  for (let i = width; i < column.length; i++) if (!Object.is(column[i], column[i - width])) return column
  return column.subarray(0, width) as C
}

/** A column with what is the same for all in it for each of them. */
function forEach<C extends Uint8Array | Float64Array>(column: C, count: number, width = 1): C {
  if (column.length === count * width) return column
  const whole = new (column.constructor as new (length: number) => C)(count * width)
  for (let i = 0; i < count; i++) whole.set(column, i * width)
  return whole
}

/** The first item. @param level all of it but its placements */
export const packHead = (level: Record<string, unknown>): Uint8Array =>
  packItem({ format: 'handy-grid-level', version: 1, level })

/** The items of a sequence, one after the other. @throws Error if it is none, or has not come whole */
export function* itemsOf(all: Uint8Array): Generator<unknown> {
  for (let at = 0; at < all.length; ) {
    const end = endOfItem(all, at)
    const { contents } = decode<Tag>(all.subarray(at, end))
    yield decode(contents as Uint8Array)
    at = end
  }
}

/** Where an item ends that begins at a byte. */
function endOfItem(all: Uint8Array, at: number): number {
  const size = (all[at + 2] ?? 0) & 31
  // Tag 24, and a byte string whose length is in as many bytes as its first one says.
  if (all[at] !== 0xd8 || all[at + 1] !== 24 || all[at + 2]! >> 5 !== 2 || size > 26) throw new UnreadableLevel()
  const digits = size < 24 ? 0 : 2 ** (size - 24)
  let length = size < 24 ? size : 0
  for (let i = 0; i < digits; i++) length = length * 256 + (all[at + 3 + i] ?? 0)
  const end = at + 3 + digits + length
  if (end > all.length) throw new UnreadableLevel()
  return end
}

/** @throws ZodError if it is no such item */
export const readHead = (item: unknown): Record<string, unknown> => head.parse(item).level

/**
 * The placements of an item, as `readEach` reads them, by columns.
 *
 * @throws ZodError, SyntaxError if it is no such item
 */
export function readPacked(item: unknown): { columns: PlacementColumns; unreadable: Unreadable[] } {
  const packed = unfolded(packedSchema.parse(item))
  const names = list(packed.names)
  const own = list(packed.own)
  const owns = new Map(Array.from(packed.ownOf, (row, i) => [row, own[i]]))
  const rowOf = (i: number) => placementAt(packed, i, names[i], owns.get(i) ?? {})
  if (areRight(packed, names)) {
    // What is looked at by columns is right; what has own fields is looked at one by one.
    const isLookedAt = (i: number) => owns.has(i) || !LIVES_WITHOUT.has(packed.kinds[i]!)
    const some = Array.from({ length: packed.count }, (_, i) => i).filter(isLookedAt)
    const { placements, unreadable } = readEach(some.map(rowOf))
    if (unreadable.length === 0)
      return {
        columns: columnsOf(packed, names as string[], new Map(some.map((row, i) => [row, placements[i]!.own]))),
        unreadable,
      }
  }
  const { placements, unreadable } = readEach(Array.from({ length: packed.count }, (_, i) => rowOf(i)))
  return { columns: toColumns(placements), unreadable }
}

/** The places of the kinds that may have no own fields. */
const LIVES_WITHOUT = new Set(
  KIND_NAMES.flatMap((kind, place) => (KINDS[kind].own.safeParse({}).success ? [place] : [])),
)

/** The same columns as a worker hands them over. */
function columnsOf(
  { count, ids, parents, parts, blocks, layers, kinds, flags, numbers }: PackedPlacements,
  names: readonly string[],
  owns: ReadonlyMap<number, Placement['own']>,
): PlacementColumns {
  const shared = new SharedValues(count)
  const columns = new Float64Array(count * NUMBERS)
  numbers.forEach((column, k) => {
    for (let i = 0; i < count; i++) columns[i * NUMBERS + k] = column[i]!
  })
  for (let i = 0; i < count; i++)
    shared.set(i, uuidAt(parts, i), uuidAt(blocks, i), uuidAt(layers, i), owns.get(i) ?? NOTHING)
  return {
    ids: Array.from({ length: count }, (_, i) => uuidAt(ids, i)!),
    parents: Array.from({ length: count }, (_, i) => uuidAt(parents, i)),
    names,
    numbers: columns,
    kinds: Uint8Array.from(kinds),
    flags: Uint8Array.from(flags),
    shared: shared.places,
    values: shared.values,
  }
}

const NOTHING = {}

function unfolded(packed: PackedPlacements): PackedPlacements {
  const { count } = packed
  const ids = (column: Uint8Array) => forEach(column, count, UUID)
  return {
    ...packed,
    ids: ids(packed.ids),
    parents: ids(packed.parents),
    parts: ids(packed.parts),
    blocks: ids(packed.blocks),
    layers: ids(packed.layers),
    kinds: forEach(packed.kinds, count),
    flags: forEach(packed.flags, count),
    numbers: packed.numbers.map(column => forEach(column, count)),
  }
}

function placementAt(
  { ids, parents, parts, blocks, layers, kinds, flags, numbers }: PackedPlacements,
  i: number,
  name: unknown,
  own: unknown,
) {
  const three = (first: number) => [numbers[first]![i], numbers[first + 1]![i], numbers[first + 2]![i]]
  return {
    id: uuidAt(ids, i),
    parentId: uuidAt(parents, i),
    order: numbers[0]![i],
    name,
    kind: KIND_NAMES[kinds[i]!],
    partId: uuidAt(parts, i),
    blockId: uuidAt(blocks, i),
    translation: three(1),
    rotation: [...three(4), numbers[7]![i]],
    scale: three(8),
    pivot: three(11),
    hidden: (flags[i]! & 1) !== 0,
    locked: (flags[i]! & 2) !== 0,
    layerId: uuidAt(layers, i),
    own,
  }
}

/**
 * Whether all placements of an item are right but for their own fields. It goes by columns, which takes a tenth of the
 * time: of numbers that have to lie within bounds the least and the largest are looked at. False says only that they
 * have to be looked at one by one.
 */
function areRight(packed: PackedPlacements, names: readonly unknown[]): boolean {
  const { count, numbers, kinds, ids, parents, parts, blocks, layers } = packed
  if (count === 0) return true
  if (!numbers.every(column => extremes(column).every(value => coordinate.safeParse(value).success))) return false
  if (!scaleSchema.safeParse([8, 9, 10].map(k => nearestToNothing(numbers[k]!))).success) return false
  const [x, y, z, w] = [numbers[4]!, numbers[5]!, numbers[6]!, numbers[7]!]
  for (let i = 0; i < count; i++) {
    const kind = KIND_NAMES[kinds[i]!]
    if (!kind || !isUuid(ids, i) || !isOfUnitLength(x[i]!, y[i]!, z[i]!, w[i]!)) return false
    if (![parents, parts, blocks, layers].every(column => isNone(column, i) || isUuid(column, i))) return false
    const { shows } = KINDS[kind]
    if (isNone(parts, i) === (shows === 'part') || isNone(blocks, i) === (shows === 'block')) return false
    const name = names[i]
    if (!(typeof name === 'string' && PLAIN_NAME.test(name)) && nameSchema.safeParse(name).data !== name) return false
  }
  return true
}

/** Of names that are right those that most are. */
const PLAIN_NAME = /^[!-~](?:[ -~]{0,198}[!-~])?$/

/** The least and the largest; not a number if one is not. */
function extremes(column: Float64Array): [number, number] {
  let [least, largest] = [Infinity, -Infinity]
  for (const value of column) {
    if (Number.isNaN(value)) return [value, value]
    if (value < least) least = value
    if (value > largest) largest = value
  }
  return [least, largest]
}

function nearestToNothing(column: Float64Array): number {
  let nearest = Infinity
  for (const value of column) if (Math.abs(value) < Math.abs(nearest)) nearest = value
  return nearest
}

const isNone = (column: Uint8Array, i: number) => {
  for (let k = i * UUID; k < (i + 1) * UUID; k++) if (column[k] !== 0) return false
  return true
}

/** Whether it has the version and the variant of an id: RFC 9562, 4. */
const isUuid = (column: Uint8Array, i: number) => {
  const version = column[i * UUID + 6]! >> 4
  return version >= 1 && version <= 8 && column[i * UUID + 8]! >> 6 === 2
}

const list = (json: string): unknown[] => z.array(z.unknown()).parse(JSON.parse(json))

const HEX = Array.from({ length: 256 }, (_, i) => i.toString(16).padStart(2, '0'))

/** The id that is the `i`th of a column; null where there is none. */
function uuidAt(column: Uint8Array, i: number): string | null {
  if (isNone(column, i)) return null
  let hex = ''
  for (let k = 0; k < UUID; k++) {
    hex += HEX[column[i * UUID + k]!]!
    if (k === 3 || k === 5 || k === 7 || k === 9) hex += '-'
  }
  return hex
}
