import type { Solid } from '~~/core/mesh/solid'
import type { DrawableOf } from './batches'
import type { LoadPicture } from './materials'
import { MaterialCache } from './materials'

/** What shapes are drawn with: geometries of their own, and materials that they share. */
export class Drawables {
  readonly materials: MaterialCache

  /** @param onLoaded is called when a picture has come that something drawn shows */
  constructor(private readonly solidOf: (shape: string) => Solid | undefined, loadPicture: LoadPicture, onLoaded: () => void) {
    this.materials = new MaterialCache(loadPicture, onLoaded)
  }

  /** A shape with all of its triangles. */
  readonly whole: DrawableOf = (shape, mirrored) => {
    const solid = this.solidOf(shape)
    const geometries = mirrored ? solid?.mirrored : solid?.geometries
    return solid?.mesh.primitives.map((primitive, i) => ({
      geometry: geometries![i]!,
      material: this.materials.get(primitive.material, primitive.colors !== undefined),
      triangles: primitive.indices.length / 3,
    }))
  }

  /** The box around a shape, in the finish of its first triangles. */
  readonly box: DrawableOf = (shape) => {
    const solid = this.solidOf(shape)
    return solid && [{ geometry: solid.box, material: this.materials.get(solid.mesh.primitives[0]!.material), triangles: 12 }]
  }

  /** Of a shape's mesh. */
  bytes(shape: string): number {
    return this.solidOf(shape)?.bytes ?? 0
  }
}
