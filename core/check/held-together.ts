import { Box3, Vector3 } from 'three'
import type { CheckSite } from './site'

/** Things that hold each other up are followed as far as this many; more are taken to stand. */
const MOST_TOGETHER = 1000
const DOWN = new Vector3(0, -1, 0)

/** All that hangs together with a thing by touching; null if any of it stands. */
export function heldTogether(site: CheckSite, id: string): ReadonlySet<string> | null {
  const together = new Set([id])
  // The set grows while it is walked.
  for (const at of together) {
    if (together.size > MOST_TOGETHER || standsOnPlane(site, at)) return null
    for (const other of site.touchedBy(at)) {
      if (site.level.arrangementIds.has(other) || site.isGround(other)) return null
      together.add(other)
    }
  }
  return together
}

/** At the height of the ground plane, with nothing that it could have been put on below. */
function standsOnPlane(site: CheckSite, id: string): boolean {
  const { min, max } = site.boxOf(id)
  if (Math.abs(min.y) > site.gap) return false
  site.watch(new Box3(new Vector3(min.x, min.y - 50, min.z), new Vector3(max.x, min.y, max.z)))
  const middle = new Vector3((min.x + max.x) / 2, min.y - 1e-4, (min.z + max.z) / 2)
  const below = site.hit(middle, DOWN, other => other !== id)
  return !below || below.distance > 50
}
