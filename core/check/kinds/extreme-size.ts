import { MathUtils, Vector3 } from 'three'
import { sizePlacements } from '../../edit/handles/size'
import { Quaternion } from 'three'
import type { CheckDefinition } from '../definition'

/** A size that is hardly meant. */
export const extremeSize: CheckDefinition<'least' | 'most'> = {
  name: 'Extreme size',
  severity: 'warning',
  explains: 'In the world it is so many times smaller or larger than its shape that this is hardly meant.',
  limits: {
    least: { label: 'Smallest', first: 0.1, quantity: 'factor', least: 0 },
    most: { label: 'Largest', first: 10, quantity: 'factor', least: 0 },
  },
  looksAt: 'shown',
  find: (site, id, { least, most }) => {
    const sizes = new Vector3().setFromMatrixScale(site.level.worldMatrix(id)).toArray()
    const [low, high] = [Math.min(...sizes), Math.max(...sizes)]
    if (low >= least && high <= most) return []
    return [{ things: [id], amount: high > most ? high : low, at: site.middleOf(id) }]
  },
  says: ({ things: [id], amount }, { name }) => `${name(id!)} is ${Number(amount!.toPrecision(3))} times its size`,
  fix: {
    does: 'Into the range',
    by: 'operations',
    operations: ({ level }, { things: [id] }, { least, most }) => {
      const sizes = new Vector3().setFromMatrixScale(level.worldMatrix(id!)).toArray()
      const factors = sizes.map(size => MathUtils.clamp(size, least, most) / size) as [number, number, number]
      const turn = new Quaternion().setFromRotationMatrix(
        level.worldMatrix(id!).clone().extractRotation(level.worldMatrix(id!)),
      )
      return sizePlacements(level, [id!], factors, turn, null).operations
    },
  },
}
