import { Vector3 } from 'three'
import { featuresOf, sidesByPlace } from './features'
import type { Solid } from './solid'

/** Triangles that make up a face, and the sides around it, in the mesh's own axes. */
export type FlatFace = { triangles: [Vector3, Vector3, Vector3][]; outline: [Vector3, Vector3][] }

/**
 * The flat face of a mesh that a point is on, or is nearest to.
 *
 * @param connected with all faces that it goes over into without an edge of the shape between
 */
export function flatFaceAt(solid: Solid, point: Vector3, connected: boolean): FlatFace {
  let nearest = { distance: Infinity, primitive: 0, triangle: 0 }
  solid.trees.forEach((tree, primitive) => {
    const hit = tree.closestPointToPoint(point)
    if (hit && hit.distance < nearest.distance) nearest = { distance: hit.distance, primitive, triangle: hit.faceIndex }
  })
  const { positions, indices } = solid.mesh.primitives[nearest.primitive]!
  const { faces, edges } = featuresOf(solid.mesh.primitives[nearest.primitive]!)
  const sides = sidesByPlace(positions, indices)
  const members = new Set(
    Array.from(faces, (_, triangle) => triangle).filter(triangle => faces[triangle] === faces[nearest.triangle]),
  )
  if (connected) {
    const neighbours = new Map<number, number[]>()
    for (const list of sides.values()) {
      for (const side of list)
        if (!(edges[Math.floor(side / 3)]! & (1 << side % 3)))
          neighbours.set(Math.floor(side / 3), [
            ...(neighbours.get(Math.floor(side / 3)) ?? []),
            ...list.map(other => Math.floor(other / 3)),
          ])
    }
    // The set grows while it is walked.
    for (const triangle of members) for (const next of neighbours.get(triangle) ?? []) members.add(next)
  }
  const corner = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3)
  return {
    triangles: [...members].map(triangle => [corner(triangle * 3), corner(triangle * 3 + 1), corner(triangle * 3 + 2)]),
    outline: [...sides.values()].flatMap((list): [Vector3, Vector3][] => {
      const inside = list.filter(side => members.has(Math.floor(side / 3)))
      return inside.length === 1
        ? [[corner(inside[0]!), corner(inside[0]! % 3 === 2 ? inside[0]! - 2 : inside[0]! + 1)]]
        : []
    }),
  }
}
