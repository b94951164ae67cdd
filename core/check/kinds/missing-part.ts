import { removeWithChildren } from '../../level/edit'
import type { CheckDefinition } from '../definition'

/** Shows a part that the kit does not have. */
export const missingPart: CheckDefinition = {
  name: 'Missing part',
  severity: 'error',
  explains:
    'It shows a part that is not in the kit, or that cannot be read, and stands as a hatched box. Swap it for another part.',
  limits: {},
  looksAt: 'placement',
  find: (site, id) => {
    const { partId } = site.level.need(id)
    return partId !== null && (!site.kit.part(partId) || !site.kit.solidOf(partId))
      ? [{ things: [id], amount: null, at: site.middleOf(id) }]
      : []
  },
  says: ({ things: [id] }, { name }) => `${name(id!)} shows a part that is not there`,
  fix: {
    does: 'Delete it',
    by: 'operations',
    operations: ({ level }, { things: [id] }) => removeWithChildren(level, [id!]),
  },
}
