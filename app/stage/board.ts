import type { WrittenAxes } from '~~/core/units/height'
import { LEVEL_AXES } from '~~/core/units/height'
import type { BoardName, ColorName } from './palette'
import { palettes } from './palette'

/** The colours the stage draws with, as CSS hexadecimals; by their names in the palette. */
export type Board = {
  /** Under which of the board's own skies. */
  name: 'day' | 'night'
  colors: Readonly<Record<ColorName, string>>
  /** Of the axes of the level, in whatever order those are written. */
  axes: readonly [string, string, string]
  /** What those are called. */
  letters: readonly [string, string, string]
  /** Of people, by their marks. */
  people: readonly string[]
}

const board = (of: BoardName): Board => {
  const { colors, dark } = palettes[of]
  const name = dark ? 'night' : 'day'
  const people = ([0, 1, 2, 3, 4, 5, 6, 7] as const).map(mark => colors[`person-${mark}`])
  return {
    name,
    colors,
    axes: [colors['axis-x'], colors['axis-y'], colors['axis-z']],
    letters: ['X', 'Y', 'Z'],
    people,
  }
}

export const boards: Record<BoardName, Board> = {
  'day': board('day'),
  'night': board('night'),
  'day-more': board('day-more'),
  'night-more': board('night-more'),
}

/** A board with the axes of the level as they are written. */
export function boardWith(name: BoardName, axes: WrittenAxes): Board {
  const of = boards[name]
  const [x, y, z] = LEVEL_AXES.map(axis => axes.letter(axis))
  const color = (letter = 'X') => of.axes['XYZ'.indexOf(letter)]!
  return { ...of, axes: [color(x), color(y), color(z)], letters: [x!, y!, z!] }
}
