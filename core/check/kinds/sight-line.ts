import { isArrangement } from '../../arrange/arrangement'
import type { CheckDefinition } from '../definition'
import { sightLines } from '../sight-lines'
import { counted } from '../../units/plural'

/** Rows that do not see over the row before them. */
export const sightLine: CheckDefinition<'least' | 'good' | 'eye' | 'focus'> = {
  name: 'Sight over the row in front',
  severity: 'warning',
  explains:
    'For fans that face their middle: how far a sight line passes over the eyes in the row before, C = D·(N + R)/(D + T) - R (Guide to Safety at Sports Grounds): 90 mm is good, 60 mm acceptable.',
  limits: {
    least: { label: 'Acceptable', first: 0.06, quantity: 'length', least: 0 },
    good: { label: 'Good', first: 0.09, quantity: 'length', least: 0 },
    eye: { label: 'Eyes above the row', first: 1.2, quantity: 'length', least: 0 },
    focus: { label: 'Focus above the middle', first: 0, quantity: 'length' },
  },
  looksAt: 'placement',
  find: (site, id, limits) => {
    const { own } = site.level.need(id)
    if (!isArrangement(own) || own.rule.type !== 'fan' || own.rule.facing === 'out' || site.level.isSource(id))
      return []
    const bad = sightLines(own.rule, limits).filter(({ c }) => c < limits.least)
    if (bad.length === 0) return []
    const worst = bad.reduce((one, other) => (other.c < one.c ? other : one))
    return [{ things: [id], amount: worst.c, at: site.middleOf(id), more: bad.length }]
  },
  says: ({ things: [id], amount, more }, { name, length }) =>
    `${name(id!)}: ${counted(more!, 'row sees', 'rows see')} too little over the row before, ${length(amount!)} at the worst`,
}
