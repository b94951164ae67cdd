import type { CheckDefinition } from '../definition'
import { alongWalk, worstOf } from '../walk'

/** Meshes hold single precision. */
const EXACT = 1e-5

/** A step along a walking line that is higher than a riser may be. */
export const stepTooHigh: CheckDefinition<'riser'> = {
  name: 'Step too high',
  severity: 'error',
  explains:
    'Along a walking line the ground rises or falls at once by more than a riser may have (178 mm: International Building Code 2021, 1011.5.2).',
  limits: { riser: { label: 'Highest riser', first: 0.178, quantity: 'length', least: 0.01 } },
  looksAt: 'placement',
  find: (site, id, { riser }) => {
    const places = alongWalk(site, id, 1)
    return worstOf(
      id,
      places.slice(1).flatMap(({ foot }, i) => {
        const before = places[i]!.foot
        const rise = foot && before ? Math.abs(foot.y - before.y) : 0
        return foot && rise > riser + EXACT ? [{ amount: rise, at: foot }] : []
      }),
      (a, b) => a > b,
    )
  },
  says: ({ things: [id], amount, more }, { name, length }) =>
    `${name(id!)} has a step of ${length(amount!)}${more! > 1 ? `, and ${more} steps too high` : ''}`,
}
