import type { Column, SQL } from 'drizzle-orm'
import { eq, sql } from 'drizzle-orm'
import { KIND_NAMES } from '../../core/level/kinds'
import type { PackedPlacements } from '../../core/level/packed'
import { once, PACKED_AT_A_TIME, packItem, UUID } from '../../core/level/packed'
import type { Transaction } from '../db/client'
import { placements } from '../db/schema'

// A level's placements by columns, put together by the database itself: numbers as bytes, one after the other. This
// process turns the bytes of each number around and writes them down.

const p = placements
/** As `core/level/packed` lists them. */
const NUMBERS = [
  p.order,
  ...[p.translationX, p.translationY, p.translationZ],
  ...[p.rotationX, p.rotationY, p.rotationZ, p.rotationW],
  ...[p.scaleX, p.scaleY, p.scaleZ],
  ...[p.pivotX, p.pivotY, p.pivotZ],
]
const NONE = sql`'00000000-0000-0000-0000-000000000000'::uuid`

const joined = (each: SQL) => sql`string_agg(${each}, ''::bytea)`
const ids = (column: Column) => joined(sql`uuid_send(coalesce(${column}, ${NONE}))`)
const byte = (value: SQL) => joined(sql`set_byte('\\x00'::bytea, 0, ${value})`)
/** -0 is a number of its own in a database, and 0 where it is used. */
const doubles = (column: Column) => joined(sql`float8send(${column} + 0)`)

const KINDS = sql`array[${sql.join(
  KIND_NAMES.map(kind => sql`${kind}`),
  sql`, `,
)}]::text[]`

/** Written into the text: as a parameter it would be another expression each time. */
const AT_A_TIME = sql.raw(String(PACKED_AT_A_TIME))

type Row = {
  count: number
  ids: Buffer
  parents: Buffer
  parts: Buffer
  blocks: Buffer
  layers: Buffer
  kinds: Buffer
  flags: Buffer
  names: string
  own: string | null
  own_of: number[] | null
} & Record<`n${number}`, Buffer>

/** The placements of a level as items of a packed one, in their order. */
export async function* packedPlacements(tx: Transaction, levelId: string): AsyncGenerator<Uint8Array> {
  const isOwn = sql`${p.own} <> '{}'::jsonb`
  const numbers = sql.join(
    NUMBERS.map((column, i) => sql`${doubles(column)} as ${sql.identifier(`n${i}`)}`),
    sql`, `,
  )
  // All columns are of one reading of the same rows, so that they belong together in whatever order those come.
  await tx.execute(sql`declare packed no scroll cursor for
    select count(*)::int as count, ${ids(p.id)} as ids, ${ids(p.parentId)} as parents, ${ids(p.partId)} as parts,
      ${ids(p.blockId)} as blocks, ${ids(p.layerId)} as layers,
      ${byte(sql`array_position(${KINDS}, ${p.kind}) - 1`)} as kinds,
      ${byte(sql`${p.hidden}::int + 2 * ${p.locked}::int`)} as flags,
      json_agg(${p.name})::text as names,
      (json_agg(${p.own}) filter (where ${isOwn}))::text as own,
      array_agg((place % ${AT_A_TIME})::int) filter (where ${isOwn}) as own_of,
      ${numbers}
    from (
      select *, row_number() over (order by ${p.order}, ${p.id}) - 1 as place
      from ${p} where ${eq(p.levelId, sql`${levelId}::uuid`)}
      order by place
    ) as ${sql.identifier('placements')}
    group by place / ${AT_A_TIME}
    order by place / ${AT_A_TIME}`)
  for (;;) {
    const { rows } = await tx.execute<Row>(sql`fetch 1 from packed`)
    const [row] = rows
    if (!row) return
    yield packItem(packed(row))
  }
}

function packed(row: Row): PackedPlacements {
  return {
    count: row.count,
    ids: once(bytesOf(row.ids), UUID),
    parents: once(bytesOf(row.parents), UUID),
    parts: once(bytesOf(row.parts), UUID),
    blocks: once(bytesOf(row.blocks), UUID),
    layers: once(bytesOf(row.layers), UUID),
    kinds: once(bytesOf(row.kinds)),
    flags: once(bytesOf(row.flags)),
    numbers: NUMBERS.map((_, i) => once(numbersOf(row[`n${i}`]!))),
    names: row.names,
    own: row.own ?? '[]',
    ownOf: Uint32Array.from(row.own_of ?? []),
  }
}

/** A plain column: what CBOR makes of a buffer is something else. */
const bytesOf = (buffer: Buffer) => new Uint8Array(buffer.buffer, buffer.byteOffset, buffer.length)

/** Doubles as the database sends them: of their eight bytes the highest first. */
function numbersOf(bytes: Buffer): Float64Array {
  const turned = new Float64Array(bytes.length / 8)
  const own = Buffer.from(turned.buffer)
  bytes.copy(own)
  own.swap64()
  return turned
}
