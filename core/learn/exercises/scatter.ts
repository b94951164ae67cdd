import { defineExercise } from '../exercise'

export const scatter = defineExercise({
  name: 'Scatter, and clear a path',
  says: 'Scatter leaves over the paving (step Scatter), 30 at least, then paint a path a metre wide from mark to mark clear.',
  why: 'One form deals any mix with weights and limits; the brush takes away where people walk. The seed gives the same always.',
  things: ['Paving'],
  until: [{ kind: 'scattered', least: 30, clear: { from: [-3, 0, 2], to: [1, 0, 3.5], width: 1 } }],
  shows: [
    { says: 'Click the paving, open Scatter, add a part', at: { thing: 'Paving' } },
    { says: 'Keep it, then paint Away from mark to mark', at: { place: [-3, 0, 2] } },
    { says: 'Along here', at: { place: [1, 0, 3.5] } },
  ],
  page: 'scattering',
})
