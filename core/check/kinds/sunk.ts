import { Vector3 } from 'three'
import { movePlacements } from '../../edit/handles/move'
import type { CheckDefinition } from '../definition'
import { FixError } from '../definition'
import type { CheckSite } from '../site'

const [UP, DOWN] = [new Vector3(0, 1, 0), new Vector3(0, -1, 0)]
/** Of its height: what is deeper in the ground is buried. */
const MOST = 0.5

/** Stands a little too low: its lowest points are in the ground. */
export const sunk: CheckDefinition<'depth'> = {
  name: 'Sunk',
  severity: 'warning',
  explains:
    'Its lowest points are under the ground there, or under the ground plane where there is none. On a slope one side may be in it, and in water things lie deeper. What is deeper is buried.',
  limits: { depth: { label: 'Depth', first: 0.001, quantity: 'length', least: 0 } },
  looksAt: 'shown',
  find: (site, id, { depth: least }) => {
    const depth = depthOf(site, id)
    return depth === null || depth <= least + CRUMB ? [] : [{ things: [id], amount: depth, at: site.middleOf(id) }]
  },
  says: ({ things: [id], amount }, { name, length }) => `${name(id!)} is ${length(amount!)} in the ground`,
  fix: {
    does: 'Lift onto it',
    by: 'operations',
    operations: (site, { things: [id] }) => {
      const depth = depthOf(site, id!)
      if (depth === null) throw new FixError('It is not in the ground any more.')
      return movePlacements(site.level, [id!], UP.clone().multiplyScalar(depth))
    },
  },
}

/** Single precision of meshes; and points this near to the lowest are as low. */
const [CRUMB, ONE_HEIGHT] = [1e-5, 0.002]

/** How far the middle of a thing's lowest points is under the ground; null if it is not, or if that is most of it. */
function depthOf(site: CheckSite, id: string): number | null {
  if (site.isGround(id) || site.own(id).length === 0) return null
  const lowest = site.index.extents.extreme([id], DOWN)
  if (!lowest) return null
  const { middle: foot } = lowest
  const { min, max } = site.boxOf(id)
  const half = (max.y - min.y) * MOST
  const isSolid = (other: string) => other !== id && site.isGround(other) && !site.partOf(other)?.tags.includes('water')
  /** How far a point is under the ground over it. */
  const under = (point: Vector3) => {
    const hit = site.hit(new Vector3(point.x, min.y + half + CRUMB, point.z), DOWN, isSolid)
    if (hit) return hit.point.y - point.y
    return max.y > 0 && !site.hit(new Vector3(point.x, min.y + half + CRUMB, point.z), DOWN, other => other !== id)
      ? -point.y
      : 0
  }
  if (under(foot) <= CRUMB) return null
  // All of its lowest points: on a slope some are in the ground, as they have to be.
  const lowestPoints = site.index.extents.underside([id], UP).filter(point => point.y < min.y + ONE_HEIGHT)
  const depth = Math.min(under(foot), ...lowestPoints.map(under))
  return depth > 0 && depth <= half ? depth : null
}
