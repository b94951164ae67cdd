import { defineExercise } from '../exercise'

export const measure = defineExercise({
  name: 'Measure, and type what it should be',
  says: 'Tape from one bollard to the other ({Measure: tape}, two clicks), then click its number and type 3 m.',
  why: 'A kept tape is a number you can type: the thing at its end moves, and the tape stays true.',
  things: ['Bollard', 'Second bollard'],
  until: [{ kind: 'taped', between: ['Bollard', 'Second bollard'], metres: 3 }],
  shows: [
    { says: 'Press U, click on top of one', at: { place: [4.5, 0.8, 5.2] } },
    { says: 'and of the other, then {Back to plain picking}', at: { place: [8.1, 0.8, 5.2] } },
    {
      says: 'Click the number, type 3',
      at: { place: [6.3, 0.8, 5.2] },
      drags: { thing: 'Second bollard', to: [7.5, null, null] },
    },
  ],
  page: 'measuring',
})
