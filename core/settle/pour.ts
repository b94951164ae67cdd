import { Euler, Quaternion } from 'three'
import { Pcg32 } from '../math/random'
import type { Quat, Vec3 } from '../math/vectors'

/** Where one of those that are poured begins to fall, and which of the mix it is. */
export type Poured = { which: number; translation: Vec3; rotation: Quat }

/**
 * Where things begin that are poured into a circle: in layers one above the other, none within another, turned at odds
 * by chance. The same seed gives the same.
 *
 * @param sizes how far each of the mix reaches across, in metres @param weights how often each comes, against the
 *   others
 * @param base the height that the lowest layer begins above
 */
export function pourPlaces(
  {
    x,
    z,
    base,
    radius,
    count,
    seed,
  }: { x: number; z: number; base: number; radius: number; count: number; seed: number },
  sizes: readonly number[],
  weights: readonly number[],
): Poured[] {
  const chance = new Pcg32([0, seed], [0, 54])
  const pitch = Math.max(...sizes, 0.01) * 1.05
  const places = inCircle(Math.max(radius - pitch / 2, 0), pitch)
  const all = weights.reduce((sum, weight) => sum + weight, 0)
  return Array.from({ length: count }, (_, i) => {
    const [px, pz] = places[i % places.length]!
    const layer = Math.floor(i / places.length)
    let left = chance.share() * all
    const which = Math.max(
      weights.findIndex(weight => (left -= weight) < 0),
      0,
    )
    const turn = new Quaternion().setFromEuler(
      new Euler(chance.share() * Math.PI * 2, chance.share() * Math.PI * 2, chance.share() * Math.PI * 2),
    )
    // The layers are turned against each other, so that nothing falls straight onto the one below.
    const angle = layer * 2.399963
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
    return {
      which,
      translation: [x + px * cos - pz * sin, base + (layer + 0.5) * pitch, z + px * sin + pz * cos],
      rotation: turn.toArray() as Quat,
    }
  })
}

/** Places within a circle that are so far apart, in staggered rows, the middle first. */
function inCircle(radius: number, pitch: number): [number, number][] {
  const rows = Math.floor(radius / ((pitch * Math.sqrt(3)) / 2))
  const found: [number, number][] = []
  for (let row = -rows; row <= rows; row++) {
    const z = (row * pitch * Math.sqrt(3)) / 2
    const shift = row % 2 === 0 ? 0 : pitch / 2
    const columns = Math.ceil(radius / pitch) + 1
    for (let column = -columns; column <= columns; column++) {
      const x = column * pitch + shift
      if (x * x + z * z <= radius * radius + 1e-9) found.push([x, z])
    }
  }
  return found.length === 0 ? [[0, 0]] : found.sort(([a, b], [c, d]) => a * a + b * b - c * c - d * d)
}
