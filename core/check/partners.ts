import type { CheckSite, Neighbour } from './site'
import { scatterOf } from '../scene/scatter-site'

/**
 * What stands around a thing and makes a pair with it: of two placements the one with the smaller id speaks for both;
 * copies of scatters, which grow into things as they like, make none.
 */
export function partnersOf(site: CheckSite, id: string, around = 0): Neighbour[] {
  return site.within(site.boxOf(id).expandByScalar(around), id, other =>
    site.level.arrangementIds.has(other) ? !scatterOf(site.level, other) : other > id,
  )
}

/**
 * The arrangements whose copies may be in those of an arrangement: itself and, of two, the one with the smaller id
 * speaks for both. Scatters have no part in it, nor what is one thing with it.
 */
export function arrangementsAround(site: CheckSite, id: string): string[] {
  const { level, index } = site
  if (scatterOf(level, id) || level.isHidden(id)) return []
  const whole = site.wholeOf(id)
  const found = new Set([id])
  index.near(
    site.boxOf(id),
    () => {},
    other => {
      if (other > id && !found.has(other) && level.arrangementIds.has(other)) {
        if (!scatterOf(level, other) && site.wholeOf(other) !== whole) found.add(other)
      }
      return false
    },
  )
  return [...found]
}

/** The copies of scatters around a thing, by scatter, but for those that lie on it. */
export function scattersAround(site: CheckSite, id: string): Map<string, Neighbour[]> {
  const { level } = site
  const isOn = (scatter: string) =>
    scatterOf(level, scatter)?.on.some(surface => level.has(surface.id) && level.isWithin(id, surface.id)) ?? true
  const found = new Map<string, Neighbour[]>()
  for (const copy of site.within(site.boxOf(id), id, other => level.arrangementIds.has(other) && !isOn(other))) {
    const before = found.get(copy.id)
    if (before) before.push(copy)
    else found.set(copy.id, [copy])
  }
  return found
}
