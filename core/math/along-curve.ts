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
  const { axes, shifts, cells } = halvings(side)
  const [perX, perY, perZ] = side.map((length, axis) => (length > 0 ? cells[axis]! / length : 0)) as [
    number,
    number,
    number,
  ]
  // The place on the curve and the place in the list are one number, so that they are sorted as numbers are.
  const keys = new Float64Array(boxes.length)
  boxes.forEach((box, i) => {
    const x = Math.min(Math.floor((middle(box, 0) - low[0]!) * perX), cells[0]! - 1)
    const y = Math.min(Math.floor((middle(box, 1) - low[1]!) * perY), cells[1]! - 1)
    const z = Math.min(Math.floor((middle(box, 2) - low[2]!) * perZ), cells[2]! - 1)
    let code = 0
    for (let step = 0; step < HALVES; step++) {
      const axis = axes[step]!
      code = (code << 1) | (((axis === 0 ? x : axis === 1 ? y : z) >> shifts[step]!) & 1)
    }
    keys[i] = code * MOST + i
  })
  return Array.from(keys.sort(), key => boxes[key % MOST]!)
}

/**
 * Across which axis each step halves, always the longest side that is left; which bit of a cell's number along that
 * axis says on which half it is; and how many cells there are along each axis in the end.
 */
function halvings(side: readonly number[]): { axes: Uint8Array; shifts: Uint8Array; cells: number[] } {
  const left = [...side]
  const axes = Uint8Array.from({ length: HALVES }, () => {
    const axis = left.indexOf(Math.max(...left))
    left[axis] = left[axis]! / 2
    return axis
  })
  const bits = [0, 0, 0]
  for (const axis of axes) bits[axis] = bits[axis]! + 1
  const rest = [...bits]
  const shifts = Uint8Array.from(axes, axis => (rest[axis] = rest[axis]! - 1))
  return { axes, shifts, cells: bits.map(count => 2 ** count) }
}
