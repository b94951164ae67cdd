// What grows from copy to copy, without working out those before it.

/** Times, and metres; the smallest size is one over it. Three of these multiplied are still a number in a file. */
const LARGEST = 1e12

export const isSizeInRange = (size: number) => size >= 1 / LARGEST && size <= LARGEST
export const isWayInRange = (way: number) => way <= LARGEST

/**
 * The share of the way that copy `i` has gone, in gaps of the first one's size: the sum of i terms of a geometric
 * series.
 */
export function geometricWay(ratio: number, i: number): number {
  return ratio === 1 ? i : (ratio ** i - 1) / (ratio - 1)
}

/** The first of `count` numbers for which something holds that then holds for all after it; null if for none. */
export function firstWhere(count: number, holds: (i: number) => boolean): number | null {
  let [low, high] = [0, count]
  while (low < high) {
    const middle = Math.floor((low + high) / 2)
    if (holds(middle)) high = middle
    else low = middle + 1
  }
  return low < count ? low : null
}
