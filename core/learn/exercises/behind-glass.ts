import { defineExercise } from '../exercise'

export const behindGlass = defineExercise({
  name: 'Pick what is behind the glass',
  says: 'Click the basket through the glass screen: once picks the screen, once more on the same spot what is behind.',
  why: 'Whatever is in front can be clicked through; {Next thing under the pointer} goes on to the next before you click.',
  things: ['Basket behind the glass', 'Glass screen'],
  until: [{ kind: 'picked', thing: 'Basket behind the glass' }],
  shows: [
    { says: 'A click picks the screen', at: { thing: 'Glass screen' } },
    { says: 'Another on the same spot goes through', at: { thing: 'Basket behind the glass' } },
  ],
  page: 'picking',
})
