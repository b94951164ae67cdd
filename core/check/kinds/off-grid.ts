import { movePlacements } from '../../edit/handles/move'
import { pivotOf } from '../../edit/handles/pivot'
import { snapToStep } from '../../edit/snap/grid'
import { Vector3 } from 'three'
import type { CheckDefinition } from '../definition'

/** Metres off a line that do not count. */
const EXACT = 1e-4

/** Modular pieces whose pivots are not on the grid. */
export const offGrid: CheckDefinition<'step'> = {
  name: 'Off the grid',
  severity: 'note',
  explains:
    'A modular piece whose pivot is not on the lines of the grid in plan, or not at a step in height, along what it hangs from.',
  limits: { step: { label: 'Step', first: 0.25, quantity: 'length', least: 0.001 } },
  looksAt: 'shown',
  find: (site, id, { step }) => {
    if (!site.isPiece(id)) return []
    const { level } = site
    const off = Math.max(...level.need(id).translation.map(value => Math.abs(value - snapToStep(value, step))))
    return off > EXACT ? [{ things: [id], amount: off, at: pivotOf(level, id).toArray() }] : []
  },
  says: ({ things: [id], amount }, { name, length }) => `${name(id!)} is ${length(amount!)} off the grid`,
  fix: {
    does: 'Onto the grid',
    by: 'operations',
    operations: ({ level }, { things: [id] }, { step }) => {
      const { parentId, translation } = level.need(id!)
      const [x, y, z] = translation.map(value => snapToStep(value, step) - value) as [number, number, number]
      const way = new Vector3(x, y, z)
      return movePlacements(
        level,
        [id!],
        parentId === null ? way : way.applyMatrix4(level.worldMatrix(parentId).clone().setPosition(0, 0, 0)),
      )
    },
  },
}
