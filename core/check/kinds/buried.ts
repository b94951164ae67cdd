import { Box3, Vector3 } from 'three'
import { movePlacements } from '../../edit/handles/move'
import { isInside } from '../../mesh/overlap'
import type { CheckDefinition } from '../definition'
import { FixError } from '../definition'
import type { CheckSite } from '../site'
import { heldTogether } from '../held-together'

/** How far above and below ground is looked for, in metres. */
const FAR = 50
const [UP, DOWN] = [new Vector3(0, 1, 0), new Vector3(0, -1, 0)]

/** Sunk into the ground, or under it with nothing below. */
export const buried: CheckDefinition<'share'> = {
  name: 'Buried',
  severity: 'error',
  explains: 'More of its height is in the ground, or under it with nothing below, than the share that may be.',
  limits: { share: { label: 'Share of height', first: 0.5, quantity: 'factor', least: 0, most: 1 } },
  looksAt: 'shown',
  byContact: true,
  find: (site, id, { share }) => {
    if (site.isGround(id)) return []
    const depth = depthInGround(site, id)
    const box = site.boxOf(id)
    return depth === null || depth <= share * (box.max.y - box.min.y)
      ? []
      : [{ things: [id], amount: depth, at: site.middleOf(id) }]
  },
  says: ({ things: [id], amount }, { name, length }) => `${name(id!)} is ${length(amount!)} in the ground`,
  fix: {
    does: 'Lift out',
    by: 'operations',
    operations: (site, { things: [id] }) => {
      const depth = depthInGround(site, id!)
      if (depth === null) throw new FixError('No ground is above it.')
      return movePlacements(site.level, [id!], UP.clone().multiplyScalar(depth))
    },
  },
}

/** How deep a thing's lowest point is below the ground over its middle; null if that is not in the ground. */
function depthInGround(site: CheckSite, id: string): number | null {
  const box = site.boxOf(id)
  if (box.isEmpty()) return null
  const middle = box.getCenter(new Vector3())
  const column = new Box3(
    new Vector3(middle.x, box.min.y - FAR, middle.z),
    new Vector3(middle.x, box.max.y + FAR, middle.z),
  )
  const grounds = site
    .within(column, id)
    .filter(({ id: other, box: its }) => its.max.y > box.min.y && site.isGround(other))
  if (grounds.length === 0) return null
  site.watch(column)
  // Nothing below, and not what hangs together with the ground, such as a wall under paving.
  const isLost = () =>
    !site.hit(new Vector3(middle.x, box.min.y + 1e-4, middle.z), DOWN, other => other !== id)
    && heldTogether(site, id) !== null
  let top: number | null = null
  for (const { id: ground, placed, box: its } of grounds) {
    const hit = site.hit(new Vector3(middle.x, its.max.y + 1, middle.z), DOWN, other => other === ground)
    if (!hit || hit.point.y <= box.min.y) continue
    const low = new Vector3(middle.x, box.min.y + 1e-4, middle.z)
    if (isInside(low, placed) || isLost()) top = Math.max(top ?? -Infinity, hit.point.y)
  }
  return top === null ? null : top - box.min.y
}
