import { Matrix4, Quaternion, Vector3 } from 'three'
import { isBentKey, meshOfBentKey } from '../arrange/path/bent-key'
import type { PlacedCopies } from '../arrange/place-copies'
import { placedMatrices } from '../arrange/place-copies'
import { definitionOf } from '../arrange/rules'
import { extrasOf, isCamera, isLight, KINDS } from '../level/kinds'
import { localMatrix, nodeTranslation } from '../math/transform'
import { strengthOf } from '../level/kinds/part'
import { multiplyAt } from '../math/affine'
import { gltfCamera, gltfLight } from './punctual'
import { bakeMesh } from '../mesh/bake-mesh'
import { isBlockKey, meshOfBlockKey } from '../mesh/block-key'
import type { Mesh } from '../mesh/mesh'
import type { ShapeCopies, ShownAs } from '../scene/expand'
import { expandMarks, expandShapes } from '../scene/expand'
import type { LevelView } from '../scene/level-view'
import type { BinarySink, GlbNode, PictureSource } from './glb-file'
import { GlbFile } from './glb-file'

/** What is needed of a part to hand it over. */
export type PartToHandOver = { name: string, mesh: Mesh }

export type LevelGlbOptions = {
  /** Copies of arrangements as instances (EXT_mesh_gpu_instancing) instead of nodes; false when left out. */
  instanced?: boolean
  /** Takes the binary data, which comes after `head`. */
  sink: BinarySink
  /** The pictures of textures. */
  pictureOf: PictureSource
}

export type LevelGlb = {
  /** The beginning of the file, up to its binary data. */
  head: Uint8Array
  /** Copies left out, because their numbers are too large or too small for a file. */
  leftOut: number
}

/** A level cannot be handed over like this, with what to do instead. */
export class HandOverError extends Error {
  override name = 'HandOverError'
}

/** Nodes of a file; beyond it no program reads it any more. */
const MOST_NODES = 500_000
/** Bytes of shapes made for copies that are skewed, each of which needs its own. */
const MOST_OWN_SHAPES = 512 * 1024 * 1024
/** Values beyond it, or below its inverse, are no numbers any more in single precision after a few multiplications. */
const LARGEST = 1e18
/** A determinant below which a shape is too flat to be folded into a mesh of its own. */
const FLAT = 1e-15

/**
 * Writes a level as a binary glTF file (ISO/IEC 12113:2022).
 *
 * Every placement becomes a node in the same tree, with its name, its id in `extras.placement` and a pivot-free TRS that
 * gives it the same world matrix; every part or block used becomes one mesh that its nodes share; equal materials are written once.
 * Hidden placements are handed over like all others, and so are their copies. The copies of an arrangement are nodes named by
 * their keys, with their sources below them; with `instanced` they are instances of one node for each shape, without names.
 * A copy whose matrix is no translation, rotation and scale has a mesh of its own with the rest folded in; equal ones share it.
 *
 * @param partOf a part by its id; asked for once, and again where a skewed copy needs a mesh of its own
 * @throws RangeError if a placement shows a part that is not there; HandOverError if there would be too many nodes
 */
export async function writeLevelGlb(name: string, level: LevelView, partOf: (id: string) => PartToHandOver | undefined | Promise<PartToHandOver | undefined>, { instanced = false, sink, pictureOf }: LevelGlbOptions): Promise<LevelGlb> {
  const file = new GlbFile(sink, pictureOf)
  const roots = await new LevelWriter(file, level, partOf, instanced).write()
  return { head: file.finish(name, roots.numbers), leftOut: roots.leftOut }
}

/** A node to be made for something, and what it hangs from; null at the top. */
type Task = { parent: number | null, id: string }

class LevelWriter {
  private readonly meshes = new Map<string, number>()
  private readonly placed = new Map<string, Placed | null>()
  private readonly roots: number[] = []
  private readonly shown: ShownAs
  private ownShapeBytes = 0
  private leftOut = 0

  constructor(private readonly file: GlbFile, private readonly level: LevelView, private readonly partOf: Parameters<typeof writeLevelGlb>[2], private readonly instanced: boolean) {
    this.shown = {
      level,
      worldMatrix: id => level.worldMatrix(id),
      shapeOf: id => level.shapeOf(id),
      arranged: id => level.arranged(id),
      copies: id => this.placedOf(id)?.copies ?? null,
      groundBelow: toWorld => level.groundBelow(toWorld),
      lampsOf: partId => level.lampsOf(partId),
      shapes: id => expandShapes(this.shown, id),
      marks: id => expandMarks(this.shown, id),
      withHidden: true,
    }
  }

  async write(): Promise<{ numbers: number[], leftOut: number }> {
    await this.writeTrees(this.level.children(null).map(id => ({ parent: null, id })))
    return { numbers: this.roots, leftOut: this.leftOut }
  }

  /** Things and all below them, by a list and not by calls, however deep they hang. */
  private async writeTrees(tasks: Task[]): Promise<void> {
    const waiting = tasks.reverse()
    for (let task = waiting.pop(); task; task = waiting.pop()) {
      const { id, parent } = task
      const placement = this.level.need(id)
      const shape = this.level.shapeOf(id)
      const node = this.add(parent, {
        name: placement.name,
        translation: nodeTranslation(placement), rotation: placement.rotation, scale: placement.scale,
        ...shape === null ? {} : { mesh: await this.meshOf(shape) },
        ...this.shownBy(id),
        extras: this.extrasOf(id),
      })
      this.writeLamps(id, node)
      const showsCopies = KINDS[placement.kind].shows === 'copies'
      if (!showsCopies || this.keepsSources(id)) for (const child of this.level.children(id).toReversed()) waiting.push({ parent: node, id: child })
      if (showsCopies) await this.writeCopies(id, node, waiting)
    }
  }

  private add(parent: number | null, node: GlbNode): number {
    if (this.file.nodeCount >= MOST_NODES) {
      throw new HandOverError(this.instanced
        ? `This level has more than the ${MOST_NODES.toLocaleString('en')} things that fit into one file.`
        : `This would be more than ${MOST_NODES.toLocaleString('en')} nodes. Hand over copies as instances.`)
    }
    const number = this.file.addNode(node)
    if (parent === null) this.roots.push(number)
    else this.file.addChild(parent, number)
    return number
  }

  private async writeCopies(id: string, parent: number, waiting: Task[]): Promise<void> {
    const { own: { rule }, sources } = this.level.arranged(id)
    const placed = this.placedOf(id)
    if (!placed) return
    if (this.instanced || definitionOf(rule).bentAlong(rule)) {
      for (const each of expandShapes(this.shown, id)) await this.writeShape(each, parent)
      for (const each of expandMarks(this.shown, id)) this.writeMarks(each, parent)
      return
    }
    const { copies, matrices } = placed
    for (let i = 0; i < copies.keys.count; i++) {
      const source = copies.sourceOf(i)
      if (source < 0) continue
      const matrix = new Matrix4().fromArray(matrices, i * 16)
      const name = copies.keys.keyAt(i)
      const shown = this.keepsSources(id) ? sources : [sources[source]!]
      const parts = split(matrix)
      if (!parts) this.leftOut++
      else if (!parts.isSkewed) {
        const node = this.add(parent, { name, ...parts.trs })
        for (const each of shown.toReversed()) waiting.push({ parent: node, id: each })
      }
      else {
        const node = this.add(parent, { name })
        for (const each of shown) await this.writeFlat(each, matrix, node)
      }
    }
  }

  /** A source's copy whose own tree of nodes cannot stand as it does: all it shows, beside each other. */
  private async writeFlat(top: string, copy: Matrix4, parent: number): Promise<void> {
    const waiting = [{ id: top, above: copy }]
    for (let task = waiting.pop(); task; task = waiting.pop()) {
      const { id, above } = task
      const matrix = localMatrix(this.level.need(id), new Matrix4()).premultiply(above)
      const shape = this.level.shapeOf(id)
      if (shape !== null) await this.writeShape(alone(shape, matrix), parent, this.level.need(id).name)
      this.writeMarks(alone(id, matrix), parent)
      const isArrangement = this.level.arrangementIds.has(id)
      if (isArrangement) {
        for (const each of expandShapes(this.shown, id)) await this.writeShape(movedBy(matrix, each), parent)
        for (const each of expandMarks(this.shown, id)) this.writeMarks(movedBy(matrix, each), parent)
      }
      if (!isArrangement || this.keepsSources(id)) for (const child of this.level.children(id)) waiting.push({ id: child, above: matrix })
    }
  }

  /** What a camera or a light puts on its node. */
  private shownBy(id: string): Pick<GlbNode, 'camera' | 'extensions'> {
    const { own } = this.level.need(id)
    if (isCamera(own)) return { camera: this.file.addCamera(gltfCamera(own)) }
    return isLight(own) ? { extensions: this.file.addLight(gltfLight(own)) } : {}
  }

  /** The lights that a part brings, below its node. */
  private writeLamps(id: string, node: number): void {
    const { partId, own, name } = this.level.need(id)
    if (partId === null) return
    for (const { at, rotation, light } of this.level.lampsOf(partId)) {
      this.add(node, { name: `${name}, lamp`, translation: at, rotation, extensions: this.file.addLight(gltfLight(light, strengthOf(own))) })
    }
  }

  private extrasOf(id: string): Record<string, unknown> {
    return { placement: id, ...extrasOf(this.level.need(id)) }
  }

  private keepsSources(id: string): boolean {
    const { rule } = this.level.arranged(id).own
    return definitionOf(rule).keepsSources
  }

  /** Worked out once for each arrangement, also for one that is repeated itself; null without sources. */
  private placedOf(id: string): Placed | null {
    let found = this.placed.get(id)
    if (found === undefined) {
      const { own, sources } = this.level.arranged(id)
      const copies = this.level.place(id, { own, sources }, this.level.worldMatrix(id))
      this.placed.set(id, found = copies && { copies, matrices: placedMatrices(copies, sources.map(source => this.level.need(source))) })
    }
    return found
  }

  /** Copies of one shape alone, without the tree below it: as instances where that is wanted, those that are mirrored by a mirrored mesh. */
  private async writeShape({ shape, matrices, indices }: ShapeCopies, parent: number, name?: string): Promise<void> {
    const plain: number[] = []
    const mirrored: number[] = []
    const matrix = new Matrix4()
    for (let i = 0; i < indices.length; i++) {
      const parts = split(matrix.fromArray(matrices, i * 16))
      if (!parts) this.leftOut++
      else if (parts.isSkewed && Math.abs(matrix.determinant()) < FLAT) this.leftOut++
      else if (parts.isSkewed) this.add(parent, { name: name ?? String(indices[i]), translation: parts.trs.translation, mesh: await this.skewedMesh(shape, matrix) })
      else if (this.instanced && indices.length > 1) (parts.isMirrored ? mirrored : plain).push(i)
      else this.add(parent, { name: name ?? String(indices[i]), ...parts.trs, mesh: await this.meshOf(shape) })
    }
    for (const [some, isMirrored] of [[plain, false], [mirrored, true]] as const) {
      if (some.length === 0) continue
      const part = await this.shapeOf(shape)
      const extensions = await this.file.addInstances(...instancesOf(matrices, some, isMirrored))
      this.add(parent, { name: part.name, mesh: await (isMirrored ? this.ownMesh(`mirrored:${shape}`, shape, MIRROR) : this.meshOf(shape)), extensions })
    }
  }

  /** Cameras, lights and markers that are repeated, and the lamps of parts that are; nothing of anything else. */
  private writeMarks({ shape: id, matrices, indices }: ShapeCopies, parent: number): void {
    const { kind, name, partId } = this.level.need(id)
    const isMark = KINDS[kind].isMark
    if (!isMark && (partId === null || this.level.lampsOf(partId).length === 0)) return
    for (let i = 0; i < indices.length; i++) {
      // A mark has no shape that a skew would change: its place and its turn are all there is.
      const parts = split(new Matrix4().fromArray(matrices, i * 16))
      if (!parts) this.leftOut++
      else if (isMark) this.add(parent, { name, ...parts.trs, ...this.shownBy(id), extras: this.extrasOf(id) })
      else this.writeLamps(id, this.add(parent, { name, ...parts.trs }))
    }
  }

  private async shapeOf(shape: string): Promise<PartToHandOver> {
    if (isBlockKey(shape)) return { name: 'Block', mesh: meshOfBlockKey(shape) }
    if (isBentKey(shape)) {
      const base = await this.shapeOf(baseOf(shape))
      const mesh = meshOfBentKey(shape, () => base.mesh)
      if (mesh) return { name: 'Bent', mesh }
    }
    const part = await this.partOf(shape)
    if (!part) throw new RangeError(`there is no part ${shape}`)
    return part
  }

  private async meshOf(shape: string): Promise<number> {
    let mesh = this.meshes.get(shape)
    if (mesh === undefined) {
      const part = await this.shapeOf(shape)
      this.meshes.set(shape, mesh = await this.file.addMesh(part.name, part.mesh))
    }
    return mesh
  }

  /** The mesh of a copy that is skewed, all but its place folded in. Copies that differ by less than a millionth share one. */
  private skewedMesh(shape: string, matrix: Matrix4): Promise<number> {
    const linear = matrix.clone().setPosition(0, 0, 0)
    const size = Math.max(...linear.elements.slice(0, 11).map(Math.abs))
    const step = 10 ** Math.floor(Math.log10(size)) * 1e-6
    return this.ownMesh(`${linear.elements.map(value => Math.round(value / step)).join(' ')} ${step}:${shape}`, shape, linear)
  }

  private async ownMesh(key: string, shape: string, fold: Matrix4): Promise<number> {
    let mesh = this.meshes.get(key)
    if (mesh === undefined) {
      const part = await this.shapeOf(shape)
      const before = this.file.binaryBytes
      this.meshes.set(key, mesh = await this.file.addMesh(part.name, bakeMesh(part.mesh, fold)))
      this.ownShapeBytes += this.file.binaryBytes - before
      if (this.ownShapeBytes > MOST_OWN_SHAPES) throw new HandOverError('Too many copies are skewed, each of which needs a mesh of its own. Size their sources evenly, or bake them.')
    }
    return mesh
  }
}

const alone = (shape: string, matrix: Matrix4): ShapeCopies => ({ shape, matrices: Float64Array.from(matrix.elements), indices: Int32Array.of(0) })

function movedBy(matrix: Matrix4, copies: ShapeCopies): ShapeCopies {
  const [matrices, by] = [new Float64Array(copies.matrices.length), Float64Array.from(matrix.elements)]
  for (let i = 0; i < matrices.length; i += 16) multiplyAt(matrices, i, by, 0, copies.matrices, i)
  return { ...copies, matrices }
}

type Placed = { copies: PlacedCopies, matrices: Float64Array }

const MIRROR = new Matrix4().makeScale(-1, 1, 1)

/** Of a bent shape's name, the shape that is bent. */
function baseOf(key: string): string {
  let base = ''
  meshOfBentKey(key, (shape) => {
    base = shape
    return null
  })
  return base
}

type Split = { trs: { translation: number[], rotation: number[], scale: number[] }, isSkewed: boolean, isMirrored: boolean }

const [position, rotation, scale, again] = [new Vector3(), new Quaternion(), new Vector3(), new Matrix4()]

/** Translation, rotation and scale of a matrix, and whether they are all there is to it; null if its numbers do not fit into a file. */
function split(matrix: Matrix4): Split | null {
  matrix.decompose(position, rotation, scale)
  rotation.normalize()
  const values = [...position.toArray(), ...scale.toArray()]
  const isInRange = values.every(value => Math.abs(value) <= LARGEST) && scale.toArray().every(value => Math.abs(value) >= 1 / LARGEST) && Number.isFinite(rotation.x)
  if (!isInRange) return null
  again.compose(position, rotation, scale)
  const size = Math.max(Math.abs(scale.x), Math.abs(scale.y), Math.abs(scale.z))
  const isSkewed = [0, 1, 2, 4, 5, 6, 8, 9, 10].some(k => Math.abs(again.elements[k]! - matrix.elements[k]!) > 1e-6 * size)
  return { trs: { translation: position.toArray(), rotation: rotation.toArray(), scale: scale.toArray() }, isSkewed, isMirrored: matrix.determinant() < 0 }
}

/** Translations, rotations and scales of some copies: forty bytes each. @param isMirrored the mesh is mirrored along X already */
function instancesOf(matrices: Float64Array, some: readonly number[], isMirrored: boolean): [Float32Array, Float32Array, Float32Array] {
  const [translations, rotations, scales] = [new Float32Array(some.length * 3), new Float32Array(some.length * 4), new Float32Array(some.length * 3)]
  const matrix = new Matrix4()
  some.forEach((copy, i) => {
    matrix.fromArray(matrices, copy * 16)
    if (isMirrored) matrix.multiply(MIRROR)
    matrix.decompose(position, rotation, scale)
    position.toArray(translations, i * 3)
    rotation.normalize().toArray(rotations, i * 4)
    scale.toArray(scales, i * 3)
  })
  return [translations, rotations, scales]
}
