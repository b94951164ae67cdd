import type { CheckDefinition } from '../definition'
import { meetingCopies, MOST_COPIES, MOST_WAYS } from '../copies'
import { arrangementsAround } from '../partners'

/** Copies in each other: of one arrangement, or of two. */
export const copiesOverlapping: CheckDefinition<'depth'> = {
  name: 'Copies overlapping',
  severity: 'warning',
  explains: `Copies of an arrangement are deeper in each other, or in those of another one, than may be; rows are often let into each other a little. Of more than ${MOST_COPIES.toLocaleString('en')} copies so many are looked at, spread evenly over all, and of the ways in which two stand to each other ${MOST_WAYS}. Scattered copies may grow into each other; where they reach into things is a kind of its own.`,
  limits: { depth: { label: 'Depth', first: 0.1, quantity: 'length', least: 0.001 } },
  looksAt: 'placement',
  find: (site, id, { depth }) => {
    if (!site.level.arrangementIds.has(id)) return []
    return arrangementsAround(site, id).flatMap(other => {
      const deep = meetingCopies(site, id, other).filter(each => each.depth > depth)
      if (deep.length === 0) return []
      const deepest = deep.reduce((one, each) => (each.depth > one.depth ? each : one))
      return [{ things: other === id ? [id] : [id, other], amount: deepest.depth, at: deepest.at, more: deep.length }]
    })
  },
  says: ({ things: [id, other], amount, more = 1 }, { name, length }) =>
    `${other === undefined ? `Copies of ${name(id!)} are in each other` : `Copies of ${name(id!)} and of ${name(other)} are in each other`}, ${length(amount!)} deep${more > 1 ? `, in ${more} places` : ''}`,
}
