import { FreeNames } from '../../level/create'
import type { CheckDefinition } from '../definition'

/** Several things that are called the same. */
export const sameName: CheckDefinition = {
  name: 'One name for several',
  severity: 'note',
  explains: 'Things of one name cannot be told apart in lists, and scripts find the wrong one.',
  limits: {},
  looksAt: 'placement',
  find: (site, id) => {
    const same = site.namesakes.get(site.level.need(id).name)
    // The first of them keeps its name; each of the others is a finding.
    return !same || same.ids.size < 2 || same.first === id
      ? []
      : [{ things: [id, same.first], amount: null, at: site.middleOf(id), more: same.ids.size }]
  },
  says: ({ things: [id], more }, { name }) => `${name(id!)} is one of ${more} of that name`,
  fix: {
    does: 'Number it',
    by: 'operations',
    operations: ({ level }, { things: [id] }) => [
      { do: 'put', id: id!, fields: { name: new FreeNames(level).like(level.need(id!).name) } },
    ],
  },
}
