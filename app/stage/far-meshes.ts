import type { InstancedMesh, Material, Object3D } from 'three'
import { DynamicDrawUsage, Group, InstancedBufferAttribute } from 'three'
import type { Drawable } from './instanced'
import { instancedMeshes } from './instanced'
import type { Chosen } from './choose-chunks'

type Level = { meshes: InstancedMesh[]; plain: Material[]; matrices: InstancedBufferAttribute }

/** Of what is drawn piece by piece: what hides what is behind it, or only what can be looked through. */
export type Pass = 'solid' | 'clear'

/** Draws chosen instances of one shape, each by the mesh that was chosen for it. */
export class FarMeshes {
  readonly object: Object3D = new Group()
  private readonly levels: Level[]

  /** @param drawables the whole shape, and what stands for it at a distance */
  constructor(drawables: readonly Drawable[], shadows: boolean) {
    this.levels = drawables.map(drawable => {
      const matrices = new InstancedBufferAttribute(new Float32Array(16 * 8), 16).setUsage(DynamicDrawUsage)
      const meshes = instancedMeshes(drawable, matrices, shadows)
      this.object.add(...meshes)
      return { meshes, plain: drawable.map(({ material }) => material), matrices }
    })
  }

  /** How many meshes stand for the shape at a distance. */
  get steps(): number {
    return this.levels.length - 1
  }

  /**
   * @param sorted the matrices that the chunks are of
   * @param pass of which materials; all when left out
   */
  show(chosen: readonly Chosen[], sorted: Float32Array, pass?: Pass): void {
    this.levels.forEach((level, number) => {
      const some = chosen.filter(each => each.level === number)
      const count = some.reduce((sum, each) => sum + each.count, 0)
      if (count * 16 > level.matrices.array.length) this.makeRoom(level, count)
      let at = 0
      for (const { chunk, count: many } of some) {
        level.matrices.array.set(sorted.subarray(chunk.start * 16, (chunk.start + many) * 16), at * 16)
        at += many
      }
      level.matrices.clearUpdateRanges()
      level.matrices.addUpdateRange(0, count * 16)
      level.matrices.needsUpdate = count > 0
      for (const mesh of level.meshes) {
        mesh.count = count
        mesh.visible = count > 0 && (!pass || (mesh.material as Material).transparent === (pass === 'clear'))
      }
    })
  }

  hide(): void {
    for (const { meshes } of this.levels) for (const mesh of meshes) mesh.visible = false
  }

  dress(materialFor: (plain: Material) => Material): void {
    for (const { meshes, plain } of this.levels) meshes.forEach((mesh, i) => (mesh.material = materialFor(plain[i]!)))
  }

  dispose(): void {
    for (const { meshes } of this.levels) for (const mesh of meshes) mesh.dispose()
  }

  private makeRoom(level: Level, count: number): void {
    level.matrices = new InstancedBufferAttribute(new Float32Array(2 ** Math.ceil(Math.log2(count * 16))), 16).setUsage(
      DynamicDrawUsage,
    )
    for (const mesh of level.meshes) {
      mesh.dispose()
      mesh.instanceMatrix = level.matrices
    }
  }
}
