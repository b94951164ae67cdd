import type { InstancedMesh, Material, Object3D } from 'three'
import type { Chosen, ChunkSource } from './choose-chunks'
import { ChunkedMatrices } from './chunked-matrices'
import type { Pass } from './far-meshes'
import { FarMeshes } from './far-meshes'
import type { Drawable } from './instanced'
import { instancedMeshes, sphereOf } from './instanced'
import { baseOfShape, isBentKey } from '~~/core/arrange/path/bent-key'
import { isBlockKey } from '~~/core/mesh/block-key'
import type { Sphere } from 'three'
import { DynamicDrawUsage, Group, InstancedBufferAttribute, Matrix4 } from 'three'

/**
 * @param mirrored whether it is to be drawn by matrices that mirror it: the side of a triangle is told for all
 *   instances at once
 */
export type DrawableOf = (shape: string, mirrored: boolean) => Drawable | undefined

/** What stands for a shape at a distance, nearer first; see `Drawables`. */
export type FartherOf = (shape: string, mirrored: boolean) => readonly { drawable: Drawable; error: number }[]

/** A shape whole and by what stands for it at a distance, as `chooseChunks` wants it. */
export function levelsOf(triangles: number, steps: ReturnType<FartherOf>): ChunkSource['levels'] {
  return [
    { triangles, error: 0 },
    ...steps.map(({ drawable, error }) => ({
      triangles: drawable.reduce((sum, each) => sum + each.triangles, 0),
      error,
    })),
  ]
}

type Batch = {
  mirrored: boolean
  /** Its instances by where they stand; null until that is asked for, and when some came or went. */
  chunked: ChunkedMatrices | null
  far: FarMeshes | null
  shape: string
  meshes: InstancedMesh[]
  plain: Material[]
  matrices: InstancedBufferAttribute
  ids: string[]
  triangles: number
}

/**
 * Draws placements by instancing: one draw for each part and material, however often the part is placed.
 * All materials of a part share one list of matrices; moving a placement writes its sixteen numbers and nothing else.
 */
export class PartBatches {
  readonly object: Object3D = new Group()
  private readonly batches = new Map<string, Batch>()
  /** Whether only some are drawn, as they are seen. */
  private isChosen = false
  private readonly places = new Map<string, { batch: string; slot: number }>()

  constructor(
    private readonly drawableOf: DrawableOf,
    private readonly shadows: boolean,
  ) {}

  /**
   * Draws a placement as a part, in place of what was drawn for it before. A part that has not been loaded is not
   * drawn.
   */
  set(id: string, shape: string, matrix: Matrix4): void {
    const mirrored = matrix.determinant() < 0
    const key = mirrored ? `mirrored ${shape}` : shape
    let place = this.places.get(id)
    if (place && place.batch !== key) {
      this.remove(id)
      place = undefined
    }
    if (!place) {
      const batch = this.batchOf(key, shape, mirrored)
      if (!batch) return
      place = { batch: key, slot: batch.ids.length }
      this.makeRoom(batch)
      batch.ids.push(id)
      this.places.set(id, place)
      batch.chunked = null
      this.showCount(batch)
    }
    const { matrices } = this.batches.get(key)!
    matrix.toArray(matrices.array, place.slot * 16)
    this.batches.get(key)!.chunked?.write(place.slot, matrices.array as Float32Array)
    this.upload(matrices, place.slot)
  }

  /** The last one of the batch takes the place of the one that goes. */
  remove(id: string): void {
    const place = this.places.get(id)
    if (!place) return
    const batch = this.batches.get(place.batch)!
    const last = batch.ids.length - 1
    if (place.slot !== last) {
      const moved = batch.ids[last]!
      batch.matrices.array.copyWithin(place.slot * 16, last * 16, last * 16 + 16)
      batch.ids[place.slot] = moved
      this.places.get(moved)!.slot = place.slot
      this.upload(batch.matrices, place.slot)
    }
    batch.ids.pop()
    batch.chunked = null
    this.places.delete(id)
    this.showCount(batch)
  }

  clear(): void {
    for (const id of [...this.places.keys()]) this.remove(id)
  }

  get isEmpty(): boolean {
    return this.places.size === 0
  }

  /** Draws everything with materials of another look, until the next call. */
  dress(materialFor: (plain: Material) => Material): void {
    for (const { meshes, plain, far } of this.batches.values()) {
      meshes.forEach((mesh, i) => (mesh.material = materialFor(plain[i]!)))
      far?.dress(materialFor)
    }
  }

  /** Draws everything whole again. */
  drawAll(): void {
    if (!this.isChosen) return
    this.isChosen = false
    for (const batch of this.batches.values()) {
      this.showCount(batch)
      batch.far?.hide()
    }
  }

  /** What can be drawn of each shape; see `chooseChunks`. From now on what is chosen is drawn, by `show`. */
  sources(farther: FartherOf): ChunkSource[] {
    if (!this.isChosen) {
      this.isChosen = true
      for (const batch of this.batches.values()) this.showCount(batch)
    }
    return this.filled().map(batch => {
      const steps = farther(batch.shape, batch.mirrored)
      if (batch.far?.steps !== steps.length) {
        if (batch.far) this.object.remove(batch.far.object)
        batch.far?.dispose()
        batch.far = new FarMeshes(
          [this.drawableOf(batch.shape, batch.mirrored)!, ...steps.map(({ drawable }) => drawable)],
          this.shadows,
        )
        this.object.add(batch.far.object)
      }
      batch.chunked ??= new ChunkedMatrices(
        batch.matrices.array as Float32Array,
        batch.ids.length,
        sphereOf(batch.meshes),
      )
      return {
        chunks: batch.chunked.chunks,
        levels: levelsOf(batch.triangles, steps),
        isClear: batch.meshes.some(({ material }) => (material as Material).transparent),
      }
    })
  }

  /** Draws what was chosen of each source, in the order of `sources`. */
  show(chosen: readonly (readonly Chosen[])[], pass?: Pass): void {
    this.filled().forEach((batch, i) => batch.far!.show(chosen[i]!, batch.chunked!.sorted, pass))
  }

  private filled(): Batch[] {
    return [...this.batches.values()].filter(({ ids }) => ids.length > 0)
  }

  get size(): number {
    return this.places.size
  }

  /** Calls for the sphere around each instance, in the world. */
  eachSphere(visit: (sphere: Sphere) => void): void {
    for (const { ids, meshes, matrices } of this.batches.values()) {
      const around = sphereOf(meshes)
      for (let i = 0; i < ids.length; i++) visit(around.clone().applyMatrix4(scratch.fromArray(matrices.array, i * 16)))
    }
  }

  /** How often each part is drawn. */
  *uses(): Generator<[string, number]> {
    for (const { shape, ids } of this.batches.values()) yield [shape, ids.length]
  }

  /** Bytes of all matrices. */
  matrixBytes(): number {
    return this.places.size * 16 * Float32Array.BYTES_PER_ELEMENT
  }

  /** Number of placements and of their triangles drawn. */
  count(): { placed: number; triangles: number } {
    let triangles = 0
    for (const batch of this.batches.values()) triangles += batch.triangles * batch.ids.length
    return { placed: this.places.size, triangles }
  }

  dispose(): void {
    for (const batch of this.batches.values()) {
      for (const mesh of batch.meshes) mesh.dispose()
      batch.far?.dispose()
    }
    this.object.clear()
  }

  private batchOf(key: string, shape: string, mirrored: boolean): Batch | undefined {
    let batch = this.batches.get(key)
    const drawable = batch ? undefined : this.drawableOf(shape, mirrored)
    if (drawable) {
      const matrices = new InstancedBufferAttribute(new Float32Array(16 * 8), 16).setUsage(DynamicDrawUsage)
      const meshes = instancedMeshes(drawable, matrices, this.shadows)
      batch = {
        shape,
        mirrored,
        chunked: null,
        far: null,
        meshes,
        plain: drawable.map(({ material }) => material),
        matrices,
        ids: [],
        triangles: drawable.reduce((sum, { triangles }) => sum + triangles, 0),
      }
      this.batches.set(key, batch)
      this.object.add(...meshes)
    }
    return batch
  }

  /**
   * Drops what is kept for shapes of blocks that nothing shows any more; they come and go with every change of a
   * number.
   */
  prune(): void {
    this.drop(shape => isBlockKey(shape) || isBentKey(shape))
  }

  /** Draws nothing any more of what is made of some parts, which look otherwise now, until it is set again. */
  forget(parts: ReadonlySet<string>): void {
    for (const batch of this.batches.values())
      if (parts.has(baseOfShape(batch.shape))) for (const id of [...batch.ids]) this.remove(id)
    this.drop(shape => parts.has(baseOfShape(shape)))
  }

  /** Lets go of empty batches. */
  private drop(isGone: (shape: string) => boolean): void {
    for (const [key, { shape, meshes, ids, far }] of this.batches) {
      if (ids.length > 0 || !isGone(shape)) continue
      for (const mesh of meshes) mesh.dispose()
      far?.dispose()
      this.object.remove(...meshes, ...(far ? [far.object] : []))
      this.batches.delete(key)
    }
  }

  private makeRoom(batch: Batch): void {
    if ((batch.ids.length + 1) * 16 <= batch.matrices.array.length) return
    const array = new Float32Array(batch.matrices.array.length * 2)
    array.set(batch.matrices.array)
    batch.matrices = new InstancedBufferAttribute(array, 16).setUsage(DynamicDrawUsage)
    for (const mesh of batch.meshes) {
      // Frees the old buffer on the graphics card.
      mesh.dispose()
      mesh.instanceMatrix = batch.matrices
    }
  }

  private showCount(batch: Batch): void {
    for (const mesh of batch.meshes) {
      mesh.count = batch.ids.length
      mesh.visible = mesh.count > 0 && !this.isChosen
    }
  }

  private upload(matrices: InstancedBufferAttribute, slot: number): void {
    matrices.addUpdateRange(slot * 16, 16)
    matrices.needsUpdate = true
  }
}

const scratch = new Matrix4()
