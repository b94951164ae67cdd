import type { InstancedMesh, Material, Object3D } from 'three'
import { Box3, DynamicDrawUsage, Group, InstancedBufferAttribute, Matrix4, Sphere, Vector3 } from 'three'
import type { ShapeCopies } from '~~/core/scene/expand'
import type { DrawableOf, FartherOf } from './batches'
import { levelsOf } from './batches'
import type { Chosen, ChunkSource } from './choose-chunks'
import type { Drawable } from './instanced'
import { instancedMeshes, sphereOf } from './instanced'

/** More triangles than this of one shape in one arrangement are drawn as boxes. */
const MOST_TRIANGLES = 6_000_000

/** One mesh for a shape, whole or at a distance, and its finishes. */
type Level = { meshes: InstancedMesh[]; plain: Material[] }
type Batch = {
  shape: string
  mirrored: boolean
  boxed: boolean
  group: Group
  /** The whole shape first; the others once they are asked for. */
  levels: Level[]
  matrices: InstancedBufferAttribute
  count: number
  triangles: number
  /** What its matrices were written from. */
  written: Float64Array | null
  /** Around all copies, in the axes of the arrangement; null until that is asked for. */
  box: Box3 | null
}

/**
 * Draws the copies of arrangements by instancing: for each arrangement a batch of its own for each shape, whose
 * matrices are written as one array. Moving an arrangement moves its group; nothing is kept per copy.
 */
export class CopyBatches {
  readonly object: Object3D = new Group()
  private readonly batches = new Map<string, Batch[]>()

  /**
   * @param boxOf the box around a shape, for when there are too many of it
   * @param most copies of one shape in one arrangement; of more, as many are drawn all over it
   */
  constructor(
    private readonly drawableOf: DrawableOf,
    private readonly boxOf: DrawableOf,
    private readonly shadows: boolean,
    private readonly most = Infinity,
  ) {}

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
    for (const { levels } of this.all())
      for (const { meshes, plain } of levels) meshes.forEach((mesh, i) => (mesh.material = materialFor(plain[i]!)))
  }

  /** Draws all of them whole again. */
  drawAll(): void {
    for (const batch of this.all()) showCount(batch, 0, batch.count)
  }

  /**
   * What can be drawn of each shape in each arrangement; see `chooseChunks`. An arrangement is drawn by one mesh for
   * each shape.
   */
  sources(farther: FartherOf): ChunkSource[] {
    return [...this.all()].map(batch => {
      const steps = batch.boxed ? [] : farther(batch.shape, batch.mirrored)
      if (batch.levels.length !== steps.length + 1)
        this.makeLevels(
          batch,
          steps.map(({ drawable }) => drawable),
        )
      batch.box ??= boxAround(batch)
      return {
        chunks: [{ start: 0, count: batch.count, box: batch.box.clone().applyMatrix4(batch.group.matrix) }],
        levels: levelsOf(batch.triangles, steps),
      }
    })
  }

  /**
   * Draws what was chosen of each source, in the order of `sources`; those that are left out lie evenly among the
   * others.
   */
  show(chosen: readonly (readonly Chosen[])[]): void {
    let i = 0
    for (const batch of this.all()) {
      const [one] = chosen[i++]!
      showCount(batch, one?.level ?? 0, one?.count ?? 0)
    }
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
    return (
      (this.drawableOf(shape, false) ?? []).reduce((sum, { triangles }) => sum + triangles, 0) * indices.length
      > MOST_TRIANGLES
    )
  }

  private lengthFor({ matrices: { length } }: ShapeCopies): number {
    return Math.min(length, this.most * 16)
  }

  private make(entry: ShapeCopies, mirrored: boolean, boxed: boolean): Batch | null {
    const { shape } = entry
    const drawable = boxed ? this.boxOf(shape, mirrored) : this.drawableOf(shape, mirrored)
    if (!drawable) return null
    const matrices = new InstancedBufferAttribute(new Float32Array(Math.max(16, this.lengthFor(entry))), 16).setUsage(
      DynamicDrawUsage,
    )
    const group = new Group()
    group.matrixAutoUpdate = false
    this.object.add(group)
    const batch = {
      shape,
      mirrored,
      boxed,
      group,
      levels: [],
      matrices,
      count: 0,
      written: null,
      box: null,
      triangles: drawable.reduce((sum, { triangles }) => sum + triangles, 0),
    }
    this.addLevel(batch, drawable, this.shadows)
    return batch
  }

  private makeLevels(batch: Batch, farther: readonly Drawable[]): void {
    for (const { meshes } of batch.levels.splice(1)) this.dispose(batch, meshes)
    // What is far casts shadows that nobody sees.
    farther.forEach((drawable, i) => this.addLevel(batch, drawable, this.shadows && i === 0))
  }

  private addLevel(batch: Batch, drawable: Drawable, shadows: boolean): void {
    const meshes = instancedMeshes(drawable, batch.matrices, shadows)
    batch.levels.push({ meshes, plain: drawable.map(({ material }) => material) })
    for (const mesh of meshes) mesh.visible = batch.levels.length === 1
    batch.group.add(...meshes)
  }

  private dispose({ group }: Batch, meshes: readonly InstancedMesh[]): void {
    for (const mesh of meshes) mesh.dispose()
    group.remove(...meshes)
  }

  private drop(batch: Batch): void {
    for (const { meshes } of batch.levels) this.dispose(batch, meshes)
    this.object.remove(batch.group)
  }
}

/** Draws so many of the copies by one mesh. */
function showCount({ levels }: Batch, level: number, count: number): void {
  levels.forEach(({ meshes }, number) => {
    for (const mesh of meshes) {
      mesh.count = number === level ? count : 0
      mesh.visible = mesh.count > 0
    }
  })
}

const [scratch, place] = [new Matrix4(), new Sphere()]

/** The box around all copies that are drawn, in the axes of their arrangement. */
function boxAround({ levels, matrices, count }: Batch): Box3 {
  const around = sphereOf(levels[0]!.meshes)
  const box = new Box3()
  const size = new Vector3()
  const one = new Box3()
  for (let i = 0; i < count; i++) {
    place.copy(around).applyMatrix4(scratch.fromArray(matrices.array, i * 16))
    box.union(one.setFromCenterAndSize(place.center, size.setScalar(place.radius * 2)))
  }
  return box
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

/** Fewer copies than this are written in their order. */
const FEW_COPIES = 2000

/**
 * In an order of which any beginning lies all over: that of a linear congruence of full period (Hull and Dobell 1962),
 * without the numbers there are no copies for. Even steps would draw stripes in a grid.
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
    for (let i = 0, from = 0; i < batch.count; from = (Math.imul(from, 1664525) + 1013904223) & mask) {
      if (from >= all) continue
      for (let k = 0; k < 16; k++) array[i * 16 + k] = matrices[from * 16 + k]!
      i++
    }
  }
  batch.matrices.needsUpdate = true
  batch.box = null
  showCount(batch, 0, batch.count)
}
