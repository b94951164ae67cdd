import type { LevelRecords } from './level'
import { KIND_NAMES } from './kinds'
import type { PackedPlacements } from './packed'
import { once, PACKED_AT_A_TIME, packHead, packItem, UUID } from './packed'
import type { Placement } from './schema'

/** Of a placement: order, translation, rotation, scale and pivot. */
const numbersOf = ({ order, translation, rotation, scale, pivot }: Placement) => [
  order,
  ...translation,
  ...rotation,
  ...scale,
  ...pivot,
]

/** Columns of numbers. */
const WIDTH = 14

/**
 * A level as `packed` describes it, item by item, from records that are here already.
 *
 * @param head what is said of it besides its records
 */
export function* packLevel(
  head: Record<string, unknown>,
  { placements, records }: { placements: readonly Placement[]; records: LevelRecords },
): Generator<Uint8Array> {
  yield packHead({ ...head, ...records })
  for (let from = 0; from < placements.length; from += PACKED_AT_A_TIME)
    yield packItem(columnsOf(placements.slice(from, from + PACKED_AT_A_TIME)))
}

function columnsOf(placements: readonly Placement[]): PackedPlacements {
  const rows = placements.map(numbersOf)
  const owned = [...placements.keys()].filter(i => Object.keys(placements[i]!.own).length > 0)
  const ids = (of: (placement: Placement) => string | null) => once(bytesOf(placements.map(of)), UUID)
  return {
    count: placements.length,
    ids: ids(({ id }) => id),
    parents: ids(({ parentId }) => parentId),
    parts: ids(({ partId }) => partId),
    blocks: ids(({ blockId }) => blockId),
    layers: ids(({ layerId }) => layerId),
    kinds: once(Uint8Array.from(placements, ({ kind }) => KIND_NAMES.indexOf(kind))),
    flags: once(Uint8Array.from(placements, ({ hidden, locked }) => Number(hidden) + 2 * Number(locked))),
    numbers: Array.from({ length: WIDTH }, (_, k) => once(Float64Array.from(rows, row => row[k]!))),
    names: JSON.stringify(placements.map(({ name }) => name)),
    own: JSON.stringify(owned.map(i => placements[i]!.own)),
    ownOf: Uint32Array.from(owned),
  }
}

/** Ids as sixteen bytes each; all of them zero for none. */
function bytesOf(ids: readonly (string | null)[]): Uint8Array {
  const bytes = new Uint8Array(ids.length * UUID)
  ids.forEach((id, i) => {
    if (id === null) return
    const digits = id.replaceAll('-', '')
    for (let k = 0; k < UUID; k++) bytes[i * UUID + k] = Number.parseInt(digits.slice(2 * k, 2 * k + 2), 16)
  })
  return bytes
}
