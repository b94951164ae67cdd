import type { Facets } from './facets'
import type { Region } from './region'

/** Of the whole: pieces at an edge of the areas are halved down to this. */
const FINE = 1 / 4_000_000
/** The same where only some of a surface is seen from above. */
const COARSE = 1 / 20_000

/**
 * Square metres of the facets that are within the areas and seen: exact where both hold for whole triangles, else by
 * halving them.
 *
 * @param seen whether a place is; null if all are
 */
export function areaOf(
  facets: Facets,
  region: Region,
  seen: ((x: number, y: number, z: number) => boolean) | null,
): number {
  const whole = facets.areas.reduce((sum, area) => sum + area, 0)
  if (region.isEmpty && !seen) return whole
  const bounded = region.plan(0)
  let sum = 0
  const visit = (c: readonly number[], area: number, facet: number, inside: boolean): void => {
    const e = facets.frames[facets.surface[facet]!]!.rigid
    const [u, v, w] = [0, 1, 2].map(k => (c[k]! + c[3 + k]! + c[6 + k]!) / 3) as [number, number, number]
    const x = e[0]! * u + e[4]! * v + e[8]! * w + e[12]!
    const y = e[1]! * u + e[5]! * v + e[9]! * w + e[13]!
    const z = e[2]! * u + e[6]! * v + e[10]! * w + e[14]!
    let within = inside
    if (!within) {
      const size = Math.sqrt(
        Math.max(...[0, 3, 6].map(k => (c[k]! - u) ** 2 + (c[k + 1]! - v) ** 2 + (c[k + 2]! - w) ** 2)),
      )
      const inwards = region.inwards(x, y, z)
      if (inwards < -size) return
      within = inwards > size
      if (!within && area < unit * FINE) {
        if (inwards >= 0 && (!seen || seen(x, y, z))) sum += area
        return
      }
    }
    if (within && (!seen || area < unit * COARSE)) {
      if (!seen || seen(x, y, z)) sum += area
      return
    }
    for (const half of halves(c)) visit(half, area / 2, facet, within)
  }
  // Of a wide ground plane only what the areas cover counts.
  const unit = bounded ? Math.min(whole, (bounded.maxX - bounded.minX) * (bounded.maxZ - bounded.minZ)) : whole
  for (let f = 0; f < facets.count; f++)
    visit([...facets.corners.subarray(f * 9, f * 9 + 9)], facets.areas[f]!, f, region.isEmpty)
  return sum
}

/** Both halves of a triangle, nine numbers each, cut through its longest side. */
export function halves(c: readonly number[]): [number[], number[]] {
  const square = (p: number, q: number) =>
    (c[p]! - c[q]!) ** 2 + (c[p + 1]! - c[q + 1]!) ** 2 + (c[p + 2]! - c[q + 2]!) ** 2
  const [ab, bc, ca] = [square(0, 3), square(3, 6), square(6, 0)]
  const first = ab >= bc && ab >= ca ? 0 : bc >= ca ? 3 : 6
  const [a, b, d] = [0, 3, 6].map(k => c.slice((first + k) % 9, ((first + k) % 9) + 3)) as [
    number[],
    number[],
    number[],
  ]
  const middle = a.map((value, k) => (value + b[k]!) / 2)
  return [
    [...a, ...middle, ...d],
    [...middle, ...b, ...d],
  ]
}
