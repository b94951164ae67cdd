import { defineExercise } from '../exercise'

export const row = defineExercise({
  name: 'A row that stays a rule, and an exception',
  says: 'Make the row of lanterns five (step Repeat, or drag the last one), then click one copy further and delete it.',
  why: 'A row stays a rule with numbers: change the count and the rest follows. What you change on one copy stays with it.',
  things: ['Row of lanterns'],
  until: [{ kind: 'copies', arrangement: 'Row of lanterns', count: 5, exceptions: 1 }],
  shows: [
    { says: 'Click the row, open Repeat, set Count to 5', at: { thing: 'Row of lanterns' } },
    { says: 'Click one lantern again: it alone is picked', at: { place: [3, 1.5, -5.2] } },
    { says: 'Delete', at: { place: [3, 1.5, -5.2] } },
  ],
  page: 'repeating',
})
