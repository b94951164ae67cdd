import { Vector3 } from 'three'
import { isMarker } from '../../level/kinds'
import type { CheckDefinition } from '../definition'
import type { CheckSite } from '../site'
import { alongWalk, worstOf } from '../walk'

/** Heights above the ground at which it is looked to the sides, in metres: knees, hips and shoulders. */
const HEIGHTS = [0.4, 0.9, 1.4]

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
  find: (site, id) => worstOf(id, alongWalk(site, id, widthOf(site, id)).flatMap(({ foot, aside }) => {
    if (!foot) return []
    const room = Math.min(...HEIGHTS.map((height) => {
      const from = new Vector3(foot.x, foot.y + height, foot.z)
      const [left, right] = [aside, aside.clone().negate()].map(way => site.hit(from.clone(), way)?.distance ?? Infinity)
      return left! + right!
    }))
    return room < widthOf(site, id) - EXACT ? [{ amount: room, at: foot }] : []
  }), (a, b) => a < b),
  says: ({ things: [id], amount, more }, { name, length }) => `${name(id!)} is only ${length(amount!)} wide${more! > 1 ? `, and too narrow at ${more} places` : ''}`,
}
