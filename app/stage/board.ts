import type { BoardName, ColorName } from './palette'
import { palettes } from './palette'

/** The colours the stage draws with, as CSS hexadecimals; by their names in the palette. */
export type Board = {
  /** Under which of the board's own skies. */
  name: 'day' | 'night'
  colors: Readonly<Record<ColorName, string>>
  axes: readonly [string, string, string]
  /** Of people, by their marks. */
  people: readonly string[]
}

const board = (of: BoardName): Board => {
  const { colors, dark } = palettes[of]
  const name = dark ? 'night' : 'day'
  const people = ([0, 1, 2, 3, 4, 5, 6, 7] as const).map(mark => colors[`person-${mark}`])
  return { name, colors, axes: [colors['axis-x'], colors['axis-y'], colors['axis-z']], people }
}

export const boards: Record<BoardName, Board> = {
  'day': board('day'),
  'night': board('night'),
  'day-more': board('day-more'),
  'night-more': board('night-more'),
}
