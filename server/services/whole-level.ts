import { asc, eq, getTableColumns, inArray } from 'drizzle-orm'
import type { Kept } from '../../core/formats/level-file'
import type { PartSource } from '../../core/formats/out/shapes'
import type { Dealt } from '../../core/arrange/scatter/deal'
import type { Scene } from '../../core/scene/scene'
import { makeScene } from '../../core/scene/scene'
import type { PartsKnown } from '../../core/scene/scatter-site'
import { dealAtOnce, dealerOver } from '../../core/scene/scatter-site'
import type { LevelIndex } from '../../core/scene/level-index'
import { ShapeLibrary } from '../../core/scene/shapes'
import type { Mesh } from '../../core/mesh/mesh'
import { meshBytes } from '../../core/mesh/mesh'
import { definitionOf } from '../../core/arrange/rules'
import type { Part } from '../../core/level/part'
import type { LevelView } from '../../core/scene/level-view'
import { bareView } from '../../core/scene/level-view'
import { asGroup, readPlacements } from '../../core/level/read'
import type { Transaction } from '../db/client'
import { levels, parts, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { readableMesh, readablePart } from './kit'
import { readContent } from './level-content'

const { picture: _picture, ...listedPart } = getTableColumns(parts)

/** Milliseconds in which the scatters of a level have to be dealt. */
const MOST_DEALING = 60_000

/** A scatter of a level cannot be worked out in time, with what to do instead. */
export class TooLongToDeal extends Error {}

/** A level with all that it shows. */
export type WholeLevel = {
  name: string
  revision: number
  level: LevelView
  /** Finds things in it; made when it is first asked for, which takes the meshes of its parts. */
  index: () => LevelIndex
  /** What is not known here of the level file it came from. */
  kept: Kept[]
  /** The parts it shows, without their meshes. */
  parts: Part[]
  /** A part that it shows, read when it is asked for. */
  partOf: PartSource
  /** The meshes of shapes; those of parts only if they were asked for, or are needed to work out where copies are. */
  shapes: ShapeLibrary
  /** Parts that cannot be read, as far as they were asked for, and what they are called. */
  unreadable: ReadonlyMap<string, string>
  /** Of the parts it shows. */
  tagsOf: (partId: string) => readonly string[]
}

/**
 * A level with the copies of its arrangements, scatters as well. For a process of its own. Parts that cannot be read
 * are as if they were not there.
 *
 * @param tx reads as of one moment, and stays open until the last part was asked for
 * @param use for a file, of which what is held of meshes does not grow with the level, and in which things with parts
 *   that cannot be read are groups; or to work with its surfaces, of which all meshes are read at once
 * @param inTime asked again and again while the index is made; throws if there is no time for it
 * @throws ApiError 404; TooLongToDeal as soon as what a scatter shows is asked for
 */
export async function readWholeLevel(
  tx: Transaction,
  id: string,
  use: 'file' | 'surfaces',
  inTime?: () => void,
): Promise<WholeLevel> {
  const [row] = await tx
    .select({ name: levels.name, revision: levels.revision, deletedAt: levels.deletedAt, kept: levels.kept })
    .from(levels)
    .where(eq(levels.id, id))
  if (!row || row.deletedAt) throw ApiError.notFound('level')
  const content = await readContent(tx, id)
  const rows = await tx
    .select(listedPart)
    .from(parts)
    .where(
      inArray(
        parts.id,
        tx.selectDistinct({ id: placements.partId }).from(placements).where(eq(placements.levelId, id)),
      ),
    )
    .orderBy(asc(parts.id))
  const byId = new Map<string, Part>()
  const unreadable = new Map<string, string>()
  const shapes = new ShapeLibrary()
  for (const each of rows) {
    const part = readablePart(each)
    if (part) byId.set(part.id, part)
    else unreadable.set(each.id, each.name)
  }
  const read = readPlacements(content.placements).placements
  const given = bareView(read, content)
  if (use === 'surfaces' || [...given.arrangementIds].some(each => standsOnOthers(given, each))) {
    for (const part of byId.values()) {
      const mesh = await readableMesh(tx, part.meshHash)
      if (mesh) shapes.put(part.id, part.meshHash, mesh)
      else unreadable.set(part.id, part.name)
    }
  }
  for (const missing of unreadable.keys()) byId.delete(missing)
  const shown =
    use === 'surfaces' || unreadable.size === 0
      ? read
      : read.map(each => (each.partId !== null && unreadable.has(each.partId) ? asGroup(each) : each))
  const tagsOf = (part: string) => byId.get(part)?.tags ?? []
  const scene: Scene = makeScene(
    shown,
    content,
    {
      solidOf: shapes.solid,
      tagsOf,
      lampsOf: part => byId.get(part)?.lamps ?? [],
      dealt: dealtInTime(() => scene.level, { shapes, tagsOf }),
    },
    inTime,
  )
  return {
    name: row.name,
    revision: row.revision,
    kept: row.kept,
    parts: [...byId.values()],
    level: scene.level,
    index: () => scene.index,
    partOf: partsFrom(tx, byId, shapes, unreadable),
    shapes,
    tagsOf,
    unreadable,
  }
}

/** Whether it takes the surfaces of others to know where copies are. */
function standsOnOthers(level: LevelView, id: string): boolean {
  const { rule } = level.arranged(id).own
  return level.hugsGround(id) || definitionOf(rule).scattered(rule) !== null
}

/**
 * What is shown of a mesh that cannot be read after all: a triangle without size, since files may have no meshes of
 * nothing.
 */
const NOTHING: Mesh = {
  primitives: [
    {
      material: { name: 'Missing', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] },
      positions: new Float32Array(9),
      normals: Float32Array.from([0, 1, 0, 0, 1, 0, 0, 1, 0]),
      indices: Uint32Array.from([0, 1, 2]),
    },
  ],
}

/** Bytes of meshes that are kept, for when they are asked for again. */
const MOST_KEPT = 64 * 1024 * 1024

function partsFrom(
  tx: Transaction,
  byId: ReadonlyMap<string, Part>,
  shapes: ShapeLibrary,
  unreadable: Map<string, string>,
): PartSource {
  const kept = new Map<string, Mesh>()
  let bytes = 0
  const meshOf = async (part: Part): Promise<Mesh> => {
    const known = shapes.solid(part.id)?.mesh ?? kept.get(part.id)
    if (known) return known
    const read = await readableMesh(tx, part.meshHash)
    if (!read) unreadable.set(part.id, part.name)
    const mesh = read ?? NOTHING
    bytes += meshBytes(mesh)
    kept.set(part.id, mesh)
    for (const [oldest, each] of kept) {
      if (bytes <= MOST_KEPT || kept.size === 1) break
      kept.delete(oldest)
      bytes -= meshBytes(each)
    }
    return mesh
  }
  return async id => {
    const part = byId.get(id)
    if (!part) return undefined
    const { name, kit, kind, tags, pivot, sockets, lamps, settlesAs } = part
    return { name, mesh: await meshOf(part), facts: { id, kit, kind, tags, pivot, sockets, lamps, settlesAs } }
  }
}

/** Deals the scatters of a level, each when it is asked for, as the page does. */
function dealtInTime(level: () => LevelView, parts: PartsKnown): (id: string) => Dealt | null {
  const dealer = dealerOver(parts.shapes)
  const dealt = new Map<string, Dealt | null>()
  const end = Date.now() + MOST_DEALING
  const dealInTime = (id: string) => {
    try {
      return dealAtOnce(level(), parts, dealer, id, () => Date.now() < end)
    } catch (error) {
      if (error instanceof RangeError)
        throw new TooLongToDeal(
          `The scatter "${level().need(id).name}" takes too long to work out. Let it make fewer copies, or give it fewer limits.`,
        )
      throw error
    }
  }
  return id => {
    if (!dealt.has(id)) dealt.set(id, dealInTime(id))
    return dealt.get(id)!
  }
}
