import { counted } from '../units/plural'
import type { LevelView } from './level-view'
import { scatterOf } from './scatter-site'

/**
 * How much is in a level: `things` are its placements, as the roster lists them; `copies` what its arrangements make of
 * some of them, without those of the `scatters` that are not dealt yet, as in a file that is looked at.
 */
export type Census = { things: number; copies: number; scatters: number }

/** Counts a level, for wherever it is said how much is in it. */
export function censusOf(level: LevelView): Census {
  let [copies, scatters] = [0, 0]
  for (const id of level.arrangementIds) {
    if (!level.hasChildren(id)) continue
    if (scatterOf(level, id) && level.dealt(id) === null) scatters++
    else copies += level.countOf(id)
  }
  return { things: level.size, copies, scatters }
}

/** "34 things", "34 things, 423 copies". */
export function printCensus({ things, copies, scatters }: Census): string {
  return [
    counted(things, 'thing'),
    ...(copies > 0 ? [counted(copies, 'copy', 'copies')] : []),
    ...(scatters > 0 ? [`${counted(scatters, 'scatter')} to be dealt`] : []),
  ].join(', ')
}
