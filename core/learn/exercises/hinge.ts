import { defineExercise } from '../exercise'

export const hinge = defineExercise({
  name: 'The pivot at the hinge',
  says: 'Open the door by 90 degrees around its left edge: press {Edit the pivot} and put the pivot there, then turn it.',
  why: 'Things turn around their pivot. Moving the pivot never moves the thing.',
  things: ['Door'],
  until: [
    { kind: 'hinged', thing: 'Door', at: [-8.8, 0, -2] },
    { kind: 'turned', thing: 'Door', degrees: 90 },
  ],
  shows: [
    { says: 'Click the door, press {Edit the pivot}', at: { thing: 'Door' } },
    { says: 'Click the dot at its left edge, press {Edit the pivot} again', at: { place: [-8.8, 0, -2] } },
    { says: 'Turn it by 90', at: { place: [-8.8, 0.5, -1] } },
  ],
  page: 'turning-and-pivots',
})
