import { defineExercise } from '../exercise'

export const camera = defineExercise({
  name: 'Look through a camera',
  says: 'Pick the camera over the yard and look through it (step Cameras). {Back to plain picking} leaves it again.',
  why: 'The pane shows exactly what it sees, framed; steered from there, the camera goes along.',
  things: ['Over the yard'],
  until: [{ kind: 'through' }],
  shows: [
    { says: 'Click the camera', at: { thing: 'Over the yard' } },
    { says: 'Open Cameras: Look through it', at: { thing: 'Over the yard' } },
  ],
  page: 'cameras-and-lights',
})
