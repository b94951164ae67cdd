import { Vector3 } from 'three'
import type { Positions, Primitive } from './mesh'

/** What a mesh's triangles offer to snap to besides their corners; by triangle of one primitive. */
export type Features = {
  /** Bit n is set if the side from corner n to the next is an edge of the shape, not a line within a face. */
  edges: Uint8Array
  /** Which flat face each triangle is part of. */
  faces: Int32Array
  /** The middle of each face: of its area, not of its corners. */
  middles: Vector3[]
}

/** Two triangles that meet at a smaller angle are on one flat face. */
const FLAT = Math.cos((1 * Math.PI) / 180)
/** Where they meet at a larger one is an edge of the shape. */
const EDGE = Math.cos((20 * Math.PI) / 180)

const known = new WeakMap<Primitive, Features>()

/** The edges and faces of a primitive, worked out once. */
export function featuresOf(primitive: Primitive): Features {
  let features = known.get(primitive)
  if (!features) known.set(primitive, (features = findFeatures(primitive)))
  return features
}

function findFeatures({ positions, indices }: Primitive): Features {
  const count = indices.length / 3
  const corner = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3)
  const normals: Vector3[] = []
  const areas: number[] = []
  const centres: Vector3[] = []
  for (let t = 0; t < count; t++) {
    const [a, b, c] = [corner(t * 3), corner(t * 3 + 1), corner(t * 3 + 2)]
    centres.push(a.clone().add(b).add(c).divideScalar(3))
    const normal = b.sub(a).cross(c.sub(a))
    areas.push(normal.length())
    normals.push(normal.normalize())
  }
  const edges = new Uint8Array(count)
  const group = Int32Array.from({ length: count }, (_, t) => t)
  const find = (t: number): number => {
    while (group[t] !== t) t = group[t] = group[group[t]!]!
    return t
  }
  for (const sides of sidesByPlace(positions, indices).values()) {
    const [first, second] = sides
    const together = sides.length === 2 ? normals[Math.floor(first! / 3)]!.dot(normals[Math.floor(second! / 3)]!) : -1
    if (together < EDGE) for (const side of sides) edges[Math.floor(side / 3)]! |= 1 << side % 3
    if (together > FLAT) group[find(Math.floor(first! / 3))] = find(Math.floor(second! / 3))
  }
  const number = new Map<number, number>()
  const sums: { middle: Vector3; area: number }[] = []
  const faces = group.map((_, t) => {
    const root = find(t)
    let face = number.get(root)
    if (face === undefined) {
      number.set(root, (face = sums.length))
      sums.push({ middle: new Vector3(), area: 0 })
    }
    sums[face]!.middle.addScaledVector(centres[t]!, areas[t]!)
    sums[face]!.area += areas[t]!
    return face
  })
  return { edges, faces, middles: sums.map(({ middle, area }) => middle.divideScalar(area || 1)) }
}

/** A coordinate as single precision has it; next to 0 that would tell apart what is a rounding away from it. */
const tidyPlace = (value: number) => (Math.abs(value) < 1e-9 ? 0 : Math.fround(value))

/**
 * The sides that lie at the same place, whichever way they run: three times the triangle plus the corner they start
 * from.
 */
export function sidesByPlace(positions: Positions, indices: Uint32Array): Map<string, number[]> {
  const numbers = new Map<string, number>()
  const placeNumber = (vertex: number) => {
    // What differs by rounding alone is one place.
    const key = [0, 1, 2].map(axis => tidyPlace(positions[vertex * 3 + axis]!)).join(' ')
    let number = numbers.get(key)
    if (number === undefined) numbers.set(key, (number = numbers.size))
    return number
  }
  const sides = new Map<string, number[]>()
  for (let i = 0; i < indices.length; i++) {
    const next = i % 3 === 2 ? i - 2 : i + 1
    const [a, b] = [placeNumber(indices[i]!), placeNumber(indices[next]!)]
    const key = a < b ? `${a} ${b}` : `${b} ${a}`
    const list = sides.get(key)
    if (list) list.push(i)
    else sides.set(key, [i])
  }
  return sides
}
