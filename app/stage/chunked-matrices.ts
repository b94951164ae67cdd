import { Box3, Matrix4, Sphere, Vector3 } from 'three'

/**
 * Instances that stand near to each other: neighbours in `sorted`, in an order of which any beginning lies all over.
 */
export type Chunk = { start: number; count: number; box: Box3 }

/** Metres along the sides of the cells that chunks are of: the largest first. */
const CELLS = [24, 12, 6, 3]
/** Of more instances than this in a cell, those of each smaller cell are a chunk by themselves. */
const CROWDED = 200

/** The matrices of instances of one shape, those that stand near to each other beside each other. */
export class ChunkedMatrices {
  readonly chunks: Chunk[] = []
  private readonly places: Int32Array
  private readonly chunkOf: Int32Array

  /**
   * @param array sixteen numbers for each of `count` instances
   * @param bounds the sphere around the shape, in its own axes
   * @param sorted where the matrices are written to, chunk by chunk
   */
  constructor(
    array: Float32Array | Float64Array,
    readonly count: number,
    private readonly bounds: Sphere,
    readonly sorted: Float32Array = new Float32Array(count * 16),
  ) {
    this.places = new Int32Array(count)
    this.chunkOf = new Int32Array(count)
    let start = 0
    for (const slots of inCells(array, scattered(count))) {
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
  write(slot: number, array: Float32Array | Float64Array): void {
    const to = this.places[slot]! * 16
    for (let k = 0; k < 16; k++) this.sorted[to + k] = array[slot * 16 + k]!
    sphere.copy(this.bounds).applyMatrix4(matrix.fromArray(array, slot * 16))
    this.chunks[this.chunkOf[slot]!]!.box.union(
      box.setFromCenterAndSize(sphere.center, size.setScalar(sphere.radius * 2)),
    )
  }
}

const [matrix, sphere, box, size] = [new Matrix4(), new Sphere(), new Box3(), new Vector3()]

/** Parts instances by where they stand: into smaller cells where many stand in one. */
function* inCells(
  array: Float32Array | Float64Array,
  slots: Iterable<number>,
  depth = 0,
): Generator<readonly number[]> {
  const cells = new Map<string, number[]>()
  const cell = CELLS[depth]!
  for (const slot of slots) {
    const at = slot * 16 + 12
    const key = `${Math.floor(array[at]! / cell)} ${Math.floor(array[at + 1]! / cell)} ${Math.floor(array[at + 2]! / cell)}`
    const found = cells.get(key)
    if (found) found.push(slot)
    else cells.set(key, [slot])
  }
  for (const found of cells.values()) {
    if (found.length > CROWDED && depth + 1 < CELLS.length) yield* inCells(array, found, depth + 1)
    else yield found
  }
}

/**
 * Whole numbers below a count, each once, in an order of which any beginning lies all over: by a linear congruence of
 * full period (Hull and Dobell 1962). Even steps would draw stripes in a grid.
 */
export function* scattered(count: number): Generator<number> {
  const mask = 2 ** Math.ceil(Math.log2(Math.max(count, 1))) - 1
  for (let i = 0, at = 0; i < count; at = (Math.imul(at, 1664525) + 1013904223) & mask) {
    if (at >= count) continue
    yield at
    i++
  }
}
