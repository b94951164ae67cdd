import { Box3, BufferAttribute, BufferGeometry, FrontSide, Matrix4, Ray, Vector3 } from 'three'
import { INTERSECTED, MeshBVH, NOT_INTERSECTED } from 'three-mesh-bvh'
import type { Mesh } from './mesh'
import { meshBounds, meshBytes, triangleCount } from './mesh'

export type SolidHit = { point: Vector3, normal: Vector3, distance: number }

/** A part's mesh made ready for rays: one geometry and one BVH per material, shared by everything that shows the part. */
export class Solid {
  readonly bounds: Box3
  readonly geometries: BufferGeometry[]
  readonly triangles: number
  readonly bytes: number
  /** One for each material, over the geometry of the same place. */
  readonly trees: MeshBVH[]

  constructor(readonly mesh: Mesh) {
    this.bounds = meshBounds(mesh)
    this.triangles = triangleCount(mesh)
    this.bytes = meshBytes(mesh)
    this.geometries = mesh.primitives.map(({ positions, normals, indices }) => {
      const geometry = new BufferGeometry()
      geometry.setAttribute('position', new BufferAttribute(positions, 3))
      geometry.setAttribute('normal', new BufferAttribute(normals, 3))
      geometry.setIndex(new BufferAttribute(indices, 1))
      return geometry
    })
    this.trees = this.geometries.map(geometry => new MeshBVH(geometry, { indirect: true }))
  }

  /**
   * The nearest point where a ray in the world meets the outer side of the mesh placed by `matrix`.
   * In the mesh's own axes the outer side winds counter-clockwise whether or not the matrix mirrors.
   *
   * @returns null when it misses; `normal` is of unit length, in the world, on the face's outer side
   */
  raycast(ray: Ray, matrix: Matrix4): SolidHit | null {
    const inverse = scratchMatrix.copy(matrix).invert()
    const local = scratchRay.copy(ray).applyMatrix4(inverse)
    let best: SolidHit | null = null
    for (const tree of this.trees) {
      const hit = tree.raycastFirst(local, FrontSide)
      if (!hit?.face) continue
      const point = hit.point.applyMatrix4(matrix)
      const distance = point.distanceTo(ray.origin)
      if (best && best.distance <= distance) continue
      best = { point, distance, normal: worldNormal(hit.face.normal, inverse) }
    }
    return best
  }

  /**
   * How far the mesh reaches in a direction, and where it does: the middle of all its points within a millimetre of the farthest.
   *
   * @param direction in the mesh's own axes, of any length; distances are in multiples of it
   */
  extreme(direction: Vector3): { reach: number, middle: Vector3 } {
    let reach = -Infinity
    const most = (box: Box3) => direction.x * (direction.x > 0 ? box.max.x : box.min.x)
      + direction.y * (direction.y > 0 ? box.max.y : box.min.y) + direction.z * (direction.z > 0 ? box.max.z : box.min.z)
    for (const tree of this.trees) {
      tree.shapecast({
        boundsTraverseOrder: box => -most(box),
        intersectsBounds: box => most(box) > reach ? INTERSECTED : NOT_INTERSECTED,
        intersectsTriangle: ({ a, b, c }) => {
          reach = Math.max(reach, a.dot(direction), b.dot(direction), c.dot(direction))
        },
      })
    }
    const near = reach - FLUSH * direction.length()
    const around = new Box3()
    for (const tree of this.trees) {
      tree.shapecast({
        intersectsBounds: box => most(box) >= near ? INTERSECTED : NOT_INTERSECTED,
        intersectsTriangle: (triangle) => {
          for (const corner of [triangle.a, triangle.b, triangle.c]) if (corner.dot(direction) >= near) around.expandByPoint(corner)
        },
      })
    }
    return { reach, middle: around.getCenter(new Vector3()) }
  }
}

/** Points this near to the farthest count as being as far, in metres. */
const FLUSH = 0.001

/** Normals go through the transposed inverse, so that they stay at right angles to unevenly sized faces. */
function worldNormal(normal: Vector3, inverse: Matrix4): Vector3 {
  const e = inverse.elements
  const { x, y, z } = normal
  return new Vector3(
    e[0]! * x + e[1]! * y + e[2]! * z,
    e[4]! * x + e[5]! * y + e[6]! * z,
    e[8]! * x + e[9]! * y + e[10]! * z,
  ).normalize()
}

const scratchMatrix = new Matrix4()
const scratchRay = new Ray()
