import type { BufferGeometry } from 'three'
import { Euler, MathUtils, Matrix4, Quaternion, Triangle, Vector3 } from 'three'
import type { Material, Mesh } from './mesh'
import type { Vec3 } from '../math/vectors'

/** In square metres: a hundredth of a square millimetre. */
const SMALLEST_AREA = 1e-8

type Gathered = { positions: number[]; normals: number[]; indices: number[] }

/**
 * Puts simple shapes together into one mesh, a primitive for each material used.
 *
 * @example
 * import { BoxGeometry } from 'three'
 * import { triangleCount } from './mesh'
 * const wood = { name: 'Wood', baseColor: [0.6, 0.4, 0.2], roughness: 1, metallic: 0, emissive: [0, 0, 0] }
 * triangleCount(new MeshBuilder().add(wood, new BoxGeometry(1, 1, 1)).build()) // 12
 */
export class MeshBuilder {
  private readonly gathered = new Map<Material, Gathered>()

  /**
   * Adds a shape.
   *
   * @param at where the shape's origin goes, in metres
   * @param turn in degrees about X, Y and Z
   */
  add(material: Material, shape: BufferGeometry, at: Vec3 = [0, 0, 0], turn: Vec3 = [0, 0, 0]): this {
    let target = this.gathered.get(material)
    if (!target) this.gathered.set(material, (target = { positions: [], normals: [], indices: [] }))
    const rotation = new Quaternion().setFromEuler(new Euler(...(turn.map(MathUtils.degToRad) as Vec3)))
    const matrix = new Matrix4().compose(new Vector3(...at), rotation, new Vector3(1, 1, 1))
    const position = shape.getAttribute('position')
    const normal = shape.getAttribute('normal')
    const index = shape.getIndex()
    const point = new Vector3()
    const copied = new Map<number, number>()
    const copyOf = (vertex: number): number => {
      let copy = copied.get(vertex)
      if (copy === undefined) {
        copy = target.positions.length / 3
        copied.set(vertex, copy)
        target.positions.push(...point.fromBufferAttribute(position, vertex).applyMatrix4(matrix))
        target.normals.push(...point.fromBufferAttribute(normal, vertex).applyQuaternion(rotation))
      }
      return copy
    }
    const triangle = new Triangle()
    const corner = (i: number) => (index ? index.getX(i) : i)
    for (let i = 0; i < (index?.count ?? position.count); i += 3) {
      const [a, b, c] = [corner(i), corner(i + 1), corner(i + 2)]
      triangle.setFromAttributeAndIndices(position, a, b, c)
      // A triangle without area has no normal, and nothing to show.
      if (triangle.getArea() > SMALLEST_AREA) target.indices.push(copyOf(a), copyOf(b), copyOf(c))
    }
    return this
  }

  /** The mesh of everything added so far, moved so that its pivot is the middle of its bottom. */
  build(): Mesh {
    const low = [Infinity, Infinity, Infinity]
    const high = [-Infinity, -Infinity, -Infinity]
    for (const { positions } of this.gathered.values()) {
      positions.forEach((value, i) => {
        low[i % 3] = Math.min(low[i % 3]!, value)
        high[i % 3] = Math.max(high[i % 3]!, value)
      })
    }
    const pivot = [(low[0]! + high[0]!) / 2, low[1]!, (low[2]! + high[2]!) / 2]
    return {
      primitives: [...this.gathered].map(([material, { positions, normals, indices }]) => ({
        material,
        positions: Float32Array.from(positions, (value, i) => value - pivot[i % 3]!),
        normals: Float32Array.from(normals),
        indices: Uint32Array.from(indices),
      })),
    }
  }
}
