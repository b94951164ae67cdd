import { isArrangement } from '../../arrange/arrangement'
import { withoutNothing } from '../../scene/copies'
import type { CheckDefinition } from '../definition'
import type { CheckSite } from '../site'
import { counted } from '../../units/plural'

/** What copies have of their own that are not there any more. */
export const lostException: CheckDefinition = {
  name: 'Exceptions without a place',
  severity: 'note',
  explains:
    'An arrangement keeps what single copies have of their own, and some of these copies are not there at present. They come back with the count; otherwise it is ballast.',
  limits: {},
  looksAt: 'placement',
  find: (site, id) => {
    const lost = lostIn(site, id)
    return lost.length > 0 ? [{ things: [id], amount: lost.length, at: site.middleOf(id) }] : []
  },
  says: ({ things: [id], amount }, { name }) => `${name(id!)} has ${counted(amount!, 'exception')} without a place`,
  fix: {
    does: 'Drop them',
    by: 'operations',
    operations: (site, { things: [id] }) => {
      const { own } = site.level.arranged(id!)
      const lost = new Set(lostIn(site, id!))
      return [
        {
          do: 'put',
          id: id!,
          fields: {
            own: withoutNothing({
              ...own,
              exceptions: Object.fromEntries(Object.entries(own.exceptions ?? {}).filter(([key]) => !lost.has(key))),
            }),
          },
        },
      ]
    },
  },
}

function lostIn({ level }: CheckSite, id: string): string[] {
  const { own } = level.need(id)
  if (!isArrangement(own) || !own.exceptions) return []
  const keys = level.copies(id)?.keys
  return keys
    ? Object.entries(own.exceptions)
        .filter(([key, { added }]) => !added && keys.indexOf(key) === null)
        .map(([key]) => key)
    : []
}
