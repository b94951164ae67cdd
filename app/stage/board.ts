import type { ColorName } from './palette'
import { palettes } from './palette'

/** The colours the stage draws with, as CSS hexadecimals; by their names in the palette. */
export type Board = {
  name: 'day' | 'night'
  colors: Readonly<Record<ColorName, string>>
  axes: readonly [string, string, string]
  /** Of people, by their marks. */
  people: readonly string[]
}

const board = (name: Board['name']): Board => {
  const { colors } = palettes[name]
  const people = ([0, 1, 2, 3, 4, 5, 6, 7] as const).map(mark => colors[`person-${mark}`])
  return { name, colors, axes: [colors['axis-x'], colors['axis-y'], colors['axis-z']], people }
}

export const boards: Record<Board['name'], Board> = { day: board('day'), night: board('night') }
