import { Box3, Vector3 } from 'three'
import { isMarker } from '../level/kinds'
import type { Found } from './definition'
import type { CheckSite } from './site'

/** Metres between two places that are looked at along a walking line, and the most of them. */
const [EVERY, MOST] = [0.1, 5000]
/** How far above the line, and below where it is looked from, ground is looked for. */
const [ABOVE, BELOW] = [0.6, 3]
const DOWN = new Vector3(0, -1, 0)

/** A place along a walking line: where a foot stands, if there is ground, and the way to its left. */
export type WalkPlace = { foot: Vector3 | null; aside: Vector3 }

/**
 * The places along a walking line, on the ground; none of anything else.
 *
 * @param reach metres to the sides that matter
 */
export function alongWalk(site: CheckSite, id: string, reach: number): WalkPlace[] {
  const { own } = site.level.need(id)
  if (!isMarker(own) || own.marker !== 'walk') return []
  const ends = own.points.map(point => new Vector3(...point).applyMatrix4(site.level.worldMatrix(id)))
  site.watch(new Box3().setFromPoints(ends).expandByVector(new Vector3(reach, BELOW, reach)))
  const length = ends.slice(1).reduce((sum, end, i) => sum + end.distanceTo(ends[i]!), 0)
  const every = Math.max(EVERY, length / MOST)
  return ends.slice(1).flatMap((to, i) => {
    const from = ends[i]!
    const way = to.clone().sub(from)
    const aside = new Vector3(way.z, 0, -way.x).normalize()
    const count = Math.max(1, Math.round(way.length() / every))
    return Array.from({ length: i === 0 ? count + 1 : count }, (_, k) => {
      const place = from.clone().addScaledVector(way, (i === 0 ? k : k + 1) / count)
      const hit = site.hit(place.clone().setY(place.y + ABOVE), DOWN)
      return { foot: hit && hit.distance < ABOVE + BELOW ? hit.point : null, aside }
    })
  })
}

/** The worst of what was found along a line, as its one finding. */
export function worstOf(
  id: string,
  places: readonly { amount: number; at: Vector3 }[],
  isWorse: (a: number, b: number) => boolean,
): Found[] {
  if (places.length === 0) return []
  const worst = places.reduce((one, other) => (isWorse(other.amount, one.amount) ? other : one))
  return [{ things: [id], amount: worst.amount, at: worst.at.toArray(), more: places.length }]
}
