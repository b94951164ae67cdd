import type { CheckDefinition } from '../definition'

const EXACT = 1e-4

/** Sized otherwise along one axis than along another. */
export const uneven: CheckDefinition = {
  name: 'Uneven size',
  severity: 'note',
  explains: 'A part that is stretched: its sizes along its axes differ, and its texture and its details with them.',
  limits: {},
  looksAt: 'shown',
  find: (site, id) => {
    const { scale, partId } = site.level.need(id)
    const sizes = scale.map(Math.abs)
    const off = Math.max(...sizes) / Math.min(...sizes) - 1
    return partId !== null && off > EXACT ? [{ things: [id], amount: off, at: site.middleOf(id) }] : []
  },
  says: ({ things: [id], amount }, { name }) => `${name(id!)} is stretched by ${(amount! * 100).toFixed(1)} %`,
  fix: { does: 'Bake the size', by: 'bake', what: 'size' },
}
