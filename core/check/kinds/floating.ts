import { Vector3 } from 'three'
import { movePlacements } from '../../edit/handles/move'
import type { CheckDefinition } from '../definition'
import { FixError } from '../definition'
import { dropOf, lowestOf } from '../drop'
import { heldTogether } from '../held-together'

const DOWN = new Vector3(0, -1, 0)

/** Hangs in the air: it, and all that it touches, touches neither ground nor the ground plane. */
export const floating: CheckDefinition<'gap' | 'below'> = {
  name: 'Floating',
  severity: 'error',
  explains:
    'Touches nothing that stands. Things that touch each other count as one; ground is what is tagged so, and the ground plane where nothing else is below.',
  limits: {
    gap: { label: 'Gap', first: 0.001, quantity: 'length', least: 0 },
    below: { label: 'Look down', first: 50, quantity: 'length', least: 0 },
  },
  looksAt: 'shown',
  byContact: true,
  find: (site, id, limits) => {
    if (site.isGround(id) || site.own(id).length === 0) return []
    const together = heldTogether(site, id)
    if (!together) return []
    const lowest = lowestOf(site, together)
    if (lowest !== id) return []
    const drop = dropOf(site, together, limits.below)
    // What has nothing at all below, and is no higher than the ground plane, is taken for ground itself.
    if (drop === null || drop <= limits.gap) return []
    return [{ things: [id], amount: drop, at: site.middleOf(id), more: together.size }]
  },
  says: ({ things: [id], amount, more = 1 }, { name, length }) =>
    `${name(id!)}${more > 1 ? ` and ${more - 1} more that it touches` : ''}: ${length(amount!)} above what is below`,
  fix: {
    does: 'Set down',
    by: 'operations',
    operations: (site, { things: [id] }, limits) => {
      const together = heldTogether(site, id!)
      const drop = together && dropOf(site, together, limits.below)
      if (!drop) throw new FixError('Nothing is below it.')
      return movePlacements(site.level, together, DOWN.clone().multiplyScalar(drop))
    },
  },
}
