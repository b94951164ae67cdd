import { mkdtemp, rm, stat, writeFile } from 'node:fs/promises'
import { createReadStream, createWriteStream } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { eq, inArray } from 'drizzle-orm'
import type { PartToHandOver } from '../../core/formats/level-glb'
import { HandOverError, writeLevelGlb } from '../../core/formats/level-glb'
import { readPartGlb } from '../../core/formats/part-glb'
import type { Dealt } from '../../core/arrange/scatter/deal'
import { Dealer } from '../../core/arrange/scatter/deal'
import { dealAtOnce } from '../../core/scene/scatter-site'
import { LevelIndex } from '../../core/scene/level-index'
import { Solid } from '../../core/mesh/solid'
import { isBlockKey, meshOfBlockKey } from '../../core/mesh/block-key'
import { LevelView } from '../../core/scene/level-view'
import { isGround } from '../../core/scene/ground'
import { readPlacements } from '../../core/level/read'
import type { Database } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { meshes, parts, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { readContent } from './level-content'
import { needLevel } from './levels'

/** Milliseconds in which the scatters of a level have to be dealt. */
const MOST_DEALING = 60_000

/** A file made for one answer, in a folder of its own that is to be removed afterwards. */
export type HandedOver = { folder: string, path: string, bytes: number, leftOut: number }

/**
 * The level as a binary glTF file, as of one moment. For a thread of its own. The binary data goes to the disk as it is made; what
 * is held in memory is the description and the parts' meshes.
 *
 * @throws ApiError 404; 422 if it does not fit into a file like this
 */
export async function exportLevelJob(db: Database, { id, instanced }: { id: string, instanced: boolean }): Promise<HandedOver> {
  const { name, level, loaded } = await readLevel(db, id)
  const folder = await mkdtemp(join(tmpdir(), 'handy-grid-hand-over-'))
  try {
    const [path, binaryPath] = [join(folder, 'level.glb'), join(folder, 'binary')]
    const binary = createWriteStream(binaryPath)
    const { head, leftOut } = await writeLevelGlb(name, level, part => loaded.get(part), {
      instanced,
      sink: bytes => binary.write(bytes) ? undefined : new Promise(resolve => binary.once('drain', resolve)),
    })
    await new Promise<void>((resolve, reject) => binary.once('error', reject).end(resolve))
    await writeFile(path, head)
    await pipeline(createReadStream(binaryPath), createWriteStream(path, { flags: 'a' }))
    await rm(binaryPath)
    const { size } = await stat(path)
    return { folder, path, bytes: size, leftOut }
  }
  catch (error) {
    await rm(folder, { recursive: true, force: true })
    if (error instanceof HandOverError) throw new ApiError(422, 'too-much', error.message, { field: 'instanced' })
    throw error
  }
}

async function readLevel(db: Database, id: string): Promise<{ name: string, level: LevelView, loaded: Map<string, PartToHandOver> }> {
  const { name, content, used } = await inTransaction(db, async tx => ({
    name: (await needLevel(tx, id)).name,
    content: await readContent(tx, id),
    used: await tx.select({ id: parts.id, name: parts.name, tags: parts.tags, glb: meshes.glb }).from(parts).innerJoin(meshes, eq(parts.meshHash, meshes.hash))
      .where(inArray(parts.id, tx.selectDistinct({ id: placements.partId }).from(placements).where(eq(placements.levelId, id)))),
  }), { ...ONE_MOMENT, accessMode: 'read only' })
  const loaded = new Map<string, PartToHandOver>()
  for (const part of used) loaded.set(part.id, { name: part.name, mesh: await readPartGlb(part.glb) })
  const level = new LevelView(readPlacements(content.placements).placements, content.layers, [], content.blocks)
  const tags = new Map(used.map(part => [part.id, part.tags]))
  lendSurroundings(level, loaded, part => tags.get(part) ?? [])
  return { name, level, loaded }
}

/** Gives copies that hug the ground something to stand on, and deals scatters, as the page does. */
function lendSurroundings(level: LevelView, loaded: ReadonlyMap<string, PartToHandOver>, tagsOf: (partId: string) => readonly string[]): void {
  const solids = new Map<string, Solid>()
  const solidOf = (shape: string): Solid | undefined => {
    const mesh = isBlockKey(shape) ? meshOfBlockKey(shape) : loaded.get(shape)?.mesh
    if (mesh && !solids.has(shape)) solids.set(shape, new Solid(mesh))
    return solids.get(shape)
  }
  const some = (test: (id: string) => boolean) => [...level.arrangementIds].some(test)
  const dealer = new Dealer(shape => solidOf(shape)?.mesh.primitives)
  const dealt = new Map<string, Dealt | null>()
  const end = Date.now() + MOST_DEALING
  const dealInTime = (id: string) => {
    try {
      return dealAtOnce(level, { solidOf, tagsOf }, dealer, id, () => Date.now() < end)
    }
    catch (error) {
      if (error instanceof RangeError) throw new HandOverError(`The scatter "${level.need(id).name}" takes too long to work out. Let it make fewer copies, or give it fewer limits.`)
      throw error
    }
  }
  level.dealt = (id) => {
    if (!dealt.has(id)) dealt.set(id, dealInTime(id))
    return dealt.get(id)!
  }
  if (some(id => level.hugsGround(id))) new LevelIndex(level, solidOf, id => isGround(level, tagsOf, id))
}
