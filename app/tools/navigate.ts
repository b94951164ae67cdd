import type { Gesture, PointerAt } from './gesture'

/** A gesture that steers the view by the pointer's way, in pixels since the last move. Nothing of it has to be taken back. */
export function steer(from: PointerAt, turn: (dx: number, dy: number) => void): Gesture {
  let last = from
  return {
    move: (pointer) => {
      turn(pointer.x - last.x, pointer.y - last.y)
      last = pointer
    },
    end: () => {},
    cancel: () => {},
  }
}
