/** Steps after which a root is good enough whatever its error; each takes at least half a digit. */
const MOST_STEPS = 100

/**
 * Where a continuous function is zero, by the Illinois method (Dowell and Jarratt 1971): false position that halves the
 * value kept at an end which stays twice.
 *
 * @param low where the function is not above zero
 * @param high where it is not below zero
 * @param least the error of the function's value that is near enough
 * @param most steps, for a function that is long to work out
 */
export function rootBetween(
  of: (x: number) => number,
  low: number,
  high: number,
  least: number,
  most = MOST_STEPS,
): number {
  let [below, above] = [of(low), of(high)]
  let stayed: 'low' | 'high' | null = null
  for (let i = 0; i < most && high - low > 2 * Number.EPSILON * Math.abs(high); i++) {
    if (above - below < Number.MIN_VALUE) return low
    const x = Math.min(Math.max(low - (below * (high - low)) / (above - below), low), high)
    const value = of(x)
    if (Math.abs(value) <= least) return x
    if (value < 0) {
      ;[low, below] = [x, value]
      if (stayed === 'high') above /= 2
      stayed = 'high'
    } else {
      ;[high, above] = [x, value]
      if (stayed === 'low') below /= 2
      stayed = 'low'
    }
  }
  return (low + high) / 2
}
