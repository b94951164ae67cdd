/** A line of a drawing in its metres, with the index of its layer. */
export type FoundLine = { x0: number; y0: number; x1: number; y1: number; depth: number; isCut: boolean; layer: number }

const FIRST = 1024

/**
 * Lines by where they run, to half a point of the picture: of those that run at the same place the nearest, and one
 * that is cut before all others. In order of when they were first found.
 */
export class FoundLines {
  count = 0
  /** Of each: both ends in half points, the smaller one first. */
  private keys = new Int32Array(FIRST * 4)
  private ends = new Float64Array(FIRST * 4)
  private depths = new Float64Array(FIRST)
  private cuts = new Uint8Array(FIRST)
  private layers = new Int32Array(FIRST)
  /** Which line lies where its key leads to, one more than its index; 0 where none is (open addressing). */
  private slots = new Int32Array(FIRST * 2)

  /** @param step metres of a point */
  constructor(private readonly step: number) {}

  put(line: FoundLine): void {
    const half = 2 / this.step
    // Far from the origin only the last 32 bits count; no drawing is so wide that these could be another's.
    let [ax, ay, bx, by] = [
      Math.round(line.x0 * half) | 0,
      Math.round(line.y0 * half) | 0,
      Math.round(line.x1 * half) | 0,
      Math.round(line.y1 * half) | 0,
    ]
    if (ax === bx && ay === by) return
    if (ax > bx || (ax === bx && ay > by)) [ax, ay, bx, by] = [bx, by, ax, ay]
    if (this.count === this.depths.length) this.grow()
    const slot = this.slotOf(ax, ay, bx, by)
    let index = this.slots[slot]! - 1
    if (index < 0) {
      index = this.count++
      this.slots[slot] = this.count
      this.keys.set([ax, ay, bx, by], index * 4)
    } else {
      const wasCut = this.cuts[index] === 1
      if (wasCut ? !line.isCut || line.depth <= this.depths[index]! : !line.isCut && line.depth <= this.depths[index]!)
        return
    }
    this.ends.set([line.x0, line.y0, line.x1, line.y1], index * 4)
    this.depths[index] = line.depth
    this.cuts[index] = line.isCut ? 1 : 0
    this.layers[index] = line.layer
  }

  /** @param into filled with the line of an index, so that none need be made for each */
  read(index: number, into: FoundLine): FoundLine {
    into.x0 = this.ends[index * 4]!
    into.y0 = this.ends[index * 4 + 1]!
    into.x1 = this.ends[index * 4 + 2]!
    into.y1 = this.ends[index * 4 + 3]!
    into.depth = this.depths[index]!
    into.isCut = this.cuts[index] === 1
    into.layer = this.layers[index]!
    return into
  }

  /** Where a key lies, or where it would be put. */
  private slotOf(ax: number, ay: number, bx: number, by: number): number {
    const { keys, slots } = this
    const mask = slots.length - 1
    let slot = mix(mix(mix(mix(0, ax), ay), bx), by) & mask
    for (; slots[slot] !== 0; slot = (slot + 1) & mask) {
      const at = (slots[slot]! - 1) * 4
      if (keys[at] === ax && keys[at + 1] === ay && keys[at + 2] === bx && keys[at + 3] === by) break
    }
    return slot
  }

  private grow(): void {
    const longer = <T extends Int32Array | Float64Array | Uint8Array>(old: T): T => {
      const more = new (old.constructor as new (length: number) => T)(old.length * 2)
      more.set(old)
      return more
    }
    this.keys = longer(this.keys)
    this.ends = longer(this.ends)
    this.depths = longer(this.depths)
    this.cuts = longer(this.cuts)
    this.layers = longer(this.layers)
    this.slots = new Int32Array(this.slots.length * 2)
    const { keys } = this
    for (let i = 0; i < this.count; i++)
      this.slots[this.slotOf(keys[i * 4]!, keys[i * 4 + 1]!, keys[i * 4 + 2]!, keys[i * 4 + 3]!)] = i + 1
  }
}

/** One more number into a hash (the steps of MurmurHash3, Appleby 2011, from memory). */
function mix(hash: number, value: number): number {
  let k = Math.imul(value, 0xcc9e2d51)
  k = (k << 15) | (k >>> 17)
  let h = hash ^ Math.imul(k, 0x1b873593)
  h = (h << 13) | (h >>> 19)
  h = Math.imul(h, 5) + 0xe6546b64
  return h ^ (h >>> 16)
}
