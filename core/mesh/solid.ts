import { Box3, BoxGeometry, BufferAttribute, BufferGeometry, FrontSide, Matrix4, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import type { Mesh } from './mesh'
import { meshBounds, meshBytes, singlePositions, triangleCount } from './mesh'

/** Where a ray meets a mesh, in the world: `normal` of unit length, and the corners of the triangle that is met. */
export type SolidHit = {
  point: Vector3
  normal: Vector3
  distance: number
  triangle: readonly [Vector3, Vector3, Vector3]
  /** Which triangle it is, of which primitive. */
  face: { primitive: number; triangle: number }
}

/**
 * A part's mesh made ready for rays: one geometry and one BVH per material, shared by everything that shows the part.
 */
export class Solid {
  readonly bounds: Box3
  readonly geometries: BufferGeometry[]
  readonly triangles: number
  readonly bytes: number
  /** One for each material, over the geometry of the same place. */
  readonly trees: MeshBVH[]
  private turnedOver: BufferGeometry[] | null = null
  private around: BufferGeometry | null = null
  /** Three numbers for each place where the mesh has vertices; made when first asked for. */
  private points: Float64Array | null = null

  constructor(readonly mesh: Mesh) {
    this.bounds = meshBounds(mesh)
    this.triangles = triangleCount(mesh)
    this.bytes = meshBytes(mesh)
    this.geometries = mesh.primitives.map(primitive => {
      const { normals, indices, uvs = [], colors } = primitive
      const geometry = new BufferGeometry()
      geometry.setAttribute('position', new BufferAttribute(singlePositions(primitive), 3))
      geometry.setAttribute('normal', new BufferAttribute(normals, 3))
      uvs.forEach((uv, i) => geometry.setAttribute(i === 0 ? 'uv' : `uv${i}`, new BufferAttribute(uv, 2)))
      if (colors) geometry.setAttribute('color', new BufferAttribute(colors, 4))
      geometry.setIndex(new BufferAttribute(indices, 1))
      return geometry
    })
    // Rays and snapping work with the positions as they are.
    this.trees = this.geometries.map((geometry, i) => {
      const { positions } = mesh.primitives[i]!
      if (positions instanceof Float32Array) return new MeshBVH(geometry, { indirect: true })
      const exact = new BufferGeometry()
        .setAttribute('position', new BufferAttribute(positions, 3))
        .setIndex(geometry.getIndex())
      return new MeshBVH(exact, { indirect: true })
    })
  }

  /** The box around the mesh, for drawing very many. */
  get box(): BufferGeometry {
    const [size, middle] = [this.bounds.getSize(new Vector3()), this.bounds.getCenter(new Vector3())]
    return (this.around ??= new BoxGeometry(size.x, size.y, size.z).translate(middle.x, middle.y, middle.z))
  }

  /** The geometries with their triangles wound the other way, for drawing them mirrored; they share all points. */
  get mirrored(): BufferGeometry[] {
    return (this.turnedOver ??= this.geometries.map((geometry, i) => {
      const turned = new BufferGeometry()
      for (const [name, attribute] of Object.entries(geometry.attributes)) turned.setAttribute(name, attribute)
      turned.setIndex(new BufferAttribute(this.mesh.primitives[i]!.indices.slice().reverse(), 1))
      return turned
    }))
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
    for (const [primitive, tree] of this.trees.entries()) {
      const hit = tree.raycastFirst(local, FrontSide)
      if (!hit?.face) continue
      const point = hit.point.applyMatrix4(matrix)
      const distance = point.distanceTo(ray.origin)
      if (best && best.distance <= distance) continue
      const { a, b, c } = hit.face
      const positions = tree.geometry.getAttribute('position')
      best = {
        point,
        distance,
        normal: worldNormal(hit.face.normal, inverse),
        face: { primitive, triangle: hit.faceIndex! },
        triangle: [a, b, c].map(vertex =>
          new Vector3().fromBufferAttribute(positions, vertex).applyMatrix4(matrix),
        ) as [Vector3, Vector3, Vector3],
      }
    }
    return best
  }

  /** How far a point lies from the mesh's surface, in its own axes. */
  distanceTo(point: Vector3): number {
    let nearest = Infinity
    for (const tree of this.trees)
      nearest = Math.min(nearest, tree.closestPointToPoint(point, undefined, 0, nearest)?.distance ?? Infinity)
    return nearest
  }

  /** Calls for each place where the mesh has vertices, in its own axes. */
  eachPlace(visit: (x: number, y: number, z: number) => void): void {
    const points = this.places
    for (let i = 0; i < points.length; i += 3) visit(points[i]!, points[i + 1]!, points[i + 2]!)
  }

  private get places(): Float64Array {
    return (this.points ??= distinctPoints(this.mesh))
  }

  /**
   * How far the mesh reaches in a direction, and where it does: the middle of all its points within a millimetre of the
   * farthest.
   *
   * @param direction in the mesh's own axes, of any length; distances are in multiples of it
   */
  extreme({ x, y, z }: Vector3): { reach: number; middle: Vector3 } {
    const points = this.places
    let reach = -Infinity
    for (let i = 0; i < points.length; i += 3)
      reach = Math.max(reach, points[i]! * x + points[i + 1]! * y + points[i + 2]! * z)
    const near = reach - FLUSH * Math.hypot(x, y, z)
    const around = new Box3()
    for (let i = 0; i < points.length; i += 3) {
      if (points[i]! * x + points[i + 1]! * y + points[i + 2]! * z >= near)
        around.expandByPoint(scratchPoint.fromArray(points, i))
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

/** Meshes hold a vertex for each normal at a place; a simple loop over the places is quicker than any tree. */
function distinctPoints({ primitives }: Mesh): Float64Array {
  const places = new Map<string, number[]>()
  for (const { positions } of primitives) {
    for (let i = 0; i < positions.length; i += 3) {
      const point = [positions[i]!, positions[i + 1]!, positions[i + 2]!]
      places.set(point.map(Math.fround).join(' '), point)
    }
  }
  return Float64Array.from([...places.values()].flat())
}

const scratchMatrix = new Matrix4()
const scratchPoint = new Vector3()
const scratchRay = new Ray()
