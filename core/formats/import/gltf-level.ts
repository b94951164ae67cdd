import type { Mesh as GltfMesh, Node as GltfNode, Scene } from '@gltf-transform/core'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { z } from 'zod'
import { createPlacement } from '../../level/create'
import { idSchema } from '../../level/fields'
import { kindSchema } from '../../level/kinds'
import { partSchema } from '../../level/part'
import type { Placement } from '../../level/schema'
import { placementSchema } from '../../level/schema'
import { bakeMesh } from '../../mesh/bake-mesh'
import type { Mesh } from '../../mesh/mesh'
import type { Transform } from '../../math/transform'
import { decompose, isSheared } from '../../math/transform'
import type { Quat, Vec3 } from '../../math/vectors'
import { counted, wordFor } from '../../units/plural'
import { nameFrom } from '../../units/text'
import { nearestRotation } from '../../edit/handles/turn'
import { GlbError } from '../glb-chunks'
import type { Decoders, GltfFile } from './gltf-file'
import { gltfInstances, notesOn, readGltf, sceneOf, topsOf } from './gltf-file'
import { PrimitiveReader } from '../gltf-primitives'
import { localOf } from './true-matrix'
import { EXTRAS_VERSION } from '../level-glb'
import type { PartFacts } from '../out/shapes'
import { writePartGlb } from '../part-glb'
import { findRule } from './find-rule'
import { cameraOf, lightOf } from './gltf-marks'
import type { IncomingPart, ImportedLevel } from './imported-level'
import { MOST_PLACEMENTS, readRecords } from './imported-level'

/** Triangles of all parts of a file together. */
const MOST_TRIANGLES = 4_000_000
/** How deep things may hang below each other. */
const DEEPEST = 10_000
/** Skewed instances of one node that get meshes of their own. */
const MOST_BAKED = 200

const recordSchema = z.looseObject({
  kind: kindSchema,
  order: z.number().catch(0),
  partId: idSchema.optional(),
  blockId: idSchema.optional(),
  layerId: idSchema.optional(),
  pivot: placementSchema.shape.pivot.optional(),
  hidden: z.boolean().default(false),
  locked: z.boolean().default(false),
  own: z.unknown(),
  sources: z.array(placementSchema).optional(),
})
/** What this program says of a node. */
const extrasSchema = z.looseObject({
  placement: idSchema.optional(),
  made: z.string().optional(),
  handyGrid: recordSchema.optional().catch(undefined),
})
const factsSchema = partSchema.pick({
  id: true,
  kit: true,
  kind: true,
  tags: true,
  pivot: true,
  sockets: true,
  lamps: true,
  settlesAs: true,
})

/**
 * Reads a binary glTF file as a level: its nodes become placements, meshes of the same geometry one part, instances
 * that stand in a line, a grid or a ring an arrangement, and others placements. What this program wrote about the level
 * comes back as it was.
 *
 * @param newId ids for what has none
 * @throws GlbError with what is wrong, and where
 */
export function readGltfLevel(glb: Uint8Array, newId: () => string, decoders: Decoders = {}): Promise<ImportedLevel> {
  return readGltf(glb, decoders, file => new LevelReader(file, newId).read())
}

/** A node waiting to be read, and what it hangs from. */
type Waiting = {
  node: GltfNode
  parentId: string | null
  order: number
  depth: number
  /** What is left of a skewed matrix above, by which it has to be changed first. */
  bent: Matrix4
}

class LevelReader {
  private readonly reader = new PrimitiveReader(MOST_TRIANGLES)
  private readonly notes = this.reader.notes
  private readonly placements = new Map<string, Placement>()
  private readonly parts = new Map<string, IncomingPart>()
  /** By what is in them, the parts that are known already. */
  private readonly byContent = new Map<string, string>()
  private readonly byMesh = new Map<GltfMesh, string | null>()
  private readonly blocks: ReadonlySet<string>
  private readonly layers: ReadonlySet<string>
  private readonly records: ImportedLevel['records']
  private readonly scene: Scene | null
  private skipped = 0
  /** How many arrangements were found, and by how many metres at most a copy is from where it was. */
  private readonly ruled = { count: 0, moved: 0 }

  constructor(
    private readonly file: GltfFile,
    private readonly newId: () => string,
  ) {
    this.scene = sceneOf(file)
    const given = this.scene?.getExtras().handyGrid
    const isOurs = typeof given === 'object' && given !== null && !Array.isArray(given)
    if (isOurs && Number((given as Record<string, unknown>).version) > EXTRAS_VERSION)
      this.notes.add('It was written by a later version of this program: what that added is left out.')
    const { records, unreadable } = readRecords(isOurs ? (given as Record<string, unknown>) : {})
    if (unreadable > 0)
      this.notes.add(
        `${unreadable} of the level's layers, blocks, stations, measures and limits cannot be read, and are left out.`,
      )
    this.records = records
    this.blocks = new Set(records.blocks.map(({ id }) => id))
    this.layers = new Set(records.layers.map(({ id }) => id))
  }

  async read(): Promise<ImportedLevel> {
    for (const note of notesOn(this.file, true)) this.notes.add(note)
    const waiting: Waiting[] = topsOf(this.file)
      .map((node, order) => ({ node, parentId: null, order, depth: 0, bent: new Matrix4() }))
      .reverse()
    for (let at = waiting.pop(); at; at = waiting.pop()) {
      const placed = await this.readNode(at)
      if (!placed) continue
      for (const [order, node] of at.node.listChildren().entries())
        waiting.push({ node, parentId: placed.id, order, depth: at.depth + 1, bent: placed.bent })
    }
    await this.readKnownParts()
    if (this.placements.size === 0) throw new GlbError('there is nothing in it that can be placed')
    if (this.skipped > 0)
      this.notes.add(`${this.skipped} things made for copies are left out: the copies come by their rule.`)
    if (this.ruled.count > 0)
      this.notes.add(
        `${counted(this.ruled.count, 'set')} of instances ${wordFor(this.ruled.count, 'becomes an arrangement', 'become arrangements')}; nothing stands farther than ${(Math.max(this.ruled.moved, 1e-6) * 1000).toFixed(3)} mm from where it was.`,
      )
    return {
      name: nameFrom(this.scene?.getName() ?? '', 'Level'),
      placements: [...this.placements.values()],
      records: this.records,
      parts: [...this.parts.values()],
      pictures: this.reader.materials.pictures,
      notes: [...this.notes],
    }
  }

  /** Puts what a node is into the level. @returns what its children hang from; null if they are left out with it */
  private async readNode({
    node,
    parentId,
    order,
    depth,
    bent,
  }: Waiting): Promise<{ id: string; bent: Matrix4 } | null> {
    if (depth > DEEPEST)
      throw new GlbError(`nodes hang more than ${DEEPEST.toLocaleString('en')} deep below each other`)
    const extras = extrasSchema.safeParse(node.getExtras()).data ?? {}
    if (extras.made !== undefined) {
      if (extras.made === 'copy') this.skipped++
      return null
    }
    const id =
      extras.placement !== undefined && !this.placements.has(extras.placement) ? extras.placement : this.newId()
    const name = nameFrom(node.getName(), node.getMesh() ? 'Thing' : 'Group')
    const above = { parentId, name }
    if (extras.handyGrid) {
      const known = this.asItWas(id, node, extras.handyGrid, above)
      if (known) return { id: known.id, bent: new Matrix4() }
      this.notes.add(`"${name}" is not as this program writes things, and is taken as any other file's.`)
    }
    return this.asForeign(id, node, { ...above, order }, bent)
  }

  /** A placement as this program wrote it, moved and renamed as the node is now; null if it makes no sense. */
  private asItWas(
    id: string,
    node: GltfNode,
    record: z.output<typeof recordSchema>,
    above: Pick<Placement, 'parentId' | 'name'>,
  ): Placement | null {
    const {
      kind,
      order,
      partId = null,
      blockId = null,
      layerId,
      pivot = [0, 0, 0],
      hidden,
      locked,
      own,
      sources = [],
    } = record
    const { translation, rotation, scale } = ownTransform(node)
    const shift = new Vector3(...pivot).multiply(new Vector3(...scale)).applyQuaternion(new Quaternion(...rotation))
    const read = placementSchema.safeParse({
      id,
      ...above,
      kind,
      order,
      own,
      partId,
      blockId,
      pivot,
      hidden,
      locked,
      layerId: layerId !== undefined && this.layers.has(layerId) ? layerId : null,
      translation: [translation[0] + shift.x, translation[1] + shift.y, translation[2] + shift.z],
      rotation,
      scale,
    })
    if (!read.success || (blockId !== null && !this.blocks.has(blockId))) return null
    this.add(read.data)
    // Below what they were below: the source is only known here if the thing it hangs from is.
    for (const source of sources) {
      const parentId = source.parentId !== null && this.placements.has(source.parentId) ? source.parentId : id
      const isWhole = source.blockId === null || this.blocks.has(source.blockId)
      if (isWhole && !this.placements.has(source.id))
        this.add({
          ...source,
          parentId,
          layerId: source.layerId !== null && this.layers.has(source.layerId) ? source.layerId : null,
        })
    }
    return read.data
  }

  /** Reads the parts that placements of this program show, by what their meshes say of themselves. */
  private async readKnownParts(): Promise<void> {
    const meshes = new Map(
      this.file.gltf
        .getRoot()
        .listMeshes()
        .map(mesh => [factsOf(mesh)?.id, mesh]),
    )
    for (const placement of this.placements.values()) {
      if (placement.partId === null || this.parts.has(placement.partId)) continue
      const mesh = meshes.get(placement.partId)
      if (!mesh || (await this.partOf(mesh, null, placement.partId)) === null) this.toGroup(placement)
    }
  }

  /** A thing whose shape is not in the file. */
  private toGroup(placement: Placement): void {
    this.notes.add(`The shape of "${placement.name}" is not in the file; it becomes a group.`)
    this.placements.set(placement.id, { ...placement, kind: 'group', partId: null, own: {} })
  }

  private async asForeign(
    id: string,
    node: GltfNode,
    above: Pick<Placement, 'parentId' | 'name' | 'order'>,
    bent: Matrix4,
  ): Promise<{ id: string; bent: Matrix4 } | null> {
    const isSkin = node.getSkin() !== null
    const { transform, rest } = isSkin ? { transform: AT_REST, rest: null } : standingOf(node, bent)
    const instances = gltfInstances(node)?.map(matrix => (rest ? matrix.premultiply(rest) : matrix)) ?? null
    const mesh = node.getMesh()
    const partId = mesh ? await this.partOf(mesh, node, undefined, instances ? null : rest) : null
    if (rest && mesh) this.notes.add('What is skewed has its skew folded into a mesh of its own.')
    const [camera, light] = [cameraOf(node), lightOf(node)]
    const alone = partId === null && node.listChildren().length === 0
    const shown: Partial<Placement> & Pick<Placement, 'kind'> =
      partId !== null && !instances
        ? { kind: 'part', partId }
        : camera && alone
          ? { kind: 'camera', own: camera }
          : light && alone
            ? { kind: 'light', own: light }
            : { kind: 'group' }
    // A skin stands in the world, wherever its node is.
    const placed = this.tryAdd({ ...above, ...transform, ...shown, id, ...(isSkin ? { parentId: null } : {}) })
    if (!placed) return null
    if (!alone && camera)
      this.tryAdd({
        id: this.newId(),
        parentId: id,
        name: `${above.name}, camera`,
        order: -2,
        kind: 'camera',
        own: camera,
      })
    if (!alone && light)
      this.tryAdd({
        id: this.newId(),
        parentId: id,
        name: `${above.name}, light`,
        order: -1,
        kind: 'light',
        own: light,
      })
    if (instances && partId !== null) await this.addInstances(id, partId, above.name, instances, node)
    return { id, bent: rest ?? new Matrix4() }
  }

  private async addInstances(
    parentId: string,
    partId: string,
    name: string,
    matrices: readonly Matrix4[],
    node: GltfNode,
  ): Promise<void> {
    const found = findRule(matrices)
    if (found) {
      const arrangement = this.newId()
      const isThere = this.tryAdd({
        id: arrangement,
        parentId,
        name: nameFrom(`${name}, copies`, name),
        kind: 'arrangement',
        own: { rule: found.rule },
        translation: found.at,
      })
      if (isThere) this.tryAdd({ id: this.newId(), parentId: arrangement, name, kind: 'part', partId, ...found.source })
      this.ruled.count++
      this.ruled.moved = Math.max(this.ruled.moved, found.moved)
      return
    }
    let skewed = 0
    for (const [order, matrix] of matrices.entries()) {
      const isBaked = isSheared(matrix) && skewed++ < MOST_BAKED
      const { transform, rest } = isBaked ? apart(matrix) : { transform: decompose(matrix, [0, 0, 0]), rest: null }
      const shown = rest ? ((await this.partOf(node.getMesh()!, node, undefined, rest)) ?? partId) : partId
      this.tryAdd({
        id: this.newId(),
        parentId,
        name: nameFrom(`${name.slice(0, 180)} ${order + 1}`, name),
        order,
        kind: 'part',
        partId: shown,
        ...transform,
      })
    }
    if (skewed > MOST_BAKED)
      this.notes.add(
        `${counted(skewed - MOST_BAKED, 'instance is', 'instances are')} skewed, and ${wordFor(skewed - MOST_BAKED, 'comes as it is', 'come as they are')} nearest without: only ${MOST_BAKED} get meshes of their own.`,
      )
  }

  /** @returns whether it can be placed */
  private tryAdd(given: Pick<Placement, 'id' | 'name' | 'kind'> & Partial<Placement>): boolean {
    const read = placementSchema.safeParse(createPlacement(given))
    if (read.success) this.add(read.data)
    else
      this.notes.add(
        `"${given.name}" has a place or a size that cannot be worked with, and is left out with all below it.`,
      )
    return read.success
  }

  private add(placement: Placement): void {
    if (this.placements.size >= MOST_PLACEMENTS)
      throw new GlbError(
        `it has more than ${MOST_PLACEMENTS.toLocaleString('en')} things, which is more than is brought in at once`,
      )
    this.placements.set(placement.id, placement)
  }

  /**
   * The id of the part that a mesh is; null if it has no triangles.
   *
   * @param node that shows it @param given its id, if it has one already @param baked folded into the mesh, which then
   *   is a part of its own
   */
  private async partOf(
    mesh: GltfMesh,
    node: GltfNode | null,
    given?: string,
    baked: Matrix4 | null = null,
  ): Promise<string | null> {
    const isOwn = baked !== null || given !== undefined || Boolean(node?.getSkin())
    const known = isOwn ? undefined : this.byMesh.get(mesh)
    if (known !== undefined) return known
    const primitives = this.reader.primitivesOf(mesh, node)
    this.reader.count(primitives.reduce((sum, { indices }) => sum + indices.length / 3, 0))
    const read = { primitives }
    const found =
      primitives.length === 0
        ? null
        : await this.idOf(baked ? bakeMesh(read, baked) : read, mesh, node?.getName() ?? '', given)
    if (!baked) this.byMesh.set(mesh, found)
    return found
  }

  private async idOf(read: Mesh, from: GltfMesh, nodeName: string, given?: string): Promise<string> {
    const grid = gridSchema.safeParse(from.getExtras().grid).data
    const mesh = grid
      ? bakeMesh(read, new Matrix4().makeScale(grid.size, grid.size, grid.size).setPosition(...grid.offset))
      : read
    const facts = factsOf(from)
    const content = bytesToHex(sha256(await writePartGlb('', mesh)))
    const id = given ?? this.byContent.get(content) ?? (facts && !this.parts.has(facts.id) ? facts.id : this.newId())
    this.byContent.set(content, id)
    if (!this.parts.has(id))
      this.parts.set(id, {
        id,
        name: nameFrom(from.getName() || nodeName, 'Part'),
        mesh,
        ...(facts?.id === id ? { facts } : {}),
      })
    return id
  }
}

const factsOf = (mesh: GltfMesh | null): PartFacts | undefined => factsSchema.safeParse(mesh?.getExtras().part).data
const gridSchema = z.object({ offset: placementSchema.shape.translation, size: z.number().positive() })

const AT_REST: Omit<Transform, 'pivot'> = { translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] }

/**
 * How a node stands, and what is to be folded into its mesh and handed to its children besides; null if nothing is.
 *
 * @param bent what is left of a skew above
 */
function standingOf(node: GltfNode, bent: Matrix4): ReturnType<typeof apart> {
  const matrix = localOf(node).premultiply(bent)
  if (isSheared(matrix)) return apart(matrix)
  // As the file says it, to the last digit.
  return { transform: bent.equals(REST) ? ownTransform(node) : decompose(matrix, [0, 0, 0]), rest: null }
}

/** A matrix as a position and the turn nearest to it, and what is left of it. */
function apart(matrix: Matrix4): { transform: Omit<Transform, 'pivot'>; rest: Matrix4 | null } {
  const linear = matrix.clone().setPosition(0, 0, 0)
  if (Math.abs(linear.determinant()) < FLAT) return { transform: decompose(matrix, [0, 0, 0]), rest: null }
  const turn = nearestRotation(
    linear.determinant() < 0 ? linear.clone().multiply(new Matrix4().makeScale(-1, 1, 1)) : linear,
  )
  const rest = new Matrix4().makeRotationFromQuaternion(turn).invert().multiply(linear)
  return {
    transform: {
      translation: new Vector3().setFromMatrixPosition(matrix).toArray(),
      rotation: turn.toArray() as Quat,
      scale: [1, 1, 1],
    },
    rest,
  }
}

const REST = new Matrix4()
/** What is flatter has no inside that a mesh could be folded into. */
const FLAT = 1e-12

function ownTransform(node: GltfNode): Omit<Transform, 'pivot'> {
  const rotation = new Quaternion(...node.getRotation()).normalize()
  return {
    translation: node.getTranslation() as Vec3,
    rotation: rotation.toArray() as Quat,
    scale: node.getScale() as Vec3,
  }
}
