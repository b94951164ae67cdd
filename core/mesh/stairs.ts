/** A flight of equal steps, in metres. */
export type Flight = { riser: number; tread: number }

/**
 * The International Building Code's limits for stairs (2021, 1011.5.2, from memory): risers 102 to 178 mm, treads at
 * least 279 mm.
 */
const STAIR_LIMITS = { leastRiser: 0.102, mostRiser: 0.178, leastTread: 0.279 }
/** Blondel's rule (from memory): two risers and a tread make a step of 600 to 640 mm. */
const STEP_LENGTH = { least: 0.6, most: 0.64 }

export function riserAndTread({ height, depth, count }: { height: number; depth: number; count: number }): Flight {
  return { riser: height / count, tread: depth / count }
}

/** What is wrong with a flight for walking, in words; nothing if all is well. */
export function stairWarnings({ riser, tread }: Flight): string[] {
  const mm = (metres: number) => `${Math.round(metres * 1000)} mm`
  const { leastRiser, mostRiser, leastTread } = STAIR_LIMITS
  const slack = 1e-9
  const step = 2 * riser + tread
  return [
    ...(riser > mostRiser + slack ? [`Each step is ${mm(riser)} high; at most ${mm(mostRiser)} is allowed.`] : []),
    ...(riser < leastRiser - slack ? [`Each step is ${mm(riser)} high; at least ${mm(leastRiser)} is asked for.`] : []),
    ...(tread < leastTread - slack ? [`Each step is ${mm(tread)} deep; at least ${mm(leastTread)} is asked for.`] : []),
    ...(step < STEP_LENGTH.least - slack || step > STEP_LENGTH.most + slack
      ? [`Two risers and a tread make ${mm(step)}; 600 to 640 mm walk well.`]
      : []),
  ]
}
