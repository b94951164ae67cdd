/** A point of the screen in pixels, counted from the top left of the pane it is in. */
export type ScreenPoint = { x: number; y: number }
