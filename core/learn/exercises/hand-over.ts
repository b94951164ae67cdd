import { defineExercise } from '../exercise'

export const handOver = defineExercise({
  name: 'Hand it over',
  says: 'Press Hand over, choose a format, and make the file. The report says what was kept and what was left out.',
  why: 'Open formats in and out: glTF, USD, tables, a level file, a plan to scale.',
  things: [],
  until: [{ kind: 'handed over' }],
  shows: [{ says: 'Hand over, at the top right', at: { place: [8, 1, -5] } }],
  page: 'handing-over',
})
