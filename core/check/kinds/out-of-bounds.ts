import { Box3, Vector3 } from 'three'
import type { LevelAxis } from '../../units/height'
import { movePlacements } from '../../edit/handles/move'
import type { CheckDefinition, Limits } from '../definition'
import { FixError } from '../definition'

type Sides = 'minX' | 'minY' | 'minZ' | 'maxX' | 'maxY' | 'maxZ'
/** @param otherEnd what it is called where the axis is written the other way */
const side = (label: string, first: number, axis: LevelAxis, otherEnd: string) => ({
  label,
  first,
  quantity: 'length' as const,
  axis,
  otherEnd,
})
const boxOf = ({ minX, minY, minZ, maxX, maxY, maxZ }: Limits<Sides>) =>
  new Box3(new Vector3(minX, minY, minZ), new Vector3(maxX, maxY, maxZ))

/** Reaches beyond where the level ends. */
export const outOfBounds: CheckDefinition<Sides> = {
  name: 'Outside the bounds',
  severity: 'error',
  explains: 'Reaches beyond the box that the level is to be within.',
  limits: {
    minX: side('From X', -500, 0, 'To X'),
    maxX: side('To X', 500, 0, 'From X'),
    minY: side('From Y', -100, 1, 'To Y'),
    maxY: side('To Y', 500, 1, 'From Y'),
    minZ: side('From Z', -500, 2, 'To Z'),
    maxZ: side('To Z', 500, 2, 'From Z'),
  },
  looksAt: 'placement',
  find: (site, id, limits) => {
    const { kind } = site.level.need(id)
    if (kind === 'group' || site.level.isSource(id)) return []
    const [box, bounds] = [site.boxOf(id), boxOf(limits)]
    if (box.isEmpty()) box.expandByPoint(new Vector3().setFromMatrixPosition(site.level.worldMatrix(id)))
    const beyond = Math.max(
      ...[0, 1, 2].flatMap(axis => [
        bounds.min.getComponent(axis) - box.min.getComponent(axis),
        box.max.getComponent(axis) - bounds.max.getComponent(axis),
      ]),
    )
    return beyond > 1e-6 ? [{ things: [id], amount: beyond, at: site.middleOf(id) }] : []
  },
  says: ({ things: [id], amount }, { name, length }) => `${name(id!)} reaches ${length(amount!)} beyond the bounds`,
  fix: {
    does: 'Into the bounds',
    by: 'operations',
    operations: (site, { things: [id] }, limits) => {
      const [box, bounds] = [site.boxOf(id!), boxOf(limits)]
      if (box.isEmpty()) box.expandByPoint(new Vector3().setFromMatrixPosition(site.level.worldMatrix(id!)))
      const way = new Vector3()
      for (const axis of [0, 1, 2]) {
        const [low, high] = [
          bounds.min.getComponent(axis) - box.min.getComponent(axis),
          bounds.max.getComponent(axis) - box.max.getComponent(axis),
        ]
        if (low > high) throw new FixError('It is larger than the bounds.')
        way.setComponent(axis, Math.min(Math.max(low, 0), high) || Math.max(Math.min(high, 0), low))
      }
      return movePlacements(site.level, [id!], way)
    },
  },
}
