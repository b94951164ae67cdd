import { snapToStep } from '../../edit/snap/grid'
import { degreesToQuat, quatToDegrees } from '../../math/transform'
import type { Vec3 } from '../../math/vectors'
import type { CheckDefinition } from '../definition'

/** Degrees off a step that do not count. */
const EXACT = 0.01

/** Modular pieces that are turned by no whole number of steps. */
export const offTurn: CheckDefinition<'step'> = {
  name: 'Off the turn step',
  severity: 'note',
  explains: 'A modular piece that is turned by something else than whole steps against what it hangs from.',
  limits: { step: { label: 'Step', first: 15, quantity: 'angle', least: 0.1 } },
  looksAt: 'shown',
  find: (site, id, { step }) => {
    if (!site.isPiece(id)) return []
    const off = Math.max(
      ...quatToDegrees(site.level.need(id).rotation).map(value => Math.abs(value - snapToStep(value, step))),
    )
    return off > EXACT ? [{ things: [id], amount: off, at: site.middleOf(id) }] : []
  },
  says: ({ things: [id], amount }, { name }) => `${name(id!)} is ${amount!.toFixed(2)}° off a step`,
  fix: {
    does: 'Turn to the step',
    by: 'operations',
    operations: ({ level }, { things: [id] }, { step }) => [
      {
        do: 'put',
        id: id!,
        fields: {
          rotation: degreesToQuat(
            quatToDegrees(level.need(id!).rotation).map(value => snapToStep(value, step)) as Vec3,
          ),
        },
      },
    ],
  },
}
