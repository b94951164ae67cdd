/** Steps in which the curve halves the space that all lie in, and the most that can be put in order. */
const [HALVES, MOST] = [30, 2 ** 22]

/**
 * Boxes in the order in which a curve that fills space comes past their middles, so that neighbours in the list are
 * mostly neighbours in space. Each halving is across the longest side of what is left (Morton order, with an adaptive
 * order of axes; from memory).
 *
 * @param bounds six numbers a box: min x, y, z, max x, y, z
 * @param boxes which of them; beyond four million they stay in the order they have
 */
export function alongCurve(bounds: Float64Array, boxes: readonly number[]): number[] {
  if (boxes.length < 3 || boxes.length > MOST) return [...boxes]
  const middle = (box: number, axis: number) => {
    const at = bounds[box * 6 + axis]! + bounds[box * 6 + axis + 3]!
    return Number.isFinite(at) ? at : 0
  }
  const [low, side] = [
    [0, 0, 0],
    [0, 0, 0],
  ]
  for (let axis = 0; axis < 3; axis++) {
    let [least, most] = [Infinity, -Infinity]
    for (const box of boxes) {
      const at = middle(box, axis)
      if (at < least) least = at
      if (at > most) most = at
    }
    low[axis] = least
    side[axis] = most - least
  }
  const halved = axesToHalve(side)
  // The place on the curve and the place in the list are one number, so that they are sorted as numbers are.
  const keys = new Float64Array(boxes.length)
  const [from, rest] = [
    [0, 0, 0],
    [0, 0, 0],
  ]
  boxes.forEach((box, i) => {
    for (let axis = 0; axis < 3; axis++) {
      from[axis] = middle(box, axis) - low[axis]!
      rest[axis] = side[axis]!
    }
    let code = 0
    for (const axis of halved) {
      const half = (rest[axis] = rest[axis]! / 2)
      const isBeyond = from[axis]! >= half
      code = code * 2 + (isBeyond ? 1 : 0)
      if (isBeyond) from[axis] = from[axis]! - half
    }
    keys[i] = code * MOST + i
  })
  return Array.from(keys.sort(), key => boxes[key % MOST]!)
}

/** Across which axis each step halves: always the longest side that is left. */
function axesToHalve(side: readonly number[]): Uint8Array {
  const left = [...side]
  return Uint8Array.from({ length: HALVES }, () => {
    const axis = left.indexOf(Math.max(...left))
    left[axis] = left[axis]! / 2
    return axis
  })
}
