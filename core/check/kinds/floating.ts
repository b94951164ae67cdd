import { Box3, Vector3 } from 'three'
import { movePlacements } from '../../edit/handles/move'
import { dropOnto } from '../../mesh/overlap'
import type { CheckDefinition, Limits } from '../definition'
import { FixError } from '../definition'
import { heldTogether } from '../held-together'
import type { CheckSite } from '../site'

const DOWN = new Vector3(0, -1, 0)

/** Hangs in the air: it, and all that it touches, touches neither ground nor the ground plane. */
export const floating: CheckDefinition<'gap' | 'below'> = {
  name: 'Floating',
  severity: 'error',
  explains: 'Touches nothing that stands. Things that touch each other count as one; ground is what is tagged so, and the ground plane where nothing else is below.',
  limits: { gap: { label: 'Gap', first: 0.005, quantity: 'length', least: 0 }, below: { label: 'Look down', first: 50, quantity: 'length', least: 0 } },
  looksAt: 'shown',
  byContact: true,
  find: (site, id, limits) => {
    if (site.isGround(id) || site.own(id).length === 0) return []
    const together = heldTogether(site, id)
    if (!together) return []
    const lowest = lowestOf(site, together)
    if (lowest !== id) return []
    const drop = dropOf(site, together, limits)
    // What has nothing at all below, and is no higher than the ground plane, is taken for ground itself.
    if (drop === null || drop <= limits.gap) return []
    return [{ things: [id], amount: drop, at: site.middleOf(id), more: together.size }]
  },
  says: ({ things: [id], amount, more = 1 }, { name, length }) => `${name(id!)}${more > 1 ? ` and ${more - 1} more that it touches` : ''}: ${length(amount!)} above what is below`,
  fix: {
    does: 'Set down', by: 'operations',
    operations: (site, { things: [id] }, limits) => {
      const together = heldTogether(site, id!)
      const drop = together && dropOf(site, together, limits)
      if (!drop) throw new FixError('Nothing is below it.')
      return movePlacements(site.level, together, DOWN.clone().multiplyScalar(drop))
    },
  },
}

function lowestOf(site: CheckSite, ids: ReadonlySet<string>): string {
  let best = { id: '', low: Infinity }
  for (const id of ids) {
    const low = site.boxOf(id).min.y
    if (low < best.low - 1e-9 || Math.abs(low - best.low) <= 1e-9 && id < best.id) best = { id, low }
  }
  return best.id
}

/** How far things would fall together, by their triangles: onto what is below, or the ground plane; null if onto nothing. */
function dropOf(site: CheckSite, ids: ReadonlySet<string>, { below }: Limits<'below'>): number | null {
  let drop = Infinity
  for (const id of ids) {
    const box = site.boxOf(id)
    const column = new Box3(new Vector3(box.min.x, box.min.y - below, box.min.z), new Vector3(box.max.x, box.max.y, box.max.z))
    site.watch(column)
    for (const other of site.within(column, id)) {
      if (ids.has(other.id)) continue
      for (const own of site.own(id)) drop = Math.min(drop, dropOnto(own, other.placed) ?? Infinity)
    }
    if (box.min.y > 0) drop = Math.min(drop, box.min.y)
  }
  return drop === Infinity ? null : drop
}
