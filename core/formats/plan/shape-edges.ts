import { Vector3 } from 'three'
import { sidesByPlace } from '../../mesh/features'
import type { Mesh } from '../../mesh/mesh'

/**
 * The edges of a mesh that a drawing may show: twelve numbers each, its two ends and the normals of the faces on both
 * sides. Where only one face is, or more than two, the edge is one wherever it is seen from; then the second normal is
 * nothing.
 */
export type ShapeEdges = {
  numbers: Float64Array
  /** Whether each is an edge of the shape, and not only an outline where it turns away. */
  sharp: Uint8Array
}

/** Faces that meet at a larger angle have an edge of the shape between them. */
const EDGE = Math.cos((20 * Math.PI) / 180)
/** Faces that meet at a smaller one are flat, and no outline runs between them. */
const FLAT = Math.cos((0.5 * Math.PI) / 180)

const known = new WeakMap<Mesh, ShapeEdges>()

export function edgesOf(mesh: Mesh): ShapeEdges {
  let edges = known.get(mesh)
  if (!edges) known.set(mesh, (edges = findEdges(mesh)))
  return edges
}

function findEdges({ primitives }: Mesh): ShapeEdges {
  const numbers: number[] = []
  const sharp: number[] = []
  for (const { positions, indices } of primitives) {
    const corner = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3)
    const normalOf = (side: number) => {
      const first = side - (side % 3)
      const [a, b, c] = [corner(first), corner(first + 1), corner(first + 2)]
      return b.sub(a).cross(c.sub(a)).normalize()
    }
    for (const sides of sidesByPlace(positions, indices).values()) {
      const [side] = sides as [number]
      const [from, to] = [corner(side), corner(side % 3 === 2 ? side - 2 : side + 1)]
      const [one, other] =
        sides.length === 2 ? [normalOf(sides[0]!), normalOf(sides[1]!)] : [normalOf(side), new Vector3()]
      const together = sides.length === 2 ? one.dot(other) : -1
      if (together > FLAT) continue
      numbers.push(...from.toArray(), ...to.toArray(), ...one.toArray(), ...other.toArray())
      sharp.push(together < EDGE ? 1 : 0)
    }
  }
  return { numbers: Float64Array.from(numbers), sharp: Uint8Array.from(sharp) }
}
