import { Vector3 } from 'three'
import { movePlacements } from '../../edit/handles/move'
import { overlapOf } from '../../mesh/overlap'
import type { CheckDefinition, Limits } from '../definition'
import { FixError } from '../definition'
import type { CheckSite } from '../site'
import { LET_IN } from '../site'
import { partnersOf } from '../partners'
import { isTwice } from './twice'

/** Two things in one space, by their triangles. What is in one closed group, or hangs from the other, is one thing. */
export const overlapping: CheckDefinition<'depth' | 'intoGround'> = {
  name: 'Overlapping',
  severity: 'warning',
  explains:
    'Two things take the same space, deeper than may be. How deep is how far one has to be moved along one of its axes to be free. Things that hang from each other or are in one closed group are one; copies are looked at against things here; copies in each other, and scattered ones, are kinds of their own.',
  limits: {
    depth: { label: 'Depth', first: 0.02, quantity: 'length', least: 0.00001 },
    intoGround: { label: 'Into ground', first: 0.2, quantity: 'length', least: 0.00001 },
  },
  looksAt: 'shown',
  find: (site, id, limits) => {
    const whole = site.wholeOf(id)
    const deepest = new Map<string, { depth: number; count: number }>()
    for (const other of partnersOf(site, id)) {
      if (site.wholeOf(other.id) === whole || isTwice(site, id, other)) continue
      const least = allowed(site, id, other.id, limits)
      for (const own of site.own(id)) {
        const overlap = least < LET_IN ? overlapOf(own, other.placed, least) : site.overlap(own, other.placed)
        if (!overlap || overlap.depth <= least) continue
        const { depth, count } = deepest.get(other.id) ?? { depth: 0, count: 0 }
        deepest.set(other.id, { depth: Math.max(depth, overlap.depth), count: count + 1 })
      }
    }
    return [...deepest].map(([other, { depth, count }]) => ({
      things: [id, other],
      amount: depth,
      at: site.middleOf(id),
      more: count,
    }))
  },
  says: ({ things: [id, other], amount, more = 1 }, { name, length }) =>
    `${name(id!)} and ${more > 1 ? `${more} copies of ` : ''}${name(other!)} are ${length(amount!)} deep in each other`,
  fix: {
    does: 'Move apart',
    by: 'operations',
    operations: (site, { things: [id, other] }) => {
      const [mover, stays] = moverOf(site, id!, other!)
      const [owns, others] = [site.own(mover), site.own(stays)]
      let best = null
      for (const a of owns)
        for (const b of others) {
          const overlap = overlapOf(a, b)
          if (overlap && (!best || overlap.depth > best.depth)) best = overlap
        }
      if (!best) throw new FixError('They do not overlap any more.')
      return movePlacements(site.level, [mover], best.way.clone().multiplyScalar(best.depth))
    },
    // Level out of each other's boxes, the shortest way first.
    otherwise: (site, { things: [id, other] }) => {
      const [mover, stays] = moverOf(site, id!, other!)
      const [box, its] = [site.boxOf(mover), site.boxOf(stays)]
      const ways = [
        new Vector3(its.max.x - box.min.x, 0, 0),
        new Vector3(its.min.x - box.max.x, 0, 0),
        new Vector3(0, 0, its.max.z - box.min.z),
        new Vector3(0, 0, its.min.z - box.max.z),
      ]
      return ways.sort((a, b) => a.length() - b.length()).map(way => movePlacements(site.level, [mover], way))
    },
  },
}

function allowed(site: CheckSite, a: string, b: string, { depth, intoGround }: Limits<'depth' | 'intoGround'>): number {
  return site.isGround(a) || site.isGround(b) ? Math.max(depth, intoGround) : depth
}

/** What is moved: no ground, no arrangement, nothing locked; of two that may be, the smaller. */
function moverOf(site: CheckSite, a: string, b: string): [string, string] {
  const may = (id: string) => !site.level.arrangementIds.has(id) && !site.level.isLocked(id) && !site.isGround(id)
  const volume = (id: string) => {
    const { x, y, z } = site.boxOf(id).getSize(site.boxOf(id).min.clone())
    return x * y * z
  }
  if (may(a) && may(b)) return volume(a) <= volume(b) ? [a, b] : [b, a]
  if (may(a)) return [a, b]
  if (may(b)) return [b, a]
  throw new FixError('Both are ground, locked, or an arrangement.')
}
