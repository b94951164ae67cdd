import type { ColorName } from './palette'
import { palettes } from './palette'

/** The colours the stage draws with, as CSS hexadecimals; by their names in the palette. */
export type Board = {
  name: 'day' | 'night'
  colors: Readonly<Record<ColorName, string>>
  axes: readonly [string, string, string]
}

const board = (name: Board['name']): Board => {
  const { colors } = palettes[name]
  return { name, colors, axes: [colors['axis-x'], colors['axis-y'], colors['axis-z']] }
}

export const boards: Record<Board['name'], Board> = { day: board('day'), night: board('night') }
