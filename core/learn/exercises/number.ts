import { defineExercise } from '../exercise'

export const number = defineExercise({
  name: 'Move by number',
  says: 'Put the bench at X 2.35 m: press {Type numbers instead} during a drag and type, or type into the ledger below.',
  why: 'Every drag can become a number at any moment. Sums work as well: 2 + 35 cm.',
  things: ['Bench'],
  until: [{ kind: 'stands', thing: 'Bench', at: [2.35, 0, null] }],
  shows: [
    { says: 'Click the bench', at: { thing: 'Bench' } },
    { says: 'Type 2.35 into Position X', drags: { thing: 'Bench', to: [2.35, 0, null] } },
  ],
  page: 'moving',
})
