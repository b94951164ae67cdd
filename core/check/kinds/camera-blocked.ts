import { Box3, Vector3 } from 'three'
import { nearestToPoint } from '../../mesh/clearance'
import { isInside } from '../../mesh/overlap'
import type { CheckDefinition } from '../definition'

/** A camera within a thing, or so near to a face that it looks through it. */
export const cameraBlocked: CheckDefinition<'near'> = {
  name: 'Camera in a thing',
  severity: 'error',
  explains: 'A camera is inside a thing, or nearer to a face than may be: its picture shows the inside or is cut open.',
  limits: { near: { label: 'Nearest', first: 0.1, quantity: 'length', least: 0 } },
  looksAt: 'placement',
  find: (site, id, { near }) => {
    if (site.level.need(id).kind !== 'camera') return []
    const eye = new Vector3().setFromMatrixPosition(site.level.worldMatrix(id))
    const around = new Box3(eye, eye.clone()).clone().expandByScalar(near)
    site.watch(around)
    let [distance, thing] = [Infinity, '']
    for (const other of site.within(around, id)) {
      const away = isInside(eye, other.placed) ? 0 : Math.sqrt(nearestToPoint(eye, other.placed).squared)
      if (away < distance) [distance, thing] = [away, other.thing]
    }
    return distance < near ? [{ things: [id, thing], amount: distance, at: eye.toArray() }] : []
  },
  says: ({ things: [id, other], amount }, { name, length }) =>
    amount === 0 ? `${name(id!)} is inside ${name(other!)}` : `${name(id!)} is ${length(amount!)} from ${name(other!)}`,
}
