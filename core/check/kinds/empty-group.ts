import { removeWithChildren } from '../../level/edit'
import type { CheckDefinition } from '../definition'

/** Holds nothing. */
export const emptyGroup: CheckDefinition = {
  name: 'Empty group',
  severity: 'note',
  explains: 'A group or an arrangement with nothing in it.',
  limits: {},
  looksAt: 'placement',
  find: (site, id) => {
    const { kind } = site.level.need(id)
    return (kind === 'group' || kind === 'arrangement') && !site.level.hasChildren(id)
      ? [{ things: [id], amount: null, at: site.middleOf(id) }]
      : []
  },
  says: ({ things: [id] }, { name }) => `${name(id!)} is empty`,
  fix: {
    does: 'Delete it',
    by: 'operations',
    operations: ({ level }, { things: [id] }) => removeWithChildren(level, [id!]),
  },
}
