import { Vector3 } from 'three'
import type { CheckDefinition } from '../definition'
import { alongWalk, worstOf } from '../walk'

/** Heights above the ground at which it is looked to the sides, in metres: knees, hips and shoulders. */
const HEIGHTS = [0.4, 0.9, 1.4]

/** Meshes hold single precision. */
const EXACT = 1e-5

/** Too narrow for people along a walking line. */
export const narrow: CheckDefinition<'width'> = {
  name: 'Too narrow to pass',
  severity: 'error',
  explains: 'Along a walking line things to the left and to the right leave less room than people need.',
  limits: { width: { label: 'Least width', first: 0.9, quantity: 'length', least: 0.1 } },
  looksAt: 'measure',
  find: (site, id, { width }) => worstOf(id, alongWalk(site, id, width).flatMap(({ foot, aside }) => {
    if (!foot) return []
    const room = Math.min(...HEIGHTS.map((height) => {
      const from = new Vector3(foot.x, foot.y + height, foot.z)
      const [left, right] = [aside, aside.clone().negate()].map(way => site.hit(from.clone(), way)?.distance ?? Infinity)
      return left! + right!
    }))
    return room < width - EXACT ? [{ amount: room, at: foot }] : []
  }), (a, b) => a < b),
  says: ({ things: [id], amount, more }, { name, length }) => `${name(id!)} is only ${length(amount!)} wide${more! > 1 ? `, and too narrow at ${more} places` : ''}`,
}
