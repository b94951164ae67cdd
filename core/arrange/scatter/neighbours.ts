import { longer, SIDES } from './pieces'

/** Numbers for each that stands: where, and the squares of what it keeps free, now and in the end. */
const EACH = 5
/** What rounding may make of a square. */
const SURELY = 1 - 1e-9

/** What stands around a piece: found once, and asked for the halves of the piece and for all candidates in them. */
export class Neighbours {
  count = 0
  private all = new Float64Array(64 * EACH)
  private radius = 0
  private apart = 0
  private least = 0

  /**
   * @param radius metres between any two now
   * @param apart the same once that has shrunk
   * @param least metres that whatever comes there keeps free by itself, at the least
   */
  begin(radius: number, apart: number, least: number): void {
    this.radius = radius
    this.apart = apart
    this.least = least
    this.count = 0
  }

  clear(): void {
    this.count = 0
  }

  /** @param reach metres that it keeps free by itself */
  add(x: number, y: number, z: number, reach: number): void {
    const at = this.count++ * EACH
    if (at >= this.all.length) this.all = longer(this.all, Float64Array)
    const { radius, apart, all } = this
    const own = reach + this.least
    const free = own > radius ? own : radius
    const inTheEnd = own > apart ? own : apart
    all[at] = x
    all[at + 1] = y
    all[at + 2] = z
    all[at + 3] = free * free
    all[at + 4] = inTheEnd * inTheEnd
  }

  /**
   * Whether one of them keeps all of a triangle free.
   *
   * @param first where its corners begin
   * @param when now, or once the distance has shrunk
   */
  cover(corners: Float64Array, first: number, when: 'now' | 'in the end'): boolean {
    const { all } = this
    const which = when === 'now' ? 3 : 4
    const end = this.count * EACH
    for (let at = 0; at < end; at += EACH) {
      const square = all[at + which]! * SURELY
      let k = first
      // The triangle lies in the ball if its corners do.
      while (k < first + SIDES) {
        const x = corners[k]! - all[at]!
        const y = corners[k + 1]! - all[at + 1]!
        const z = corners[k + 2]! - all[at + 2]!
        if (x * x + y * y + z * z >= square) break
        k += 3
      }
      if (k === first + SIDES) return true
    }
    return false
  }

  /** Whether one of them keeps a place free, whatever comes there. */
  hold(x: number, y: number, z: number): boolean {
    const { all } = this
    const end = this.count * EACH
    for (let at = 0; at < end; at += EACH) {
      const a = all[at]! - x
      const b = all[at + 1]! - y
      const c = all[at + 2]! - z
      if (a * a + b * b + c * c < all[at + 3]!) return true
    }
    return false
  }
}
