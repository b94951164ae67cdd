import { averageFinish } from '~~/core/mesh/average-finish'
import type { Solid } from '~~/core/mesh/solid'
import type { MeshStandardMaterial } from 'three'
import { Vector3 } from 'three'
import type { DrawableOf } from './batches'
import type { Drawable } from './instanced'
import type { LoadPicture } from './materials'
import { MaterialCache } from './materials'

/** A mesh that stands for a shape at a distance, and how far it lies off in metres. */
export type StepSolid = { solid: Solid; error: number }
export type StepsOf = (shape: string) => readonly StepSolid[]

/** What shapes are drawn with: geometries of their own, and materials that they share. */
export class Drawables {
  readonly materials: MaterialCache

  /**
   * @param stepsOf what stands for a shape at a distance, as far as it is there
   * @param onLoaded is called when a picture has come that something drawn shows
   */
  constructor(
    private readonly solidOf: (shape: string) => Solid | undefined,
    private readonly stepsOf: StepsOf,
    loadPicture: LoadPicture,
    onLoaded: () => void,
    dressed: (material: MeshStandardMaterial) => void = () => {},
  ) {
    this.materials = new MaterialCache(loadPicture, onLoaded, dressed)
  }

  /** A shape with all of its triangles. */
  readonly whole: DrawableOf = (shape, mirrored) => {
    const solid = this.solidOf(shape)
    return solid && this.drawableOf(solid, mirrored)
  }

  /**
   * The meshes that stand for a shape at a distance, the nearer first, each with how far it lies off in metres; its box
   * is the last.
   */
  farther(shape: string, mirrored: boolean): { drawable: Drawable; error: number }[] {
    const solid = this.solidOf(shape)
    if (!solid) return []
    const steps = this.stepsOf(shape).map(({ solid: step, error }) => ({
      drawable: this.drawableOf(step, mirrored),
      error,
    }))
    return [...steps, { drawable: this.box(shape, mirrored)!, error: solid.bounds.getSize(new Vector3()).length() / 4 }]
  }

  private drawableOf(solid: Solid, mirrored: boolean): Drawable {
    const geometries = mirrored ? solid.mirrored : solid.geometries
    return solid.mesh.primitives.map((primitive, i) => ({
      geometry: geometries[i]!,
      material: this.materials.get(primitive.material, primitive.colors !== undefined),
      triangles: primitive.indices.length / 3,
    }))
  }

  /** The box around a shape, in the finish that it has all in all. */
  readonly box: DrawableOf = shape => {
    const solid = this.solidOf(shape)
    return solid && [{ geometry: solid.box, material: this.materials.get(averageFinish(solid.mesh)), triangles: 12 }]
  }

  /** Of a shape's mesh. */
  bytes(shape: string): number {
    return this.solidOf(shape)?.bytes ?? 0
  }
}
