import type { BufferGeometry, InstancedBufferAttribute, Material } from 'three'
import { InstancedMesh, Sphere } from 'three'

/** What is drawn for one part: its geometries, each with its material. */
export type Drawable = { geometry: BufferGeometry; material: Material; triangles: number }[]

/** A mesh for each material, all with one list of matrices. */
export function instancedMeshes(
  drawable: Drawable,
  matrices: InstancedBufferAttribute,
  shadows: boolean,
): InstancedMesh[] {
  return drawable.map(({ geometry, material }) => {
    const mesh = new InstancedMesh(geometry, material, 0)
    mesh.instanceMatrix = matrices
    mesh.frustumCulled = false
    mesh.castShadow = mesh.receiveShadow = shadows
    return mesh
  })
}

/** The sphere around all that is drawn of a shape. */
export function sphereOf(meshes: readonly InstancedMesh[]): Sphere {
  const sphere = new Sphere()
  for (const { geometry } of meshes) {
    geometry.computeBoundingSphere()
    sphere.union(geometry.boundingSphere!)
  }
  return sphere
}
