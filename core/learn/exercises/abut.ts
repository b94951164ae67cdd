import { defineExercise } from '../exercise'

export const abut = defineExercise({
  name: 'Face to face',
  says: 'Let the loose railing go on where the first one ends: switch abut on ({Abut, on or off}) and drag it there along X.',
  why: 'Faces that come near snap together and their edges line up, so that walls build themselves.',
  things: ['Loose railing', 'Railing'],
  until: [{ kind: 'abuts', thing: 'Loose railing', other: 'Railing' }],
  shows: [
    { says: 'Click the loose railing, press {Abut, on or off}', at: { thing: 'Loose railing' } },
    {
      says: 'Drag it until it catches',
      at: { place: [-5, 0.5, 5.75] },
      drags: { thing: 'Loose railing', to: [-5, 0, 5.75] },
    },
  ],
  page: 'snapping',
})
