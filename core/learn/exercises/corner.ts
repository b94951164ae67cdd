import { defineExercise } from '../exercise'

export const corner = defineExercise({
  name: 'Corner to corner',
  says: 'Put the loose planks to the others, corner to corner: hold {Vertex snap while held}, press on one of its corners, drop it on another.',
  why: 'Point to point is exact whatever the grid is: corners, middles of edges and faces, pivots.',
  things: ['Loose planks', 'Planks'],
  until: [{ kind: 'meets', thing: 'Loose planks', other: 'Planks' }],
  shows: [
    { says: 'Hold {Vertex snap while held} over a corner of the loose planks', at: { place: [5.5, 0, 1.6] } },
    {
      says: 'Drop it on a corner of the others',
      at: { place: [4.3, 0, 0.4] },
      drags: { thing: 'Loose planks', to: [5.1, 0, 0] },
    },
  ],
  page: 'snapping',
})
