import type { Material, Object3D } from 'three'
import { DynamicDrawUsage, Group, InstancedBufferAttribute, InstancedMesh, Matrix4 } from 'three'
import type { ShapeCopies } from '~~/core/arrange/expand'
import type { DrawableOf } from './batches'

type Batch = { shape: string, mirrored: boolean, group: Group, meshes: InstancedMesh[], plain: Material[], matrices: InstancedBufferAttribute, count: number, triangles: number }

/**
 * Draws the copies of arrangements by instancing: for each arrangement a batch of its own for each shape, whose matrices are
 * written as one array. Moving an arrangement moves its group; nothing is kept per copy.
 */
export class CopyBatches {
  readonly object: Object3D = new Group()
  private readonly batches = new Map<string, Batch[]>()

  constructor(private readonly drawableOf: DrawableOf, private readonly shadows: boolean) {}

  /** Draws an arrangement's copies, in place of those drawn for it before. @param matrix from its own axes to the world */
  set(id: string, copies: readonly ShapeCopies[], matrix: Matrix4): void {
    const before = this.batches.get(id) ?? []
    const after = copies.flatMap((entry, i) => {
      const old = before[i]
      const mirrored = first.fromArray(entry.matrices).determinant() < 0
      const batch = old?.shape === entry.shape && old.mirrored === mirrored && old.matrices.array.length >= entry.matrices.length ? old : this.make(entry, mirrored)
      if (!batch) return []
      batch.count = entry.matrices.length / 16
      batch.matrices.array.set(entry.matrices)
      batch.matrices.needsUpdate = true
      for (const mesh of batch.meshes) mesh.count = batch.count
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

  /** Number of copies and of their triangles drawn. */
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

  private make({ shape, matrices: { length } }: ShapeCopies, mirrored: boolean): Batch | null {
    const drawable = this.drawableOf(shape, mirrored)
    if (!drawable) return null
    const matrices = new InstancedBufferAttribute(new Float32Array(Math.max(16, length)), 16).setUsage(DynamicDrawUsage)
    const group = new Group()
    group.matrixAutoUpdate = false
    const meshes = drawable.map(({ geometry, material }) => {
      const mesh = new InstancedMesh(geometry, material, 0)
      mesh.instanceMatrix = matrices
      mesh.frustumCulled = false
      mesh.castShadow = mesh.receiveShadow = this.shadows
      return mesh
    })
    group.add(...meshes)
    this.object.add(group)
    return { shape, mirrored, group, meshes, matrices, count: 0, plain: drawable.map(({ material }) => material), triangles: drawable.reduce((sum, { triangles }) => sum + triangles, 0) }
  }

  private drop({ group, meshes }: Batch): void {
    for (const mesh of meshes) mesh.dispose()
    this.object.remove(group)
  }
}

const first = new Matrix4()
