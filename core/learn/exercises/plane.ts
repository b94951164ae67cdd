import { defineExercise } from '../exercise'

export const plane = defineExercise({
  name: 'Move in a plane',
  says: 'Bring the barrel onto its mark: drag the quarter-disc that lies level, or press {Lock out of [Y]} and drag anywhere.',
  why: 'Locked out of the height, it goes wherever you like on the ground and never into it.',
  things: ['Barrel', 'Mark for the barrel'],
  until: [{ kind: 'stands', thing: 'Barrel', at: [1, 0, 3.5] }],
  shows: [
    { says: 'Click the barrel', at: { thing: 'Barrel' } },
    { says: '{Lock out of [Y]}, then drag', at: { place: [1, 0.4, 3.5] }, drags: { thing: 'Barrel', to: [1, 0, 3.5] } },
  ],
  page: 'moving',
})
