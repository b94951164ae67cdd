import { counted } from '../units/plural'
import type { LevelView } from './level-view'

/** How much is in a level: `things` are its placements, as the roster lists them; `copies` what its arrangements make of some of them. */
export type Census = { things: number, copies: number }

/** Counts a level, for wherever it is said how much is in it. */
export function censusOf(level: LevelView): Census {
  let copies = 0
  for (const id of level.arrangementIds) if (level.hasChildren(id)) copies += level.countOf(id)
  return { things: level.size, copies }
}

/** "34 things", "34 things, 423 copies". */
export function printCensus({ things, copies }: Census): string {
  return [counted(things, 'thing'), ...copies > 0 ? [counted(copies, 'copy', 'copies')] : []].join(', ')
}
