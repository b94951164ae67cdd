import { defineExercise } from '../exercise'

export const look = defineExercise({
  name: 'Look around without getting lost',
  says: 'Go round to the back of the boathouse: hold Alt and drag. {Look at everything} brings everything back into view.',
  why: 'The view goes round what is picked or under the pointer, so that it never slips away.',
  things: ['Back wall'],
  until: [{ kind: 'seen', at: [-6, 1.5, -4], from: [-6, 1.5, -14], within: 30, degrees: 25 }],
  shows: [
    { says: 'Point at the boathouse', at: { thing: 'Roof' } },
    { says: 'Hold Alt and drag to the side', at: { place: [2, 1, -4] } },
    { says: 'Until its back faces you', at: { place: [6, 1, -6] } },
  ],
  page: 'looking-around',
})
