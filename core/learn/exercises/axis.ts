import { defineExercise } from '../exercise'

export const axis = defineExercise({
  name: 'Move along one axis',
  says: 'Bring the crate onto its mark of chalk: drag the peg with the X, and nothing but X changes.',
  why: 'One axis at a time is exact. Dragged freely, a thing slips away in depth without your seeing it.',
  things: ['Crate', 'Mark for the crate'],
  until: [{ kind: 'stands', thing: 'Crate', at: [-3, 0, 2] }],
  shows: [
    { says: 'Click the crate', at: { thing: 'Crate' } },
    { says: 'Drag the peg with the X', at: { place: [-3, 0.4, 2] }, drags: { thing: 'Crate', to: [-3, 0, 2] } },
  ],
  page: 'moving',
})
