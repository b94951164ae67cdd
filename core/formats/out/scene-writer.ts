import { Matrix4, Quaternion, Vector3 } from 'three'
import type { PlacedCopies } from '../../arrange/place-copies'
import { placedMatrices } from '../../arrange/place-copies'
import { definitionOf } from '../../arrange/rules'
import { extrasOf, isCamera, isLight, KINDS } from '../../level/kinds'
import { strengthOf } from '../../level/kinds/part'
import type { Placement } from '../../level/schema'
import { multiplyAt } from '../../math/affine'
import { localMatrix, nodeTranslation } from '../../math/transform'
import { bakeMesh } from '../../mesh/bake-mesh'
import type { Mesh } from '../../mesh/mesh'
import { triangleCount } from '../../mesh/mesh'
import type { ShapeCopies, ShownAs } from '../../scene/expand'
import { expandMarks, expandShapes } from '../../scene/expand'
import type { LevelView } from '../../scene/level-view'
import { HandOverError } from './hand-over-error'
import type { Instances, SceneFile, SceneNode } from './scene-file'
import type { Scope } from './scope'
import type { OnShare } from './share'
import { Counted } from './share'
import type { PartSource } from './shapes'
import { shapeNamed, withShare } from './shapes'
import { asInScope } from './shown'

export type SceneOptions = {
  scope: Scope
  /** Copies of arrangements as instances instead of nodes. */
  instanced: boolean
  /** Whether copies that are hidden are written as well. */
  hidden: boolean
  /** The share of its triangles that each mesh keeps. */
  triangles: number
  /** Told how far it is. */
  onShare?: OnShare
}

/** What became of a level in a file. */
export type SceneReport = {
  nodes: number
  meshes: number
  /** Of all meshes, each once. */
  triangles: number
  /** Copies left out, because their numbers are too large or too small for a file. */
  leftOut: number
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
 * Writes a level as a tree of nodes into a file of any format that has one.
 *
 * Every placement becomes a node in the same tree, with its name, its id in `extras.placement` and a pivot-free TRS
 * that gives it the same world matrix; every part or block used becomes one mesh that its nodes share. The copies of an
 * arrangement are nodes named by their keys, with their sources below them; with `instanced` they are instances of one
 * node for each shape. A copy whose matrix is no translation, rotation and scale has a mesh of its own with the rest
 * folded in; equal ones share it. What is made for copies and lamps says so in `extras.made`; what else is needed to
 * bring the level back is in `extras.handyGrid`.
 *
 * @throws RangeError if a placement shows a part that is not there; HandOverError if there would be too many nodes
 */
export async function writeScene(
  file: SceneFile,
  level: LevelView,
  partOf: PartSource,
  options: SceneOptions,
): Promise<SceneReport> {
  return new SceneWriter(file, level, partOf, options).write()
}

/**
 * A node to be made for something, and what it hangs from; null at the top. What is made for a copy is not what it is a
 * copy of.
 */
type Task = { parent: number | null; id: string; made?: boolean }

class SceneWriter {
  private readonly meshes = new Map<string, number>()
  private readonly placed = new Map<string, Placed | null>()
  private readonly shown: ShownAs
  private readonly report: SceneReport = { nodes: 0, meshes: 0, triangles: 0, leftOut: 0 }
  private ownShapeBytes = 0
  private readonly counted: Counted

  constructor(
    private readonly file: SceneFile,
    private readonly level: LevelView,
    private readonly partOf: PartSource,
    private readonly options: SceneOptions,
  ) {
    this.counted = new Counted(options.onShare ? options.scope.size() : 0, options.onShare)
    this.shown = asInScope(level, options.scope, options.hidden, id => this.placedOf(id)?.copies ?? null)
  }

  async write(): Promise<SceneReport> {
    await this.writeTrees(this.options.scope.children(null).map(id => ({ parent: null, id })))
    return { ...this.report, nodes: this.file.nodeCount }
  }

  /** Things and all below them, by a list and not by calls, however deep they hang. */
  private async writeTrees(tasks: Task[]): Promise<void> {
    const { scope } = this.options
    const waiting = tasks.reverse()
    for (let task = waiting.pop(); task; task = waiting.pop()) {
      const { id, parent, made } = task
      this.counted.pass()
      const placement = this.level.need(id)
      const shape = this.shapeShown(id)
      const showsCopies = KINDS[placement.kind].shows === 'copies' && scope.wants(id)
      const keepsSources = !showsCopies || this.keepsSources(id)
      const node = await this.add(parent, {
        name: placement.name,
        translation: nodeTranslation(placement),
        rotation: placement.rotation,
        scale: placement.scale,
        ...(shape === null ? {} : { mesh: await this.meshOf(shape) }),
        ...(scope.wants(id) ? this.shownBy(id) : {}),
        extras: made
          ? { ...this.extrasOf(id), made: 'copy' }
          : { ...this.extrasOf(id), handyGrid: this.recordOf(placement, keepsSources) },
      })
      await this.writeLamps(id, node)
      if (!keepsSources && !made) await this.writePartsOfSources(id)
      if (keepsSources)
        for (const child of scope.children(id).toReversed()) waiting.push({ parent: node, id: child, made })
      if (showsCopies) await this.writeCopies(id, node, waiting)
    }
  }

  /** The meshes of sources, also where all copies are skewed and have their own: they come back with their records. */
  private async writePartsOfSources(id: string): Promise<void> {
    for (const below of this.level.subtree(id)) {
      const { partId } = this.level.need(below)
      if (partId !== null && this.shapeShown(below) !== null) await this.meshOf(partId)
    }
  }

  /**
   * What a node's own fields do not tell of a placement; with the records of sources that have no nodes of their own.
   */
  private recordOf(
    { id, kind, order, partId, blockId, pivot, hidden, locked, layerId, own }: Placement,
    keepsSources: boolean,
  ): Record<string, unknown> {
    return {
      kind,
      order,
      own,
      ...(partId === null ? {} : { partId }),
      ...(blockId === null ? {} : { blockId }),
      ...(pivot.some(value => value !== 0) ? { pivot } : {}),
      ...(hidden ? { hidden } : {}),
      ...(locked ? { locked } : {}),
      ...(layerId === null ? {} : { layerId }),
      ...(keepsSources
        ? {}
        : {
            sources: this.level
              .subtree(id)
              .slice(1)
              .map(below => this.level.need(below)),
          }),
    }
  }

  private shapeShown(id: string): string | null {
    return this.options.scope.wants(id) ? this.level.shapeOf(id) : null
  }

  private async add(parent: number | null, node: SceneNode): Promise<number> {
    if (this.file.nodeCount >= MOST_NODES) {
      throw new HandOverError(
        this.options.instanced
          ? `This level has more than the ${MOST_NODES.toLocaleString('en')} things that fit into one file.`
          : `This would be more than ${MOST_NODES.toLocaleString('en')} nodes. Hand over copies as instances.`,
      )
    }
    return this.file.addNode(parent, node)
  }

  private async writeCopies(id: string, parent: number, waiting: Task[]): Promise<void> {
    const {
      own: { rule },
      sources,
    } = this.level.arranged(id)
    const placed = this.placedOf(id)
    if (!placed) return
    if (this.options.instanced || definitionOf(rule).bentAlong(rule)) {
      for (const each of expandShapes(this.shown, id)) await this.writeShape(each, parent)
      for (const each of expandMarks(this.shown, id)) await this.writeMarks(each, parent)
      return
    }
    const { copies, matrices } = placed
    for (let i = 0; i < copies.keys.count; i++) {
      const source = copies.sourceOf(i)
      if (source < 0) continue
      const matrix = new Matrix4().fromArray(matrices, i * 16)
      const name = copies.keys.keyAt(i)
      const shown = (this.keepsSources(id) ? sources : [sources[source]!]).filter(each =>
        this.options.scope.keeps(each),
      )
      const parts = split(matrix)
      if (!parts) this.report.leftOut++
      else if (!parts.isSkewed) {
        const node = await this.add(parent, { name, ...parts.trs, extras: COPY })
        for (const each of shown.toReversed()) waiting.push({ parent: node, id: each, made: true })
      } else {
        const node = await this.add(parent, { name, extras: COPY })
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
      const shape = this.shapeShown(id)
      if (shape !== null) await this.writeShape(alone(shape, matrix), parent, this.level.need(id).name)
      await this.writeMarks(alone(id, matrix), parent)
      const isArrangement = this.level.arrangementIds.has(id)
      if (isArrangement) {
        for (const each of expandShapes(this.shown, id)) await this.writeShape(movedBy(matrix, each), parent)
        for (const each of expandMarks(this.shown, id)) await this.writeMarks(movedBy(matrix, each), parent)
      }
      if (!isArrangement || this.keepsSources(id))
        for (const child of this.options.scope.children(id)) waiting.push({ id: child, above: matrix })
    }
  }

  /** What a camera or a light puts on its node. */
  private shownBy(id: string): Pick<SceneNode, 'camera' | 'light'> {
    const { own } = this.level.need(id)
    if (isCamera(own)) return { camera: own }
    return isLight(own) ? { light: { own, strength: 1 } } : {}
  }

  /** The lights that a part brings, below its node. */
  private async writeLamps(id: string, node: number): Promise<void> {
    const { partId, own, name } = this.level.need(id)
    if (partId === null || !this.options.scope.wants(id)) return
    for (const { at, rotation, light } of this.level.lampsOf(partId)) {
      await this.add(node, {
        name: `${name}, lamp`,
        translation: at,
        rotation,
        light: { own: light, strength: strengthOf(own) },
        extras: LAMP,
      })
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
      this.placed.set(
        id,
        (found = copies && {
          copies,
          matrices: placedMatrices(
            copies,
            sources.map(source => this.level.need(source)),
          ),
        }),
      )
    }
    return found
  }

  /**
   * Copies of one shape alone, without the tree below it: as instances where that is wanted, those that are mirrored by
   * a mirrored mesh.
   */
  private async writeShape({ shape, matrices, indices }: ShapeCopies, parent: number, name?: string): Promise<void> {
    const plain: number[] = []
    const mirrored: number[] = []
    const matrix = new Matrix4()
    for (let i = 0; i < indices.length; i++) {
      this.counted.pass()
      const parts = split(matrix.fromArray(matrices, i * 16))
      if (!parts) this.report.leftOut++
      else if (parts.isSkewed && Math.abs(matrix.determinant()) < FLAT) this.report.leftOut++
      else if (parts.isSkewed)
        await this.add(parent, {
          name: name ?? String(indices[i]),
          translation: parts.trs.translation,
          mesh: await this.skewedMesh(shape, matrix),
          extras: COPY,
        })
      else if (this.options.instanced && indices.length > 1) (parts.isMirrored ? mirrored : plain).push(i)
      else
        await this.add(parent, {
          name: name ?? String(indices[i]),
          ...parts.trs,
          mesh: await this.meshOf(shape),
          extras: COPY,
        })
    }
    for (const [some, isMirrored] of [
      [plain, false],
      [mirrored, true],
    ] as const) {
      if (some.length === 0) continue
      const part = await shapeNamed(shape, this.partOf)
      await this.add(parent, {
        name: part.name,
        mesh: await (isMirrored ? this.ownMesh(`mirrored:${shape}`, shape, MIRROR) : this.meshOf(shape)),
        instances: instancesOf(matrices, indices, some, isMirrored),
        extras: COPY,
      })
    }
  }

  /** Cameras, lights and markers that are repeated, and the lamps of parts that are; nothing of anything else. */
  private async writeMarks({ shape: id, matrices, indices }: ShapeCopies, parent: number): Promise<void> {
    const { kind, name, partId } = this.level.need(id)
    if (!this.options.scope.wants(id)) return
    const isMark = KINDS[kind].isMark
    if (!isMark && (partId === null || this.level.lampsOf(partId).length === 0)) return
    for (let i = 0; i < indices.length; i++) {
      // A mark has no shape that a skew would change: its place and its turn are all there is.
      const parts = split(new Matrix4().fromArray(matrices, i * 16))
      if (!parts) this.report.leftOut++
      else if (isMark)
        await this.add(parent, { name, ...parts.trs, ...this.shownBy(id), extras: { ...this.extrasOf(id), ...COPY } })
      else await this.writeLamps(id, await this.add(parent, { name, ...parts.trs, extras: COPY }))
    }
  }

  private async addMesh(name: string, whole: Mesh, extras?: Record<string, unknown>): Promise<number> {
    const mesh = await withShare(whole, this.options.triangles)
    this.report.meshes++
    this.report.triangles += triangleCount(mesh)
    return this.file.addMesh(name, mesh, extras)
  }

  private async meshOf(shape: string): Promise<number> {
    let mesh = this.meshes.get(shape)
    if (mesh === undefined) {
      const { name, mesh: whole, facts } = await shapeNamed(shape, this.partOf)
      this.meshes.set(shape, (mesh = await this.addMesh(name, whole, facts && { part: facts })))
    }
    return mesh
  }

  /**
   * The mesh of a copy that is skewed, all but its place folded in. Copies that differ by less than a millionth share
   * one.
   */
  private skewedMesh(shape: string, matrix: Matrix4): Promise<number> {
    const linear = matrix.clone().setPosition(0, 0, 0)
    const size = Math.max(...linear.elements.slice(0, 11).map(Math.abs))
    const step = 10 ** Math.floor(Math.log10(size)) * 1e-6
    return this.ownMesh(
      `${linear.elements.map(value => Math.round(value / step)).join(' ')} ${step}:${shape}`,
      shape,
      linear,
    )
  }

  private async ownMesh(key: string, shape: string, fold: Matrix4): Promise<number> {
    let mesh = this.meshes.get(key)
    if (mesh === undefined) {
      const part = await shapeNamed(shape, this.partOf)
      const before = this.file.bytes
      this.meshes.set(key, (mesh = await this.addMesh(part.name, bakeMesh(part.mesh, fold))))
      this.ownShapeBytes += this.file.bytes - before
      if (this.ownShapeBytes > MOST_OWN_SHAPES)
        throw new HandOverError(
          'Too many copies are skewed, each of which needs a mesh of its own. Size their sources evenly, or bake them.',
        )
    }
    return mesh
  }
}

const alone = (shape: string, matrix: Matrix4): ShapeCopies => ({
  shape,
  matrices: Float64Array.from(matrix.elements),
  indices: Int32Array.of(0),
})

function movedBy(matrix: Matrix4, copies: ShapeCopies): ShapeCopies {
  const [matrices, by] = [new Float64Array(copies.matrices.length), Float64Array.from(matrix.elements)]
  for (let i = 0; i < matrices.length; i += 16) multiplyAt(matrices, i, by, 0, copies.matrices, i)
  return { ...copies, matrices }
}

type Placed = { copies: PlacedCopies; matrices: Float64Array }

const COPY = { made: 'copy' }
const LAMP = { made: 'lamp' }
const MIRROR = new Matrix4().makeScale(-1, 1, 1)

type Split = {
  trs: { translation: number[]; rotation: number[]; scale: number[] }
  isSkewed: boolean
  isMirrored: boolean
}

const [position, rotation, scale, again] = [new Vector3(), new Quaternion(), new Vector3(), new Matrix4()]

/**
 * Translation, rotation and scale of a matrix, and whether they are all there is to it; null if its numbers do not fit
 * into a file.
 */
function split(matrix: Matrix4): Split | null {
  matrix.decompose(position, rotation, scale)
  rotation.normalize()
  const values = [...position.toArray(), ...scale.toArray()]
  const isInRange =
    values.every(value => Math.abs(value) <= LARGEST)
    && scale.toArray().every(value => Math.abs(value) >= 1 / LARGEST)
    && Number.isFinite(rotation.x)
  if (!isInRange) return null
  again.compose(position, rotation, scale)
  const size = Math.max(Math.abs(scale.x), Math.abs(scale.y), Math.abs(scale.z))
  const isSkewed = [0, 1, 2, 4, 5, 6, 8, 9, 10].some(
    k => Math.abs(again.elements[k]! - matrix.elements[k]!) > 1e-6 * size,
  )
  return {
    trs: { translation: position.toArray(), rotation: rotation.toArray(), scale: scale.toArray() },
    isSkewed,
    isMirrored: matrix.determinant() < 0,
  }
}

/**
 * Places of some copies: forty-four bytes each.
 *
 * @param indices which copy each is
 * @param isMirrored the mesh is mirrored along X already
 */
function instancesOf(
  matrices: Float64Array,
  indices: Int32Array,
  some: readonly number[],
  isMirrored: boolean,
): Instances {
  const [translations, rotations, scales] = [
    new Float32Array(some.length * 3),
    new Float32Array(some.length * 4),
    new Float32Array(some.length * 3),
  ]
  const matrix = new Matrix4()
  some.forEach((copy, i) => {
    matrix.fromArray(matrices, copy * 16)
    if (isMirrored) matrix.multiply(MIRROR)
    matrix.decompose(position, rotation, scale)
    position.toArray(translations, i * 3)
    rotation.normalize().toArray(rotations, i * 4)
    scale.toArray(scales, i * 3)
  })
  return { translations, rotations, scales, copies: Float32Array.from(some, copy => indices[copy]!) }
}
