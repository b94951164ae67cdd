import type { Cast } from './cast'

/** Middles of clumps, sorted into cells of their size. */
export class ClumpMiddles {
  private readonly cells = new Map<string, number[]>()

  constructor(private readonly middles: Cast, private readonly radius: number) {
    for (let i = 0; i < middles.count; i++) {
      const key = this.key(...this.cell(middles.places[i * 3]!, middles.places[i * 3 + 1]!, middles.places[i * 3 + 2]!))
      const list = this.cells.get(key)
      if (list) list.push(i)
      else this.cells.set(key, [i])
    }
  }

  /** 1 in the middle of a clump, down to 0 at its edge and beyond. */
  inside(x: number, y: number, z: number): number {
    const [i, j, k] = this.cell(x, y, z)
    let least = this.radius * this.radius
    for (let a = i - 1; a <= i + 1; a++) for (let b = j - 1; b <= j + 1; b++) for (let c = k - 1; c <= k + 1; c++) {
      for (const at of this.cells.get(this.key(a, b, c)) ?? []) {
        least = Math.min(least, (this.middles.places[at * 3]! - x) ** 2 + (this.middles.places[at * 3 + 1]! - y) ** 2 + (this.middles.places[at * 3 + 2]! - z) ** 2)
      }
    }
    return 1 - least / (this.radius * this.radius)
  }

  private cell(x: number, y: number, z: number): [number, number, number] {
    return [Math.floor(x / this.radius), Math.floor(y / this.radius), Math.floor(z / this.radius)]
  }

  private key(i: number, j: number, k: number): string {
    return `${i} ${j} ${k}`
  }
}
