import type { InstancedMesh, Material, Matrix4, Object3D } from 'three'
import { DynamicDrawUsage, Group, InstancedBufferAttribute } from 'three'
import { baseOfShape } from '~~/core/arrange/path/bent-key'
import type { ShapeCopies } from '~~/core/scene/expand'
import type { DrawableOf, FartherOf } from './batches'
import { levelsOf } from './batches'
import type { Chosen, ChunkSource } from './choose-chunks'
import type { Chunk } from './chunked-matrices'
import { ChunkedMatrices, scattered } from './chunked-matrices'
import type { Pass } from './far-meshes'
import { FarMeshes } from './far-meshes'
import { instancedMeshes, sphereOf } from './instanced'

/** More triangles than this of one shape in one arrangement are drawn as boxes, where there are any. */
const MOST_TRIANGLES = 6_000_000

type Batch = {
  shape: string
  mirrored: boolean
  boxed: boolean
  group: Group
  meshes: InstancedMesh[]
  plain: Material[]
  matrices: InstancedBufferAttribute
  count: number
  triangles: number
  /** What its matrices were written from. */
  written: Float64Array | null
  /** Its copies by where they stand, in the axes of the arrangement; null until that is asked for. */
  chunked: ChunkedMatrices | null
  /** The same in the world; null until that is asked for, and when the arrangement was moved. */
  chunks: readonly Chunk[] | null
  far: FarMeshes | null
}

/** What differs between drawing a level, outlines and drafts. */
type CopyOptions = {
  shadows?: boolean
  /** The box around a shape, which is drawn where there are too many of it; the shape itself when left out. */
  boxOf?: DrawableOf
  /** Copies of one shape in one arrangement; of more, as many are drawn all over it. All when left out. */
  most?: number
}

/**
 * Draws the copies of arrangements by instancing: for each arrangement a batch of its own for each shape, whose
 * matrices are written as one array. Moving an arrangement moves its group; nothing is kept per copy.
 */
export class CopyBatches {
  readonly object: Object3D = new Group()
  private readonly batches = new Map<string, Batch[]>()
  /** Whether only some are drawn, as they are seen. */
  private isChosen = false
  private readonly shadows: boolean
  private readonly boxOf: DrawableOf | null
  private readonly most: number

  constructor(
    private readonly drawableOf: DrawableOf,
    { shadows = false, boxOf, most = Infinity }: CopyOptions = {},
  ) {
    this.shadows = shadows
    this.boxOf = boxOf ?? null
    this.most = most
  }

  /**
   * Draws an arrangement's copies, in place of those drawn for it before.
   *
   * @param matrix from its own axes to the world
   */
  set(id: string, copies: readonly ShapeCopies[], matrix: Matrix4): void {
    const before = this.batches.get(id) ?? []
    const after = copies.flatMap(bySide).flatMap((entry, i) => {
      const old = before[i]
      const mirrored = mirrors(entry.matrices, 0)
      const boxed = this.isTooMuch(entry)
      const batch =
        old?.shape === entry.shape
        && old.mirrored === mirrored
        && old.boxed === boxed
        && old.matrices.array.length >= this.lengthFor(entry)
          ? old
          : this.make(entry, mirrored, boxed)
      if (!batch) return []
      if (batch.written !== entry.matrices) this.write(batch, entry.matrices)
      if (!batch.group.matrix.equals(matrix)) batch.chunks = null
      batch.group.matrix.copy(matrix)
      batch.group.matrixWorldNeedsUpdate = true
      return [batch]
    })
    for (const batch of before) if (!after.includes(batch)) this.drop(batch)
    this.batches.set(id, after)
  }

  remove(id: string): void {
    for (const batch of this.batches.get(id) ?? []) this.drop(batch)
    this.batches.delete(id)
  }

  /** Draws nothing any more of what is made of some parts, which look otherwise now, until it is set again. */
  forget(parts: ReadonlySet<string>): void {
    for (const [id, batches] of this.batches) {
      const isGone = (batch: Batch) => parts.has(baseOfShape(batch.shape))
      for (const batch of batches) if (isGone(batch)) this.drop(batch)
      this.batches.set(
        id,
        batches.filter(batch => !isGone(batch)),
      )
    }
  }

  /** Draws everything with materials of another look, until the next call. */
  dress(materialFor: (plain: Material) => Material): void {
    for (const { meshes, plain, far } of this.all()) {
      meshes.forEach((mesh, i) => (mesh.material = materialFor(plain[i]!)))
      far?.dress(materialFor)
    }
  }

  /** Draws all of them whole again. */
  drawAll(): void {
    if (!this.isChosen) return
    this.isChosen = false
    for (const batch of this.all()) {
      this.showCount(batch)
      batch.far?.hide()
    }
  }

  /** What can be drawn of each shape in each arrangement; see `chooseChunks`. From now on what is chosen is drawn. */
  sources(farther: FartherOf): ChunkSource[] {
    if (!this.isChosen) {
      this.isChosen = true
      for (const batch of this.all()) this.showCount(batch)
    }
    return [...this.all()].map(batch => {
      const steps = batch.boxed ? [] : farther(batch.shape, batch.mirrored)
      if (batch.far?.steps !== steps.length) {
        this.dropFar(batch)
        batch.far = new FarMeshes(
          [this.drawnAs(batch.shape, batch.mirrored, batch.boxed)!, ...steps.map(({ drawable }) => drawable)],
          this.shadows,
        )
        batch.group.add(batch.far.object)
      }
      return {
        chunks: this.chunksOf(batch),
        levels: levelsOf(batch.triangles, steps),
        isClear: batch.meshes.some(({ material }) => (material as Material).transparent),
      }
    })
  }

  /** Draws what was chosen of each source, in the order of `sources`. */
  show(chosen: readonly (readonly Chosen[])[], pass?: Pass): void {
    let i = 0
    for (const batch of this.all()) batch.far!.show(chosen[i++]!, batch.matrices.array as Float32Array, pass)
  }

  /** Number of copies and of their triangles, those that are left out included. */
  count(): { placed: number; triangles: number } {
    let [placed, triangles] = [0, 0]
    for (const batch of this.all()) {
      placed += batch.count
      triangles += batch.count * batch.triangles
    }
    return { placed, triangles }
  }

  /** How often each shape is drawn. */
  *uses(): Generator<[string, number]> {
    for (const { shape, count } of this.all()) yield [shape, count]
  }

  get isEmpty(): boolean {
    return this.batches.size === 0
  }

  clear(): void {
    for (const id of [...this.batches.keys()]) this.remove(id)
  }

  private *all(): Generator<Batch> {
    for (const batches of this.batches.values()) yield* batches
  }

  private isTooMuch({ shape, indices }: ShapeCopies): boolean {
    if (!this.boxOf) return false
    return trianglesOf(this.drawableOf(shape, false)) * indices.length > MOST_TRIANGLES
  }

  private drawnAs(shape: string, mirrored: boolean, boxed: boolean): ReturnType<DrawableOf> {
    return (boxed ? this.boxOf! : this.drawableOf)(shape, mirrored)
  }

  private lengthFor({ matrices: { length } }: ShapeCopies): number {
    return Math.min(length, this.most * 16)
  }

  private make(entry: ShapeCopies, mirrored: boolean, boxed: boolean): Batch | null {
    const { shape } = entry
    const drawable = this.drawnAs(shape, mirrored, boxed)
    if (!drawable) return null
    const matrices = new InstancedBufferAttribute(new Float32Array(Math.max(16, this.lengthFor(entry))), 16).setUsage(
      DynamicDrawUsage,
    )
    const group = new Group()
    group.matrixAutoUpdate = false
    this.object.add(group)
    const meshes = instancedMeshes(drawable, matrices, this.shadows)
    group.add(...meshes)
    return {
      shape,
      mirrored,
      boxed,
      group,
      meshes,
      plain: drawable.map(({ material }) => material),
      matrices,
      count: 0,
      triangles: trianglesOf(drawable),
      written: null,
      chunked: null,
      chunks: null,
      far: null,
    }
  }

  private write(batch: Batch, matrices: Float64Array): void {
    const all = matrices.length / 16
    batch.written = matrices
    batch.chunked = batch.chunks = null
    batch.count = Math.min(all, this.most)
    const { array } = batch.matrices
    if (all <= this.most) array.set(matrices)
    else {
      let at = 0
      for (const from of scattered(all)) {
        if (at === batch.count * 16) break
        for (let k = 0; k < 16; k++) array[at++] = matrices[from * 16 + k]!
      }
    }
    batch.matrices.needsUpdate = true
    this.showCount(batch)
  }

  /** Parts copies by where they stand, which puts their matrices into another order. */
  private chunksOf(batch: Batch): readonly Chunk[] {
    if (!batch.chunked) {
      const { matrices, meshes, count } = batch
      const from = (matrices.array as Float32Array).slice(0, count * 16)
      batch.chunked = new ChunkedMatrices(from, count, sphereOf(meshes), matrices.array as Float32Array)
      matrices.needsUpdate = true
    }
    const toWorld = batch.group.matrix
    return (batch.chunks ??= batch.chunked.chunks.map(chunk => ({
      ...chunk,
      box: chunk.box.clone().applyMatrix4(toWorld),
    })))
  }

  private showCount(batch: Batch): void {
    for (const mesh of batch.meshes) {
      mesh.count = batch.count
      mesh.visible = mesh.count > 0 && !this.isChosen
    }
  }

  private dropFar(batch: Batch): void {
    if (!batch.far) return
    batch.far.dispose()
    batch.group.remove(batch.far.object)
    batch.far = null
  }

  private drop(batch: Batch): void {
    for (const mesh of batch.meshes) mesh.dispose()
    this.dropFar(batch)
    this.object.remove(batch.group)
  }
}

function trianglesOf(drawable: ReturnType<DrawableOf>): number {
  return (drawable ?? []).reduce((sum, { triangles }) => sum + triangles, 0)
}

const sides = new WeakMap<Float64Array, ShapeCopies[]>()

/**
 * Copies that are mirrored apart from those that are not: which side of its triangles is the outside is told once for
 * each batch.
 */
function bySide(entry: ShapeCopies): ShapeCopies[] {
  const { shape, matrices, indices } = entry
  let found = sides.get(matrices)
  if (!found) {
    const [plain, turned]: number[][] = [[], []]
    for (let i = 0; i < indices.length; i++) (mirrors(matrices, i * 16) ? turned! : plain!).push(i)
    found =
      plain!.length === 0 || turned!.length === 0
        ? [entry]
        : [plain!, turned!].map(some => {
            const own = new Float64Array(some.length * 16)
            some.forEach((from, i) => own.set(matrices.subarray(from * 16, from * 16 + 16), i * 16))
            return { shape, matrices: own, indices: Int32Array.from(some, i => indices[i]!) }
          })
    sides.set(matrices, found)
  }
  return found
}

/** Whether a matrix turns shapes inside out: its determinant is negative. */
function mirrors(m: Float64Array, at: number): boolean {
  const [a, b, c, d, e, f, g, h, i] = [
    m[at]!,
    m[at + 1]!,
    m[at + 2]!,
    m[at + 4]!,
    m[at + 5]!,
    m[at + 6]!,
    m[at + 8]!,
    m[at + 9]!,
    m[at + 10]!,
  ]
  return a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) < 0
}
