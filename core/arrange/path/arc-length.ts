/** Of one stretch, c0 to c3 of c0 + c1·u + c2·u² + c3·u³ for x, then y, then z, with u from 0 to 1. */
export type Cubics = Float64Array

/**
 * Points and weights of the Gauss-Legendre rule of eight points (Abramowitz and Stegun 1964, table 25.4, from memory).
 */
const GAUSS = [
  [0.1834346424956498, 0.362683783378362],
  [0.525532409916329, 0.3137066458778873],
  [0.7966664774136267, 0.2223810344533745],
  [0.9602898564975363, 0.1012285362903763],
] as const

/** Halvings of a stretch after which a piece of it is taken as straight, however sharply it turns. */
const MOST_HALVINGS = 24
/** A piece shorter than this, in metres, is taken as straight too: in plan a path may stand still while it climbs. */
const TINY = 1e-9
/** Of a piece's length: how exact its length and the places within it are. */
const EXACT = 1e-10

/**
 * The way along a cubic, cut so finely that within each piece the place is a polynomial of the way: where it turns
 * sharply in short pieces, elsewhere in long ones.
 */
export class ArcLength {
  /** Where pieces begin, as the stretch's u, and the way to there; of the end too. */
  readonly us: number[] = [0]
  readonly ways: number[] = [0]
  /** Of each piece, the six numbers of u as a polynomial of the share of its way. */
  readonly inverse: number[] = []

  /** @param from where the numbers of the stretch begin. @param isFlat measures in plan, as if there were no heights */
  constructor(
    private readonly cubics: Cubics,
    private readonly from: number,
    private readonly isFlat: boolean,
  ) {
    // Two at least, so that a stretch that is the same both ways round is not taken for even.
    this.cut(0, 0.5, 1)
    this.cut(0.5, 1, 1)
  }

  private cut(a: number, b: number, halvings: number): void {
    const middle = (a + b) / 2
    const whole = this.length(a, b)
    const first = this.length(a, middle)
    if (halvings >= MOST_HALVINGS || whole < TINY) return this.add(b, whole, [a, b - a, 0, 0, 0, 0])
    const numbers = this.hermite(a, b, whole)
    const isExact =
      numbers
      && Math.abs(first + this.length(middle, b) - whole) <= EXACT * whole
      && [0.25, 0.5, 0.75].every(share => {
        const u = at(numbers, share)
        return u > a && u < b && Math.abs(this.length(a, u) - share * whole) <= EXACT * whole
      })
    if (isExact) return this.add(b, whole, numbers)
    this.cut(a, middle, halvings + 1)
    this.cut(middle, b, halvings + 1)
  }

  private add(end: number, length: number, numbers: readonly number[]): void {
    this.us.push(end)
    this.ways.push(this.ways.at(-1)! + length)
    this.inverse.push(...numbers)
  }

  private speed(u: number): number {
    const { cubics: c, from: f } = this
    const [x, y, z] = [0, 4, 8].map(
      axis => c[f + axis + 1]! + u * (2 * c[f + axis + 2]! + u * 3 * c[f + axis + 3]!),
    ) as [number, number, number]
    return this.isFlat ? Math.sqrt(x * x + z * z) : Math.sqrt(x * x + y * y + z * z)
  }

  /** What the speed changes by. */
  private pull(u: number): number {
    const { cubics: c, from: f } = this
    let dot = 0
    for (let axis = 0; axis < 12; axis += 4) {
      if (this.isFlat && axis === 4) continue
      dot +=
        (c[f + axis + 1]! + u * (2 * c[f + axis + 2]! + u * 3 * c[f + axis + 3]!))
        * (2 * c[f + axis + 2]! + 6 * u * c[f + axis + 3]!)
    }
    return dot / this.speed(u)
  }

  private length(a: number, b: number): number {
    const [middle, half] = [(a + b) / 2, (b - a) / 2]
    let sum = 0
    for (const [point, weight] of GAUSS)
      sum += weight * (this.speed(middle - half * point) + this.speed(middle + half * point))
    return sum * half
  }

  /**
   * The polynomial of the fifth degree that has u, and how u and its change change with the way, at both ends; null
   * where the path stands still.
   */
  private hermite(a: number, b: number, whole: number): number[] | null {
    const [va, vb] = [this.speed(a), this.speed(b)]
    if (!(va > 1e-9 && vb > 1e-9)) return null
    const [da, db] = [whole / va, whole / vb]
    const [ea, eb] = [(-this.pull(a) * whole * whole) / va ** 3, (-this.pull(b) * whole * whole) / vb ** 3]
    const d = b - a
    return [
      a,
      da,
      ea / 2,
      10 * d - 6 * da - 4 * db - 1.5 * ea + eb / 2,
      -15 * d + 8 * da + 7 * db + 1.5 * ea - eb,
      6 * d - 3 * da - 3 * db - ea / 2 + eb / 2,
    ]
  }
}

function at(c: readonly number[], t: number): number {
  return c[0]! + t * (c[1]! + t * (c[2]! + t * (c[3]! + t * (c[4]! + t * c[5]!))))
}
