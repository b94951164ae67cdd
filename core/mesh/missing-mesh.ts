import type { Box3 } from 'three'
import { BoxGeometry, Vector3 } from 'three'
import type { Mesh } from './mesh'

/** What the name of the finish begins with that stands for a part which is not there. */
export const MISSING = 'Missing: '

/** A box in the place of a part whose mesh is not there, as large as that was. @param name of the part */
export function missingMesh(name: string, box: Box3): Mesh {
  const [size, middle] = [box.getSize(new Vector3()), box.getCenter(new Vector3())]
  const made = new BoxGeometry(Math.max(size.x, LEAST), Math.max(size.y, LEAST), Math.max(size.z, LEAST)).translate(
    middle.x,
    middle.y,
    middle.z,
  )
  const floats = (attribute: string) => Float32Array.from(made.getAttribute(attribute).array)
  return {
    primitives: [
      {
        material: {
          name: `${MISSING}${name}`,
          baseColor: [0.9, 0.75, 0.2],
          roughness: 1,
          metallic: 0,
          emissive: [0, 0, 0],
        },
        positions: floats('position'),
        normals: floats('normal'),
        uvs: [floats('uv')],
        indices: Uint32Array.from(made.getIndex()!.array),
      },
    ],
  }
}

/** In metres. */
const LEAST = 0.01
