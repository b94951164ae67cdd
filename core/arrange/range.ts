import { lineCount } from './count'
import { geometricWay } from './evaluate'
import type { LineRule, Rule } from './rule'

/** Times, and metres; the smallest size is one over it. Three of these multiplied are still a number in a file. */
const LARGEST = 1e12

/**
 * The first copy that would be larger, smaller or farther away than can be worked with, because it grows with every step; null if
 * none is. Without evaluating the rule: sizes and ways only grow or only shrink.
 *
 * @returns its index
 */
export function firstBeyondRange(rule: Rule): number | null {
  if (rule.rule === 'ring') return firstWhere(rule.count, i => !isInRange(rule.size ** i))
  if (rule.rule !== 'line') return null
  const wayTo = longestWay(rule)
  return firstWhere(lineCount(rule), i => !isInRange(rule.size ** i) || !(wayTo(i) <= LARGEST))
}

const isInRange = (size: number) => size >= 1 / LARGEST && size <= LARGEST

/** How far a copy can be from the first one, if every step went straight on. */
function longestWay(rule: LineRule): (i: number) => number {
  const { along, ratio, size, axes, measure } = rule
  const step = Math.hypot(...along) / (measure === 'spacing' ? 1 : geometricWay(ratio, Math.max(lineCount(rule) - 1, 1)))
  // In axes of their own, steps grow with the copies.
  const grows = axes === 'local' ? ratio * size : ratio
  return i => step * geometricWay(grows, i)
}

/** The first of `count` numbers for which something holds that then holds for all after it; null if for none. */
function firstWhere(count: number, holds: (i: number) => boolean): number | null {
  let [low, high] = [0, count]
  while (low < high) {
    const middle = Math.floor((low + high) / 2)
    if (holds(middle)) high = middle
    else low = middle + 1
  }
  return low < count ? low : null
}
