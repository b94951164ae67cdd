import type { Relation } from '../../level/schema'
import { holdersOf, relationsIn } from '../../relate/graph'
import { withRelations } from '../../relate/keep'
import { lettingGo } from '../../relate/loose'
import type { Miss } from '../../relate/miss'
import { missOf } from '../../relate/miss'
import { Standing } from '../../relate/standing'
import type { CheckDefinition, Limits } from '../definition'
import { FixError } from '../definition'
import type { CheckSite } from '../site'

type Slack = Limits<'off' | 'turn'>
type Missed = { relation: Relation; miss: Miss | null }

/** What is kept of a thing and does not hold. */
function missedBy({ level, index }: CheckSite, id: string, { off, turn }: Slack): Missed[] {
  const relations = relationsIn(level).byHeld.get(id)
  if (!relations) return []
  const standing = new Standing(level, [])
  return relations.flatMap(relation => {
    const miss = missOf(standing, index, relation)
    const holds = miss && miss.metres <= off && miss.degrees <= turn && miss.share <= SHARE
    return holds ? [] : [{ relation, miss }]
  })
}

/** A share of a size that is rounding. */
const SHARE = 1e-4

/** What was kept, and stands otherwise: moved by a script or a table, or there is nothing to keep to. */
export const notAsKept: CheckDefinition<'off' | 'turn'> = {
  name: 'Not as kept',
  severity: 'warning',
  explains:
    'It is kept on, flush with, apart from or turned to something, and stands otherwise: a script or a table moved it, what it is kept to is gone, or two of what is kept contradict each other.',
  limits: {
    off: { label: 'Off by', first: 0.001, quantity: 'length', least: 0 },
    turn: { label: 'Turned off by', first: 0.1, quantity: 'angle', least: 0 },
  },
  looksAt: 'placement',
  find: (site, id, limits) => {
    const missed = missedBy(site, id, limits)
    // What cannot be at all is said first, then what is farthest off.
    const worst = missed.toSorted((a, b) => (b.miss?.metres ?? Infinity) - (a.miss?.metres ?? Infinity))[0]
    if (!worst) return []
    const [holder] = holdersOf(worst.relation)
    return [
      {
        things: [id, ...(holder !== undefined && site.level.has(holder) ? [holder] : [])],
        amount: worst.miss && worst.miss.metres,
        at: site.middleOf(id),
        more: missed.length,
      },
    ]
  },
  says: ({ things: [id, holder], amount, more = 1 }, { name, length }) => {
    const to = holder === undefined ? 'something' : name(holder)
    const besides = more > 1 ? `, and ${more - 1} more` : ''
    if (amount === null) return `${name(id!)} cannot stay to ${to} as it is kept${besides}`
    if (amount < 1e-6) return `${name(id!)} is turned or sized otherwise than it is kept to ${to}${besides}`
    return `${name(id!)} is ${length(amount)} off where it is kept to ${to}${besides}`
  },
  fix: {
    does: 'Put back',
    by: 'operations',
    operations: ({ level, index }, { things: [id] }) => {
      const { operations, unmet } = withRelations(level, index, [], [id!])
      if (unmet.some(({ relation }) => relation.held === id))
        throw new FixError('It cannot be put back: what holds it is not there, or contradicts what else does.')
      return operations
    },
    instead: {
      does: 'Let go',
      operations: (site, { things: [id] }, limits) =>
        lettingGo(
          site.level,
          missedBy(site, id!, limits).map(({ relation }) => relation),
        ),
    },
  },
}
