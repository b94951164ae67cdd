import { Box3, Vector3 } from 'three'
import { nearestToPoint } from '../../mesh/clearance'
import { noneYet } from '../../mesh/triangles'
import { isLight } from '../../level/kinds'
import type { CheckDefinition } from '../definition'

/** A light that nothing is lit by. */
export const idleLight: CheckDefinition = {
  name: 'Light reaches nothing',
  severity: 'warning',
  explains: 'A light without brightness, or with nothing within its range. It costs time in every picture.',
  limits: {},
  looksAt: 'placement',
  find: (site, id) => {
    const { own } = site.level.need(id)
    if (!isLight(own)) return []
    const at = new Vector3().setFromMatrixPosition(site.level.worldMatrix(id))
    const finding = [{ things: [id], amount: null, at: at.toArray() }]
    if (own.intensity === 0) return finding
    // A sun, and a light without an end, reach everything.
    if (own.light === 'sun' || own.range === 0) return []
    const around = new Box3(at.clone().subScalar(own.range), at.clone().addScalar(own.range))
    site.watch(around)
    return site
      .within(around, id)
      .some(({ placed }) => nearestToPoint(at, placed, noneYet(own.range * own.range)).squared < own.range * own.range)
      ? []
      : finding
  },
  says: ({ things: [id] }, { name }) => `${name(id!)} lights nothing`,
}
