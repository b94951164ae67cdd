import { defineExercise } from '../exercise'

export const onAnother = defineExercise({
  name: 'Put one on another',
  says: 'Put the basket on top of the crate: switch hug on ({Hug the surface, on or off}) and drag it there, or lift it over and set it down ({Set down}).',
  why: 'A drag that hugs follows the surface under the pointer: nothing floats, and nothing is buried.',
  things: ['Basket', 'Crate'],
  until: [{ kind: 'rests', thing: 'Basket', on: 'Crate' }],
  shows: [
    { says: 'Click the basket, press {Hug the surface, on or off}', at: { thing: 'Basket' } },
    { says: 'Drag it onto the crate', at: { thing: 'Crate' }, drags: { thing: 'Basket', on: 'Crate' } },
  ],
  page: 'snapping',
})
