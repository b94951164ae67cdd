import { overlapOf } from '../../mesh/overlap'
import { LET_IN } from '../site'
import type { CheckDefinition } from '../definition'
import { scattersAround } from '../partners'

/** Copies of one scatter that are looked at around a thing. */
const MOST_LOOKED = 200

/** Scattered copies that reach into a thing they do not lie on. */
export const scatteredInto: CheckDefinition<'depth'> = {
  name: 'Scattered into things',
  severity: 'note',
  explains: `Copies of a scatter reach into a thing that they are not scattered on. Leaves may; stones should not. Around each thing ${MOST_LOOKED} copies of a scatter are looked at, spread evenly.`,
  limits: { depth: { label: 'Depth', first: 0.1, quantity: 'length', least: 0.001 } },
  offAtFirst: true,
  looksAt: 'shown',
  find: (site, id, { depth }) => {
    if (site.isGround(id)) return []
    const own = site.own(id)
    return [...scattersAround(site, id)].flatMap(([scatter, copies]) => {
      const step = Math.max(1, copies.length / MOST_LOOKED)
      const some = copies.filter((_, i) => Math.floor(i / step) !== Math.floor((i - 1) / step))
      const depths = some
        .map(({ placed }) => Math.max(0, ...own.map(mine => overlapOf(mine, placed, LET_IN)?.depth ?? 0)))
        .filter(each => each > depth)
      return depths.length === 0
        ? []
        : [{ things: [id, scatter], amount: Math.max(...depths), at: site.middleOf(id), more: depths.length }]
    })
  },
  says: ({ things: [id, scatter], amount, more = 1 }, { name, length }) =>
    `${more > 1 ? `${more} copies of ${name(scatter!)} reach` : `A copy of ${name(scatter!)} reaches`} ${length(amount!)} into ${name(id!)}`,
}
