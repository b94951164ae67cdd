import { readFile } from 'node:fs/promises'
import { count } from 'drizzle-orm'
import { v7 } from 'uuid'
import { lanternQuayKit } from '../../demo/kit'
import { LANTERN_QUAY, lanternQuay } from '../../demo/lantern-quay'
import type { Connection } from '../db/client'
import { levels, parts } from '../db/schema'
import { addPart } from './kit'
import { insertLevel } from './level-content'

/** Puts the demo's kit and level into a database that has neither parts nor levels. */
export async function seedWhenEmpty(db: Connection): Promise<void> {
  const [inKit] = await db.select({ count: count() }).from(parts)
  const [saved] = await db.select({ count: count() }).from(levels)
  if (inKit!.count > 0 || saved!.count > 0) return
  await db.transaction(async tx => {
    for (const { mesh, ...part } of lanternQuayKit())
      await addPart(tx, { ...part, inKit: true, kit: LANTERN_QUAY }, { mesh, pictures: new Map() })
    await insertLevel(tx, v7(), LANTERN_QUAY, lanternQuay(), await demoPicture())
  })
}

/** The picture of the demo as it was last taken; the editor takes a new one as soon as somebody works on the level. */
export async function demoPicture(): Promise<Uint8Array> {
  return readFile('demo/lantern-quay.webp')
}
