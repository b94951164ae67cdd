import type { ScreenPoint } from '~~/core/math/screen'

/** Pixels. */
export type Size = { width: number; height: number }
/** A rectangle of the screen, in pixels. */
export type ScreenBox = { left: number; top: number; right: number; bottom: number }

/** Between the pointer, or what is to stay in sight, and a label. */
const GAP = 16
/** From the edges of the room. */
const EDGE = 4

/**
 * Where a label goes at a point: wholly within the room, and over as little as may be of what is to stay in sight. The
 * nearest of the good places: beside the pointer, above rather than below, right rather than left; then beside each
 * thing.
 *
 * @param avoid what is to stay in sight
 * @returns the label's top left
 */
export function placeLabel(at: ScreenPoint, size: Size, room: Size, avoid: readonly ScreenBox[]): ScreenPoint {
  const around: ScreenBox[] = [{ left: at.x, right: at.x, top: at.y, bottom: at.y }, ...avoid]
  const xs = around.flatMap(({ left, right }) => [right + GAP, left - GAP - size.width])
  const ys = around.flatMap(({ top, bottom }) => [top - GAP - size.height, bottom + GAP])
  let best: { place: ScreenPoint; cost: number } | null = null
  for (const x of xs) {
    for (const y of ys) {
      const place = { x: within(x, room.width - size.width), y: within(y, room.height - size.height) }
      const box = { left: place.x, top: place.y, right: place.x + size.width, bottom: place.y + size.height }
      const hidden =
        avoid.reduce((sum, other) => sum + overlap(box, other), 0)
        + overlap(box, { left: at.x - GAP / 2, right: at.x + GAP / 2, top: at.y - GAP / 2, bottom: at.y + GAP / 2 })
      const far = Math.hypot(
        Math.max(box.left - at.x, at.x - box.right, 0),
        Math.max(box.top - at.y, at.y - box.bottom, 0),
      )
      const cost = hidden * 1000 + far
      if (!best || cost < best.cost) best = { place, cost }
    }
  }
  return best!.place
}

const within = (value: number, most: number) => Math.max(EDGE, Math.min(value, most - EDGE))

function overlap(a: ScreenBox, b: ScreenBox): number {
  return (
    Math.max(0, Math.min(a.right, b.right) - Math.max(a.left, b.left))
    * Math.max(0, Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top))
  )
}
