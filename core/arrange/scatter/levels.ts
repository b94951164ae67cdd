// The random process of a scatter is made level by level, each with twice the births of the one before, over pieces of
// half the area.

/** Square metres of a piece of the first level. */
const FIRST_AREA = 2 ** 20
/** The last level: pieces of a thousandth of a square millimetre. */
export const LAST_LEVEL = 50
/** Of the even spread: the square of the distance at a level, in pieces of it. */
const EVEN = 5
/** The largest distance of the even spread, in metres: what comes before it is farther apart than that anyway. */
const WIDEST_EVEN = 400
/** Births within a level that are told apart. */
const BIRTHS = 2 ** 30

/** Square metres of a piece of a level. */
export const areaAt = (level: number) => FIRST_AREA / 2 ** level

/** Births before a level. */
export const birthAt = (level: number) => (2 ** level - 1) / FIRST_AREA

/** The birth that a number of 30 bits stands for at a level whose pieces are so large, counted from its beginning. */
export const birthWithin = (number: number, area: number) => number / BIRTHS / area

/** The number of 30 bits that stands for a birth within its level. */
export const numberOfBirth = (birth: number, level: number) =>
  Math.floor((birth - birthAt(level)) * areaAt(level) * BIRTHS)

/** The level that a birth is in. */
export function levelOf(birth: number): number {
  let level = 0
  while (level < LAST_LEVEL && birthAt(level + 1) <= birth) level++
  return level
}

/** The level at which a facet begins, whose pieces are about as large; -1 if it is larger than those of the first. */
export const levelOfFacet = (area: number) =>
  area >= FIRST_AREA ? -1 : Math.min(Math.floor(Math.log2(FIRST_AREA / area)), LAST_LEVEL)

/** Metres between any two of the even spread, at a level whose pieces are so large. */
export const evenDistance = (area: number, apart: number) =>
  Math.max(apart, Math.min(Math.sqrt(EVEN * area), WIDEST_EVEN))
