import { isSheared } from '../../math/transform'
import type { CheckDefinition } from '../definition'

/** Its axes are no longer at right angles. */
export const skewed: CheckDefinition = {
  name: 'Skewed',
  severity: 'error',
  explains:
    'It is turned within something that is sized unevenly, so that its axes are not at right angles any more; no position, turn and size hold such a shape.',
  limits: {},
  looksAt: 'shown',
  find: (site, id) =>
    isSheared(site.level.worldMatrix(id)) ? [{ things: [id], amount: null, at: site.middleOf(id) }] : [],
  says: ({ things: [id] }, { name }) => `${name(id!)} is skewed by what it hangs from`,
}
