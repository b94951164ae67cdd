import { isMarker } from '../../level/kinds'
import type { CheckDefinition } from '../definition'
import type { CheckSite } from '../site'
import { sweptRoom } from '../sweep'
import { alongWalk, worstOf } from '../walk'

/**
 * Heights above the ground between which things are in the way of a body, in metres: what is lower is stepped over (see
 * the walk check).
 */
const [LOW, HIGH] = [0.35, 1.8]

/** Meshes hold single precision. */
const EXACT = 1e-5

/** Metres that have to be free across a walking line. */
function widthOf(site: CheckSite, id: string): number {
  const { own } = site.level.need(id)
  return isMarker(own) && own.marker === 'walk' ? own.width : 0
}

/** Too narrow for people along a walking line. */
export const narrow: CheckDefinition = {
  name: 'Too narrow to pass',
  severity: 'error',
  explains: 'Along a walking line things to the left and to the right leave less room than its width.',
  limits: {},
  looksAt: 'placement',
  find: (site, id) => {
    const width = widthOf(site, id)
    const places = alongWalk(site, id, width)
    return worstOf(
      id,
      places.slice(1).flatMap(({ foot, aside }, i) => {
        const before = places[i]!.foot
        if (!foot || !before) return []
        const room = sweptRoom(site.index, { from: before, to: foot, aside }, { reach: width, low: LOW, high: HIGH })
        return room < width - EXACT ? [{ amount: room, at: foot }] : []
      }),
      (a, b) => a < b,
    )
  },
  says: ({ things: [id], amount, more }, { name, length }) =>
    `${name(id!)} is ${amount! > 0 ? `only ${length(amount!)} wide` : 'blocked'}${more! > 1 ? `, and too narrow at ${more} places` : ''}`,
}
