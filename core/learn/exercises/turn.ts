import { defineExercise } from '../exercise'

export const turn = defineExercise({
  name: 'Turn by exactly 90 degrees',
  says: 'Turn the bench by 90 degrees: drag its [Y] dial, or press {Turn right by a step} until it is there.',
  why: 'Turns go in steps, so that an angle is 90 and not 89.37. Ctrl does without the steps as long as you hold it.',
  things: ['Bench'],
  until: [{ kind: 'turned', thing: 'Bench', degrees: 90 }],
  shows: [
    { says: 'Click the bench, press {Turn handles}', at: { thing: 'Bench' } },
    { says: 'Drag the [Y] dial', at: { place: [3.6, 0.4, 4] }, turns: { thing: 'Bench', by: 90 } },
  ],
  page: 'turning-and-pivots',
})
