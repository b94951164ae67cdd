import { defineExercise } from '../exercise'

export const floats = defineExercise({
  name: 'Find what floats, and set it down',
  says: 'Open Check: a planter floats. Look at it, and let it down by the fix there, or pick it and press {Set down}.',
  why: 'Nothing sinks or floats unnoticed: the check is always current, and a fix is shown before it is done.',
  things: ['Planter that floats'],
  until: [{ kind: 'rests', thing: 'Planter that floats', on: 0 }],
  shows: [
    { says: 'Open Check, click the finding', at: { thing: 'Planter that floats' } },
    { says: 'Set down', drags: { thing: 'Planter that floats', to: [null, 0, null] } },
  ],
  page: 'checking',
})
