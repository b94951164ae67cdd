import type { CheckDefinition } from '../definition'

/** What does not count as another size. */
const EXACT = 1e-4

/** A size that is not 1. */
export const resized: CheckDefinition = {
  name: 'Size not 1',
  severity: 'note',
  explains:
    'A part that is shown in another size than it has in the kit. Engines and people count on pieces being as large as they are.',
  limits: {},
  looksAt: 'shown',
  find: (site, id) => {
    const { scale, partId } = site.level.need(id)
    const off = Math.max(...scale.map(value => Math.abs(Math.abs(value) - 1)))
    return partId !== null && off > EXACT ? [{ things: [id], amount: off, at: site.middleOf(id) }] : []
  },
  says: ({ things: [id], amount }, { name }) => `${name(id!)} is sized otherwise by ${(amount! * 100).toFixed(1)} %`,
  fix: { does: 'Bake the size', by: 'bake', what: 'size' },
}
