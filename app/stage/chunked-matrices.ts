import { Box3, Matrix4, Sphere, Vector3 } from 'three'

/**
 * Instances that stand near to each other: neighbours in `sorted`, in an order of which any beginning lies all over.
 */
export type Chunk = { start: number; count: number; box: Box3 }

/** Metres along the sides of a chunk's cell. */
const CELL = 24

/** The matrices of instances of one shape, those that stand near to each other beside each other. */
export class ChunkedMatrices {
  readonly chunks: Chunk[] = []
  readonly sorted: Float32Array
  private readonly places: Int32Array
  private readonly chunkOf: Int32Array

  /**
   * @param array sixteen numbers for each of `count` instances
   * @param bounds the sphere around the shape, in its own axes
   */
  constructor(
    array: Float32Array,
    readonly count: number,
    private readonly bounds: Sphere,
  ) {
    this.sorted = new Float32Array(count * 16)
    this.places = new Int32Array(count)
    this.chunkOf = new Int32Array(count)
    const cells = new Map<string, number[]>()
    for (const slot of scattered(count)) {
      const key = `${Math.floor(array[slot * 16 + 12]! / CELL)} ${Math.floor(array[slot * 16 + 13]! / CELL)} ${Math.floor(array[slot * 16 + 14]! / CELL)}`
      const slots = cells.get(key)
      if (slots) slots.push(slot)
      else cells.set(key, [slot])
    }
    let start = 0
    for (const slots of cells.values()) {
      const chunk = { start, count: slots.length, box: new Box3() }
      for (const slot of slots) {
        this.places[slot] = start++
        this.chunkOf[slot] = this.chunks.length
      }
      this.chunks.push(chunk)
      for (const slot of slots) this.write(slot, array)
    }
  }

  /** An instance stands otherwise now. It stays with those it was with, whose box grows. */
  write(slot: number, array: Float32Array): void {
    this.sorted.set(array.subarray(slot * 16, slot * 16 + 16), this.places[slot]! * 16)
    sphere.copy(this.bounds).applyMatrix4(matrix.fromArray(array, slot * 16))
    this.chunks[this.chunkOf[slot]!]!.box.union(
      box.setFromCenterAndSize(sphere.center, size.setScalar(sphere.radius * 2)),
    )
  }
}

const [matrix, sphere, box, size] = [new Matrix4(), new Sphere(), new Box3(), new Vector3()]

/** Whole numbers below a count, each once, by a linear congruence of full period (Hull and Dobell 1962). */
function* scattered(count: number): Generator<number> {
  const mask = 2 ** Math.ceil(Math.log2(Math.max(count, 1))) - 1
  for (let i = 0, at = 0; i < count; at = (Math.imul(at, 1664525) + 1013904223) & mask) {
    if (at >= count) continue
    yield at
    i++
  }
}
