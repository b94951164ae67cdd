/**
 * What numbers by chance are for. Each use has a stream of its own, so that what one draws says nothing about another.
 */
export const CHANCES = ['source', 'move', 'turn', 'size', 'rise'] as const
export type Chance = (typeof CHANCES)[number]

/**
 * PCG-XSH-RR with 64 bits of state and 32 of output (O'Neill 2014, "PCG: A family of simple fast space-efficient
 * statistically good algorithms for random number generation", HMC-CS-2014-0905). Its 64 bits are kept as two halves:
 * whole numbers of that size are twenty times slower here.
 */
export class Pcg32 {
  private high = 0
  private low = 0
  private addHigh = 0
  private addLow = 1

  /**
   * @param state where on the stream it begins, and @param stream which; each 64 bits as [high, low]
   */
  constructor([stateHigh, stateLow]: readonly [number, number], [streamHigh, streamLow]: readonly [number, number]) {
    this.begin(stateHigh, stateLow, streamHigh, streamLow)
  }

  /** Begins again elsewhere. */
  begin(stateHigh: number, stateLow: number, streamHigh: number, streamLow: number): void {
    this.addHigh = ((streamHigh << 1) | (streamLow >>> 31)) >>> 0
    this.addLow = ((streamLow << 1) | 1) >>> 0
    this.high = this.low = 0
    this.step()
    this.add(stateHigh >>> 0, stateLow >>> 0)
    this.step()
  }

  /** The next 32 bits, as a whole number that is not negative. */
  next(): number {
    const { high, low } = this
    this.step()
    // The upper half of ((state >> 18) ^ state) >> 27, turned by the five highest bits.
    const mixedHigh = high ^ (high >>> 18)
    const mixedLow = low ^ ((low >>> 18) | (high << 14))
    const word = (mixedLow >>> 27) | (mixedHigh << 5)
    const turn = high >>> 27
    return ((word >>> turn) | (word << (-turn & 31))) >>> 0
  }

  /** The next number from 0 to 1, not 1 itself. */
  share(): number {
    return this.next() / 2 ** 32
  }

  /** state · 6364136223846793005 + stream */
  private step(): void {
    const { high, low } = this
    const [a, b] = [low >>> 16, low & 0xffff]
    // 6364136223846793005 is 0x5851f42d4c957f2d.
    const [c, d] = [0x4c95, 0x7f2d]
    const bd = b * d
    const middle = a * d + (bd >>> 16)
    const other = b * c + (middle % 65536)
    const carried = a * c + Math.floor(middle / 65536) + Math.floor(other / 65536)
    this.high = (carried + Math.imul(high, 0x4c957f2d) + Math.imul(low, 0x5851f42d)) >>> 0
    this.low = (((other & 0xffff) << 16) | (bd & 0xffff)) >>> 0
    this.add(this.addHigh, this.addLow)
  }

  private add(high: number, low: number): void {
    const sum = this.low + low
    this.low = sum >>> 0
    this.high = (this.high + high + (sum > 0xffffffff ? 1 : 0)) >>> 0
  }
}

/**
 * The numbers by chance of one place for one use: always the same ones, whatever is drawn elsewhere and however many
 * places there are.
 *
 * @param seed below 2^32
 * @returns a generator that the next call uses again: there may be millions of places
 */
export function chanceAt(use: Chance, seed: number, row: number, column: number, layer: number): Pcg32 {
  // Neighbouring states would give neighbouring numbers; so they are scattered first.
  const low = scatter(scatter(scatter(mix(seed ^ 0x9e3779b9), row), column), layer)
  shared.begin(mix(low ^ 0x7f4a7c15), low, 0, CHANCES.indexOf(use) + 1)
  return shared
}

const shared = new Pcg32([0, 0], [0, 0])

/** 32 bits by chance for a place of a grid, the same for it always. */
export const hash3 = (seed: number, x: number, y: number, z: number): number =>
  scatter(scatter(scatter(mix(seed ^ 0x9e3779b9), x), y), z) >>> 0

const scatter = (hash: number, part: number) => mix(hash ^ Math.imul(part + 1, 0x85ebca6b))

/**
 * Numbers by chance where millions of short sequences are begun: a counter from two names, each value scattered by
 * itself. Several times quicker to begin than a generator of 64 bits.
 */
export class Quick {
  private state = 0
  private add = 0

  begin(first: number, second: number, use: number): void {
    this.state = mix(first ^ Math.imul(use + 1, 0x9e3779b9))
    // An odd step goes through all 32 bits.
    this.add = mix(second ^ this.state) | 1
  }

  /** Goes past so many numbers. */
  skip(count: number): void {
    this.state = (this.state + Math.imul(this.add, count)) | 0
  }

  /** The next 32 bits, as a whole number that is not negative. */
  next(): number {
    this.state = (this.state + this.add) | 0
    return mix(this.state) >>> 0
  }

  /** The next number from 0 to 1, not 1 itself. */
  share(): number {
    return this.next() / 2 ** 32
  }
}

/** The last step of MurmurHash3 (Appleby, public domain). */
function mix(hash: number): number {
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b)
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35)
  return hash ^ (hash >>> 16)
}
