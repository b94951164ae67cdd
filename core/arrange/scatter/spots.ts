import type { Facets } from './facets'
import type { Spot } from './limits/limit'

type Mutable<T> = {
  -readonly [K in keyof T]: T[K] extends readonly [number, number, number] ? [number, number, number] : T[K]
}
/** One to be written into. */
export const freshSpot = (): Mutable<Spot> => ({ x: 0, y: 0, z: 0, normal: [0, 1, 0], own: [0, 0, 0] })

/** Writes what limits look at of a place on a facet. */
export function spotAt(
  { normals, surface, frames }: Facets,
  facet: number,
  x: number,
  y: number,
  z: number,
  target: Spot,
): Spot {
  const to = target as Mutable<Spot>
  to.x = x
  to.y = y
  to.z = z
  for (let k = 0; k < 3; k++) to.normal[k as 0 | 1 | 2] = normals[facet * 3 + k]!
  const e = frames[surface[facet]!]!.toOwn
  for (let k = 0; k < 3; k++) to.own[k as 0 | 1 | 2] = e[k]! * x + e[4 + k]! * y + e[8 + k]! * z + e[12 + k]!
  return to
}
