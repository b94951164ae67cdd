import type { CheckDefinition } from '../definition'

/** Hidden or locked by itself, perhaps only forgotten. */
export const leftOver: CheckDefinition = {
  name: 'Hidden or locked',
  severity: 'note',
  explains:
    'Hidden or locked by itself, not by its layer: often only forgotten. What is hidden is handed over as well.',
  limits: {},
  looksAt: 'placement',
  find: (site, id) => {
    const { hidden, locked } = site.level.need(id)
    return hidden || locked ? [{ things: [id], amount: null, at: site.middleOf(id), more: hidden ? 1 : 0 }] : []
  },
  says: ({ things: [id], more }, { name }) => `${name(id!)} is ${more === 1 ? 'hidden' : 'locked'}`,
  fix: {
    does: 'Show and unlock',
    by: 'operations',
    operations: (_site, { things: [id] }) => [{ do: 'put', id: id!, fields: { hidden: false, locked: false } }],
  },
}
