import type { ArrangementOwn } from '../../arrange/arrangement'
import { arrangementSchema } from '../../arrange/arrangement'
import { RULES } from '../../arrange/rules'
import type { KindDefinition } from '../kind-definition'

/** Shows copies, by a rule, of the sources that hang below it. */
export const arrangement: KindDefinition<ArrangementOwn, false> = {
  own: arrangementSchema,
  first: { rule: RULES.line.first },
  name: 'Arrangement',
  shows: 'copies',
  isMark: false,
  icon: 'M3 3h7v7H3zm11 0h7v7h-7zM3 14h7v7H3zm11 0h7v7h-7zm2 2v3h3v-3z',
  extras: () => ({}),
}
