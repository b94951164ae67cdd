import { readFile } from 'node:fs/promises'
import { count } from 'drizzle-orm'
import { v7 } from 'uuid'
import { lanternQuayKit } from '../../demo/kit'
import { LANTERN_QUAY, lanternQuay } from '../../demo/lantern-quay'
import type { Placement } from '../../core/level/schema'
import type { Connection, Transaction } from '../db/client'
import { levels, parts } from '../db/schema'
import { addPart } from './kit'
import { insertLevel } from './level-content'

/** Puts the demo's kit and level into a database that has neither parts nor levels. */
export async function seedWhenEmpty(db: Connection): Promise<void> {
  const [inKit] = await db.select({ count: count() }).from(parts)
  const [saved] = await db.select({ count: count() }).from(levels)
  if (inKit!.count > 0 || saved!.count > 0) return
  await db.transaction(async tx => {
    await addKit(tx, () => true)
    await insertLevel(tx, v7(), LANTERN_QUAY, lanternQuay(), await demoPicture())
  })
}

/** Those of the demo's parts that some things show and that are not there, such as where they were deleted. */
export async function addMissingParts(tx: Transaction, placements: readonly Placement[]): Promise<void> {
  const shown = new Set(placements.flatMap(({ partId }) => partId ?? []))
  const there = new Set((await tx.select({ id: parts.id }).from(parts)).map(({ id }) => id))
  // Making the kit's meshes takes a while.
  if ([...shown].some(id => !there.has(id))) await addKit(tx, id => shown.has(id) && !there.has(id))
}

async function addKit(tx: Transaction, isWanted: (id: string) => boolean): Promise<void> {
  for (const { mesh, ...part } of lanternQuayKit())
    if (isWanted(part.id)) await addPart(tx, { ...part, inKit: true, kit: LANTERN_QUAY }, { mesh, pictures: new Map() })
}

/** The picture of the demo as it was last taken; the editor takes a new one as soon as somebody works on the level. */
export async function demoPicture(): Promise<Uint8Array> {
  return readFile('demo/lantern-quay.webp')
}
