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
