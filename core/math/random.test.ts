import { describe, expect, it } from 'vitest'
import type { Chance } from './random'
import { CHANCES, chanceAt, Pcg32 } from './random'

describe('PCG32', () => {
  it("gives the published numbers: state 42, stream 54 (the demonstration of the reference implementation, O'Neill 2014)", () => {
    const random = new Pcg32([0, 42], [0, 54])
    expect(Array.from({ length: 6 }, () => random.next())).toEqual([
      0xa15c02b7, 0x7b47f409, 0xba1d3330, 0x83d2f293, 0xbfa4784b, 0xcbed606e,
    ])
  })

  it('is what 64-bit arithmetic gives, whatever the state and stream', () => {
    const mask = (1n << 64n) - 1n
    function* plain(state: bigint, stream: bigint): Generator<number> {
      const add = ((stream << 1n) | 1n) & mask
      let at = ((((0n * 6364136223846793005n + add) & mask) + state) * 6364136223846793005n + add) & mask
      for (;;) {
        const word = Number((((at >> 18n) ^ at) >> 27n) & 0xffffffffn)
        const turn = Number(at >> 59n)
        yield ((word >>> turn) | (word << (-turn & 31))) >>> 0
        at = (at * 6364136223846793005n + add) & mask
      }
    }
    const source = new Pcg32([1, 2], [3, 4])
    for (let i = 0; i < 200; i++) {
      const [a, b, c, d] = Array.from({ length: 4 }, () => source.next()) as [number, number, number, number]
      const expected = plain((BigInt(a) << 32n) | BigInt(b), (BigInt(c) << 32n) | BigInt(d))
      const random = new Pcg32([a, b], [c, d])
      for (let n = 0; n < 20; n++) expect(random.next()).toBe(expected.next().value)
    }
  })
})

describe('chance at a place', () => {
  const drawn = (use: Chance, seed: number, draw = 0) =>
    Array.from({ length: 4000 }, (_, i) => {
      const random = chanceAt(use, seed, i % 40, Math.floor(i / 40), 0)
      for (let n = 0; n < draw; n++) random.next()
      return random.share()
    })
  /**
   * Pearson's; of 4,000 pairs that have nothing to do with each other 0.016 in the mean, above 0.08 once in a million.
   */
  const correlation = (a: number[], b: number[]) => {
    const mean = (list: number[]) => list.reduce((sum, value) => sum + value, 0) / list.length
    const [ma, mb] = [mean(a), mean(b)]
    const sum = (of: (i: number) => number) => a.reduce((total, _, i) => total + of(i), 0)
    return sum(i => (a[i]! - ma) * (b[i]! - mb)) / Math.sqrt(sum(i => (a[i]! - ma) ** 2) * sum(i => (b[i]! - mb) ** 2))
  }

  it('is even: of ten bins each has a tenth (chi squared of nine degrees, below 33.7 but once in ten thousand)', () => {
    for (const use of CHANCES)
      for (const draw of [0, 1, 2]) {
        const bins = new Array<number>(10).fill(0)
        for (const share of drawn(use, 7, draw)) bins[Math.floor(share * 10)]!++
        expect(bins.reduce((sum, count) => sum + (count - 400) ** 2 / 400, 0)).toBeLessThan(33.7)
      }
  })

  it('has nothing to do with another use, another draw, the next seed or the next place', () => {
    const first = drawn('move', 7)
    for (const other of CHANCES.filter(use => use !== 'move'))
      expect(Math.abs(correlation(first, drawn(other, 7)))).toBeLessThan(0.08)
    expect(Math.abs(correlation(first, drawn('move', 7, 1)))).toBeLessThan(0.08)
    expect(Math.abs(correlation(first, drawn('move', 8)))).toBeLessThan(0.08)
    expect(Math.abs(correlation(first.slice(1), first.slice(0, -1)))).toBeLessThan(0.08)
    expect(Math.abs(correlation(first.slice(40), first.slice(0, -40)))).toBeLessThan(0.08)
  })
})
