import { Box3, CylinderGeometry, Matrix4, Vector3 } from 'three'
import { movePlacements } from '../../edit/handles/move'
import { MeshBuilder } from '../../mesh/mesh-builder'
import { overlapOf } from '../../mesh/overlap'
import { Placed } from '../../mesh/placed'
import { Solid } from '../../mesh/solid'
import { isMarker } from '../../level/kinds'
import type { CheckDefinition } from '../definition'
import { FixError } from '../definition'
import type { CheckSite } from '../site'

/** Below this a body's edge may brush things: a kerb is stepped over. In metres. */
const FOOTROOM = 0.3
const DOWN = new Vector3(0, -1, 0)

/** A place to come in at where nobody can stand. */
export const spawnBlocked: CheckDefinition<'drop' | 'headroom' | 'radius'> = {
  name: 'No room to come in',
  severity: 'error',
  explains: 'A marker to come in at with no ground under it, or with something where a body has to be.',
  limits: {
    drop: { label: 'Ground within', first: 0.3, quantity: 'length', least: 0 },
    headroom: { label: 'Headroom', first: 1.9, quantity: 'length', least: 0.5 },
    radius: { label: 'Room around', first: 0.35, quantity: 'length', least: 0.05 },
  },
  looksAt: 'placement',
  find: (site, id, limits) => {
    const { own } = site.level.need(id)
    if (!isMarker(own) || own.marker !== 'spawn') return []
    const foot = new Vector3().setFromMatrixPosition(site.level.worldMatrix(id))
    site.watch(
      new Box3(
        foot.clone().sub(new Vector3(limits.radius, 50, limits.radius)),
        foot.clone().add(new Vector3(limits.radius, limits.headroom, limits.radius)),
      ),
    )
    const ground = groundBelow(site, foot)
    if (ground === null || foot.y - ground > limits.drop)
      return [{ things: [id], amount: ground === null ? null : foot.y - ground, at: foot.toArray() }]
    const body = bodyAt(foot, limits)
    for (const other of site.within(body.bounds(), id)) {
      const overlap = overlapOf(body, other.placed)
      if (overlap) return [{ things: [id, other.thing], amount: overlap.depth, at: foot.toArray() }]
    }
    return []
  },
  says: ({ things: [id, other], amount }, { name, length }) =>
    other
      ? `${name(id!)}: ${name(other)} is ${length(amount!)} in the way`
      : `${name(id!)}: ${amount === null ? 'no ground below' : `the ground is ${length(amount)} below`}`,
  fix: {
    does: 'Set on the ground',
    by: 'operations',
    operations: (site, { things: [id, other] }) => {
      if (other) throw new FixError('Something is in the way: move one of them.')
      const foot = new Vector3().setFromMatrixPosition(site.level.worldMatrix(id!))
      const ground = groundBelow(site, foot)
      if (ground === null) throw new FixError('No ground is below it.')
      return movePlacements(site.level, [id!], new Vector3(0, ground - foot.y, 0))
    },
  },
}

function groundBelow(site: CheckSite, foot: Vector3): number | null {
  const hit = site.hit(foot.clone().setY(foot.y + FOOTROOM), DOWN)
  return hit && hit.distance < 50 ? hit.point.y : null
}

/** A body of 1 m by 1 m, to be sized; a prism of sixteen sides around a circle. */
const body = new Solid(
  new MeshBuilder()
    .add(
      { name: 'Body', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] },
      new CylinderGeometry(1, 1, 1, 16),
    )
    .build(),
)

function bodyAt({ x, y, z }: Vector3, { headroom, radius }: { headroom: number; radius: number }): Placed {
  return new Placed(
    body,
    new Matrix4().makeTranslation(x, y + FOOTROOM, z).scale(new Vector3(radius, headroom - FOOTROOM, radius)),
  )
}
