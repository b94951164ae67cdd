import type { InstancedMesh, Material, Object3D , Matrix4 } from 'three'
import { DynamicDrawUsage, Group, InstancedBufferAttribute } from 'three'
import type { ShapeCopies } from '~~/core/scene/expand'
import type { DrawableOf } from './batches'
import { instancedMeshes } from './instanced'

/** More triangles than this of one shape in one arrangement are drawn as boxes. */
const MOST_TRIANGLES = 6_000_000
/** A shape with fewer triangles in an arrangement is never thinned out. */
const FEW_TRIANGLES = 20_000

type Batch = { shape: string, mirrored: boolean, boxed: boolean, group: Group, meshes: InstancedMesh[], plain: Material[], matrices: InstancedBufferAttribute, count: number, triangles: number, /** What its matrices were written from. */ written: Float64Array | null }

/**
 * Draws the copies of arrangements by instancing: for each arrangement a batch of its own for each shape, whose matrices are
 * written as one array. Moving an arrangement moves its group; nothing is kept per copy.
 */
export class CopyBatches {
  readonly object: Object3D = new Group()
  private readonly batches = new Map<string, Batch[]>()

  /**
   * @param boxOf the box around a shape, for when there are too many of it
   * @param most copies of one shape in one arrangement; of more, as many are drawn all over it
   */
  constructor(private readonly drawableOf: DrawableOf, private readonly boxOf: DrawableOf, private readonly shadows: boolean, private readonly most = Infinity) {}

  /** Draws an arrangement's copies, in place of those drawn for it before. @param matrix from its own axes to the world */
  set(id: string, copies: readonly ShapeCopies[], matrix: Matrix4): void {
    const before = this.batches.get(id) ?? []
    const after = copies.flatMap(bySide).flatMap((entry, i) => {
      const old = before[i]
      const mirrored = mirrors(entry.matrices, 0)
      const boxed = this.isTooMuch(entry)
      const batch = old?.shape === entry.shape && old.mirrored === mirrored && old.boxed === boxed && old.matrices.array.length >= this.lengthFor(entry) ? old : this.make(entry, mirrored, boxed)
      if (!batch) return []
      if (batch.written !== entry.matrices) write(batch, entry.matrices, this.most)
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

  /** Draws everything with materials of another look, until the next call. */
  dress(materialFor: (plain: Material) => Material): void {
    for (const { meshes, plain } of this.all()) meshes.forEach((mesh, i) => mesh.material = materialFor(plain[i]!))
  }

  /** Draws as many of each shape's copies as keep to a number of triangles in all; those that are left out lie evenly among the others. */
  thinTo(triangles: number): void {
    let [few, many] = [0, 0]
    for (const batch of this.all()) {
      const all = batch.count * batch.triangles
      if (all < FEW_TRIANGLES) few += all
      else many += all
    }
    const share = many + few <= triangles ? 1 : Math.max(triangles - few, 0) / many
    for (const { meshes, count, triangles: each } of this.all()) {
      const drawn = count * each < FEW_TRIANGLES ? count : Math.ceil(count * share)
      for (const mesh of meshes) mesh.count = drawn
    }
  }

  /** Number of triangles that are drawn, of those of `count`. */
  drawnTriangles(): number {
    let sum = 0
    for (const { meshes, triangles } of this.all()) sum += meshes[0]!.count * triangles
    return sum
  }

  /** Number of copies and of their triangles, those that are left out included. */
  count(): { placed: number, triangles: number } {
    let [placed, triangles] = [0, 0]
    for (const batch of this.all()) {
      placed += batch.count
      triangles += batch.count * batch.triangles
    }
    return { placed, triangles }
  }

  /** How often each shape is drawn. */
  * uses(): Generator<[string, number]> {
    for (const { shape, count } of this.all()) yield [shape, count]
  }

  get isEmpty(): boolean {
    return this.batches.size === 0
  }

  clear(): void {
    for (const id of [...this.batches.keys()]) this.remove(id)
  }

  private * all(): Generator<Batch> {
    for (const batches of this.batches.values()) yield* batches
  }

  private isTooMuch({ shape, indices }: ShapeCopies): boolean {
    return (this.drawableOf(shape, false) ?? []).reduce((sum, { triangles }) => sum + triangles, 0) * indices.length > MOST_TRIANGLES
  }

  private lengthFor({ matrices: { length } }: ShapeCopies): number {
    return Math.min(length, this.most * 16)
  }

  private make(entry: ShapeCopies, mirrored: boolean, boxed: boolean): Batch | null {
    const { shape } = entry
    const drawable = boxed ? this.boxOf(shape, mirrored) : this.drawableOf(shape, mirrored)
    if (!drawable) return null
    const matrices = new InstancedBufferAttribute(new Float32Array(Math.max(16, this.lengthFor(entry))), 16).setUsage(DynamicDrawUsage)
    const group = new Group()
    group.matrixAutoUpdate = false
    const meshes = instancedMeshes(drawable, matrices, this.shadows)
    group.add(...meshes)
    this.object.add(group)
    return { shape, mirrored, boxed, group, meshes, matrices, count: 0, written: null, plain: drawable.map(({ material }) => material), triangles: drawable.reduce((sum, { triangles }) => sum + triangles, 0) }
  }

  private drop({ group, meshes }: Batch): void {
    for (const mesh of meshes) mesh.dispose()
    this.object.remove(group)
  }
}

const sides = new WeakMap<Float64Array, ShapeCopies[]>()

/** Copies that are mirrored apart from those that are not: which side of its triangles is the outside is told once for each batch. */
function bySide(entry: ShapeCopies): ShapeCopies[] {
  const { shape, matrices, indices } = entry
  let found = sides.get(matrices)
  if (!found) {
    const [plain, turned]: number[][] = [[], []]
    for (let i = 0; i < indices.length; i++) (mirrors(matrices, i * 16) ? turned! : plain!).push(i)
    found = plain!.length === 0 || turned!.length === 0 ? [entry] : [plain!, turned!].map((some) => {
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
  const [a, b, c, d, e, f, g, h, i] = [m[at]!, m[at + 1]!, m[at + 2]!, m[at + 4]!, m[at + 5]!, m[at + 6]!, m[at + 8]!, m[at + 9]!, m[at + 10]!]
  return a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) < 0
}

/** Fewer copies than this are written in their order. */
const FEW_COPIES = 2000

/**
 * In an order of which any beginning lies all over: that of a linear congruence of full period (Hull and Dobell 1962), without the
 * numbers there are no copies for. Even steps would draw stripes in a grid.
 *
 * @param most copies that are written
 */
function write(batch: Batch, matrices: Float64Array, most: number): void {
  const all = matrices.length / 16
  batch.written = matrices
  batch.count = Math.min(all, most)
  const { array } = batch.matrices
  if (all < FEW_COPIES) array.set(matrices)
  else {
    const mask = 2 ** Math.ceil(Math.log2(all)) - 1
    for (let i = 0, from = 0; i < batch.count; from = Math.imul(from, 1664525) + 1013904223 & mask) {
      if (from >= all) continue
      for (let k = 0; k < 16; k++) array[i * 16 + k] = matrices[from * 16 + k]!
      i++
    }
  }
  batch.matrices.needsUpdate = true
  for (const mesh of batch.meshes) mesh.count = batch.count
}
