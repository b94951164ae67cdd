import { halves } from './area'
import type { Facets } from './facets'
import type { Spot } from './limits/limit'
import type { Region } from './region'
import { freshSpot, spotAt } from './spots'

/** Triangles that a tint is drawn with, about. */
const TINTED = 6000

/**
 * Triangles over facets, and at each corner how much is let through; those beside all areas are left out.
 *
 * @param share of a place, below 0 where it is beside the areas
 */
export function tintOver(
  facets: Facets,
  region: Region,
  share: (spot: Spot, facet: number) => number,
): { positions: Float32Array; through: Float32Array } {
  const bounded = region.plan(0)
  const whole = facets.areas.reduce((sum, each) => sum + each, 0)
  const fine =
    (bounded ? Math.min(whole, (bounded.maxX - bounded.minX) * (bounded.maxZ - bounded.minZ)) : whole) / TINTED
  const [positions, through]: [number[], number[]] = [[], []]
  const spot = freshSpot()
  const world = (c: readonly number[], k: number, f: number): [number, number, number] => {
    const e = facets.frames[facets.surface[f]!]!.rigid
    return [0, 1, 2].map(a => e[a]! * c[k]! + e[4 + a]! * c[k + 1]! + e[8 + a]! * c[k + 2]! + e[12 + a]!) as [
      number,
      number,
      number,
    ]
  }
  const visit = (c: readonly number[], size: number, f: number): void => {
    if (size > fine) {
      if (bounded) {
        const middle = world(
          [0, 1, 2].map(k => (c[k]! + c[3 + k]! + c[6 + k]!) / 3),
          0,
          f,
        )
        if (
          region.inwards(...middle)
          < -Math.hypot(
            ...[0, 1, 2].map(k => Math.max(c[k]!, c[3 + k]!, c[6 + k]!) - Math.min(c[k]!, c[3 + k]!, c[6 + k]!)),
          )
        )
          return
      }
      for (const half of halves(c)) visit(half, size / 2, f)
      return
    }
    const corners = [0, 3, 6].map(k => world(c, k, f))
    const shares = corners.map(([x, y, z]) => share(spotAt(facets, f, x, y, z, spot), f))
    if (shares.every(value => value < 0)) return
    corners.forEach((corner, k) => {
      positions.push(...corner)
      through.push(Math.max(shares[k]!, 0))
    })
  }
  for (let f = 0; f < facets.count; f++) visit([...facets.corners.subarray(f * 9, f * 9 + 9)], facets.areas[f]!, f)
  return { positions: Float32Array.from(positions), through: Float32Array.from(through) }
}
