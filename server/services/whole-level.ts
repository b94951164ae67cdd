import { eq, inArray } from 'drizzle-orm'
import type { PartToHandOver } from '../../core/formats/level-glb'
import { readPartGlb } from '../../core/formats/part-glb'
import type { Dealt } from '../../core/arrange/scatter/deal'
import { Dealer } from '../../core/arrange/scatter/deal'
import { isBentKey, meshOfBentKey } from '../../core/arrange/path/bent-key'
import { dealAtOnce } from '../../core/scene/scatter-site'
import { LevelIndex } from '../../core/scene/level-index'
import { Solid } from '../../core/mesh/solid'
import type { Mesh } from '../../core/mesh/mesh'
import { isBlockKey, meshOfBlockKey } from '../../core/mesh/block-key'
import { LevelView } from '../../core/scene/level-view'
import { isGround } from '../../core/scene/ground'
import { readPlacements } from '../../core/level/read'
import type { Transaction } from '../db/client'
import { levels, meshes, parts, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { readContent } from './level-content'

/** Milliseconds in which the scatters of a level have to be dealt. */
const MOST_DEALING = 60_000

/** A scatter of a level cannot be worked out in time, with what to do instead. */
export class TooLongToDeal extends Error {}

/** A level with all that it shows. */
export type WholeLevel = {
  name: string
  revision: number
  level: LevelView
  /** The parts it shows, by their ids. */
  loaded: ReadonlyMap<string, PartToHandOver>
  solidOf: (shape: string) => Solid | undefined
  /** Of the parts it shows. */
  tagsOf: (partId: string) => readonly string[]
}

/**
 * A level with the meshes of its parts and the copies of its arrangements, scatters as well. For a thread of its own.
 *
 * @throws ApiError 404; TooLongToDeal as soon as what a scatter shows is asked for
 */
export async function readWholeLevel(tx: Transaction, id: string): Promise<WholeLevel> {
  const [row] = await tx.select({ name: levels.name, revision: levels.revision, deletedAt: levels.deletedAt }).from(levels).where(eq(levels.id, id))
  if (!row || row.deletedAt) throw ApiError.notFound('level')
  const content = await readContent(tx, id)
  const used = await tx.select({ id: parts.id, name: parts.name, tags: parts.tags, lamps: parts.lamps, glb: meshes.glb }).from(parts).innerJoin(meshes, eq(parts.meshHash, meshes.hash))
    .where(inArray(parts.id, tx.selectDistinct({ id: placements.partId }).from(placements).where(eq(placements.levelId, id))))
  const loaded = new Map<string, PartToHandOver>()
  for (const part of used) loaded.set(part.id, { name: part.name, mesh: (await readPartGlb(part.glb)).mesh })
  const level = new LevelView(readPlacements(content.placements).placements, content)
  const lamps = new Map(used.map(part => [part.id, part.lamps]))
  level.lampsOf = part => lamps.get(part) ?? []
  const tags = new Map(used.map(part => [part.id, part.tags]))
  const solidOf = solidsOf(loaded)
  const tagsOf = (part: string) => tags.get(part) ?? []
  lendSurroundings(level, solidOf, tagsOf)
  return { name: row.name, revision: row.revision, level, loaded, solidOf, tagsOf }
}

function solidsOf(loaded: ReadonlyMap<string, PartToHandOver>): WholeLevel['solidOf'] {
  const solids = new Map<string, Solid>()
  const meshOf = (shape: string): Mesh | null => {
    if (isBlockKey(shape)) return meshOfBlockKey(shape)
    if (isBentKey(shape)) return meshOfBentKey(shape, meshOf)
    return loaded.get(shape)?.mesh ?? null
  }
  return (shape) => {
    const mesh = solids.has(shape) ? null : meshOf(shape)
    if (mesh) solids.set(shape, new Solid(mesh))
    return solids.get(shape)
  }
}

/** Gives copies that hug the ground something to stand on, and deals scatters, as the page does. */
function lendSurroundings(level: LevelView, solidOf: WholeLevel['solidOf'], tagsOf: (partId: string) => readonly string[]): void {
  const dealer = new Dealer(shape => solidOf(shape)?.mesh.primitives)
  const dealt = new Map<string, Dealt | null>()
  const end = Date.now() + MOST_DEALING
  const dealInTime = (id: string) => {
    try {
      return dealAtOnce(level, { solidOf, tagsOf }, dealer, id, () => Date.now() < end)
    }
    catch (error) {
      if (error instanceof RangeError) throw new TooLongToDeal(`The scatter "${level.need(id).name}" takes too long to work out. Let it make fewer copies, or give it fewer limits.`)
      throw error
    }
  }
  level.dealt = (id) => {
    if (!dealt.has(id)) dealt.set(id, dealInTime(id))
    return dealt.get(id)!
  }
  if ([...level.arrangementIds].some(id => level.hugsGround(id))) new LevelIndex(level, solidOf, id => isGround(level, tagsOf, id))
}
