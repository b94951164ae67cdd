import { KIND_NAMES } from './kinds'
import type { Placement } from './schema'

/** Numbers of a placement: its order, translation, rotation, scale and pivot. */
const NUMBERS = 14
/** What many placements have in common: part, block, layer and the kind's own fields. */
const SHARED = 4
const [HIDDEN, LOCKED] = [1, 2]

/**
 * Placements by columns, for handing many of them to a worker: numbers go over without being copied, and what many have
 * in common goes over once.
 */
export type PlacementColumns = {
  ids: readonly string[]
  parents: readonly (string | null)[]
  names: readonly string[]
  /** Of each: order, translation x y z, rotation x y z w, scale x y z, pivot x y z. */
  numbers: Float64Array<ArrayBuffer>
  /** Of each: the place of its kind in `KIND_NAMES`, and whether it is hidden (1) or locked (2). */
  kinds: Uint8Array<ArrayBuffer>
  flags: Uint8Array<ArrayBuffer>
  /** Of each: the places of its part, block, layer and own fields in `values`; -1 for none. */
  shared: Int32Array<ArrayBuffer>
  values: readonly unknown[]
}

/**
 * @example
 * import { createPlacement } from './create'
 * const id = '00000000-0000-7000-8000-000000000001'
 * const placements = [createPlacement({ id, name: 'Stall', kind: 'group', translation: [0, 0, 2] })]
 * fromColumns(toColumns(placements)) // placements
 */
export function toColumns(placements: readonly Placement[]): PlacementColumns {
  const count = placements.length
  const numbers = new Float64Array(count * NUMBERS)
  const [kinds, flags, shared] = [new Uint8Array(count), new Uint8Array(count), new SharedValues(count)]
  placements.forEach(
    ({ order, translation, rotation, scale, pivot, kind, hidden, locked, partId, blockId, layerId, own }, i) => {
      numbers[i * NUMBERS] = order
      numbers.set(translation, i * NUMBERS + 1)
      numbers.set(rotation, i * NUMBERS + 4)
      numbers.set(scale, i * NUMBERS + 8)
      numbers.set(pivot, i * NUMBERS + 11)
      kinds[i] = KIND_NAMES.indexOf(kind)
      flags[i] = (hidden ? HIDDEN : 0) + (locked ? LOCKED : 0)
      shared.set(i, partId, blockId, layerId, isEmpty(own) ? EMPTY : own)
    },
  )
  return {
    ids: placements.map(({ id }) => id),
    parents: placements.map(({ parentId }) => parentId),
    names: placements.map(({ name }) => name),
    numbers,
    kinds,
    flags,
    shared: shared.places,
    values: shared.values,
  }
}

/** What placements have in common, each once, and where it is. */
export class SharedValues {
  readonly values: unknown[] = []
  readonly places: Int32Array<ArrayBuffer>
  private readonly known = new Map<unknown, number>()

  constructor(count: number) {
    this.places = new Int32Array(count * SHARED)
  }

  set(i: number, partId: string | null, blockId: string | null, layerId: string | null, own: object): void {
    this.places[i * SHARED] = this.placeOf(partId)
    this.places[i * SHARED + 1] = this.placeOf(blockId)
    this.places[i * SHARED + 2] = this.placeOf(layerId)
    this.places[i * SHARED + 3] = this.placeOf(own)
  }

  private placeOf(value: unknown): number {
    if (value === null) return -1
    let place = this.known.get(value)
    if (place === undefined) this.known.set(value, (place = this.values.push(value) - 1))
    return place
  }
}

/** The placements that columns hold, in the same order. */
export function fromColumns({
  ids,
  parents,
  names,
  numbers,
  kinds,
  flags,
  shared,
  values,
}: PlacementColumns): Placement[] {
  return ids.map((id, i): Placement => {
    const of = i * NUMBERS
    const value = <T>(which: number): T | null =>
      shared[i * SHARED + which]! < 0 ? null : (values[shared[i * SHARED + which]!] as T)
    const at = (k: number) => numbers[of + k]!
    return {
      id,
      parentId: parents[i]!,
      order: at(0),
      name: names[i]!,
      kind: KIND_NAMES[kinds[i]!]!,
      partId: value<string>(0),
      blockId: value<string>(1),
      layerId: value<string>(2),
      own: value<Placement['own']>(3)!,
      translation: [at(1), at(2), at(3)],
      rotation: [at(4), at(5), at(6), at(7)],
      scale: [at(8), at(9), at(10)],
      pivot: [at(11), at(12), at(13)],
      hidden: (flags[i]! & HIDDEN) !== 0,
      locked: (flags[i]! & LOCKED) !== 0,
    }
  })
}

/** What of columns is handed over instead of being copied. */
export const buffersOf = ({ numbers, kinds, flags, shared }: PlacementColumns): ArrayBuffer[] => [
  numbers.buffer,
  kinds.buffer,
  flags.buffer,
  shared.buffer,
]

const EMPTY = {}
const isEmpty = (own: object) => Object.keys(own).length === 0
