import type { Matrix4 } from 'three'
import { Matrix3, Vector3 } from 'three'
import type { Mesh } from './mesh'

/**
 * A mesh with a matrix folded into its points. Normals go through the transposed inverse; where the matrix mirrors, the
 * triangles are turned over, so that they go on winding counter-clockwise from outside.
 *
 * @throws RangeError if the matrix flattens the mesh
 */
export function bakeMesh(mesh: Mesh, matrix: Matrix4): Mesh {
  const determinant = matrix.determinant()
  if (Math.abs(determinant) < 1e-15) throw new RangeError('a flattened shape cannot be baked')
  const normalMatrix = new Matrix3().getNormalMatrix(matrix)
  const vector = new Vector3()
  return {
    primitives: mesh.primitives.map(primitive => {
      const { positions, normals, indices } = primitive
      const baked = {
        ...primitive,
        positions: positions.slice(),
        normals: new Float32Array(normals.length),
        indices: indices.slice(),
      }
      for (let i = 0; i < positions.length; i += 3) {
        vector.fromArray(positions, i).applyMatrix4(matrix).toArray(baked.positions, i)
        // The inverse of a mirroring matrix turns its normals outside already.
        vector.fromArray(normals, i).applyMatrix3(normalMatrix).normalize().toArray(baked.normals, i)
      }
      if (determinant < 0)
        for (let i = 0; i < indices.length; i += 3)
          [baked.indices[i + 1], baked.indices[i + 2]] = [indices[i + 2]!, indices[i + 1]!]
      return baked
    }),
  }
}
