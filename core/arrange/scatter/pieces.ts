/**
 * Room for as many pieces, or candidates, is kept between two casts: taking new memory takes longer than filling it.
 */
const KEPT_ROOM = 2 ** 19

/** Numbers of a triangle: three corners. */
export const SIDES = 9

/** Pieces of facets, growing. */
export class Pieces {
  count = 0
  corners = new Float64Array(256 * SIDES)
  areas = new Float64Array(256)
  names = new Uint32Array(512)
  facets = new Int32Array(256)
  inside = new Uint8Array(256)
  private isKept = true

  /** Begins anew. @param isKept false where they are only counted: nobody goes into them */
  begin(isKept: boolean): void {
    this.count = 0
    this.isKept = isKept
  }

  push(
    from: Float64Array,
    at: number,
    area: number,
    first: number,
    second: number,
    facet: number,
    inside: number,
  ): void {
    const n = this.count++
    if (!this.isKept) return
    if (n >= this.areas.length) this.grow()
    const to = n * SIDES
    for (let k = 0; k < SIDES; k++) this.corners[to + k] = from[at + k]!
    this.areas[n] = area
    this.names[n * 2] = first
    this.names[n * 2 + 1] = second
    this.facets[n] = facet
    this.inside[n] = inside
  }

  private grow(): void {
    this.corners = longer(this.corners, Float64Array)
    this.areas = longer(this.areas, Float64Array)
    this.names = longer(this.names, Uint32Array)
    this.facets = longer(this.facets, Int32Array)
    this.inside = longer(this.inside, Uint8Array)
  }
}

/** Room for the pieces and candidates of a cast. */
export type Room = { pieces: [Pieces, Pieces]; candidates: Candidates }
const rooms: Room[] = []

/** Room that is free, or new. */
export const takeRoom = (): Room =>
  rooms.pop() ?? { pieces: [new Pieces(), new Pieces()], candidates: new Candidates() }

/** Leaves room to the next cast, unless it is very large. */
export function leaveRoom(room: Room): void {
  const largest = Math.max(room.candidates.births.length, ...room.pieces.map(({ areas }) => areas.length))
  if (rooms.length === 0 && largest <= KEPT_ROOM) rooms.push(room)
}

/** Candidates of one level, growing. */
export class Candidates {
  count = 0
  /** Its birth within the level in 30 bits. */
  births = new Float64Array(1024)
  places = new Float64Array(3072)
  facets = new Int32Array(1024)
  names = new Int32Array(2048)

  push(birth: number, x: number, y: number, z: number, facet: number, first: number, second: number): void {
    const n = this.count++
    if (n >= this.births.length) {
      this.births = longer(this.births, Float64Array)
      this.places = longer(this.places, Float64Array)
      this.facets = longer(this.facets, Int32Array)
      this.names = longer(this.names, Int32Array)
    }
    this.births[n] = birth
    this.places[n * 3] = x
    this.places[n * 3 + 1] = y
    this.places[n * 3 + 2] = z
    this.facets[n] = facet
    this.names[n * 2] = first
    this.names[n * 2 + 1] = second
  }

  /** Takes those of another list instead of its own; none without one. */
  beginWith(others: Candidates | null): void {
    this.count = 0
    for (let i = 0; others !== null && i < others.count; i++)
      this.push(
        others.births[i]!,
        others.places[i * 3]!,
        others.places[i * 3 + 1]!,
        others.places[i * 3 + 2]!,
        others.facets[i]!,
        others.names[i * 2]!,
        others.names[i * 2 + 1]!,
      )
  }

  /** Their numbers in the order of their births. */
  order(): Float64Array {
    const keys = new Float64Array(this.count)
    // Numbers sort several times quicker than by a comparison; 30 bits of birth leave 23 for which it is.
    for (let i = 0; i < this.count; i++) keys[i] = this.births[i]! * ORDER + i
    keys.sort()
    for (let i = 0; i < this.count; i++) keys[i]! %= ORDER
    return keys
  }
}

const ORDER = 2 ** 23

/** An array of twice the length, with the same at its beginning. */
export function longer<T extends Float64Array | Uint32Array | Int32Array | Uint8Array>(
  array: T,
  type: new (length: number) => T,
): T {
  const more = new type(array.length * 2)
  more.set(array)
  return more
}

/** Where the longest side of a triangle begins: its end and the corner opposite follow. */
export function longestSide(corners: Float64Array, at: number): number {
  const ab = squareOf(corners, at, at + 3)
  const bc = squareOf(corners, at + 3, at + 6)
  const ca = squareOf(corners, at + 6, at)
  return ab >= bc && ab >= ca ? 0 : bc >= ca ? 3 : 6
}

/** Writes both halves of a triangle that is cut from the middle of a side to the corner opposite. */
export function bisect(corners: Float64Array, at: number, side: number, out: Float64Array, to: number): void {
  const b = (side + 3) % SIDES
  const c = (side + 6) % SIDES
  for (let k = 0; k < 3; k++) {
    const p = corners[at + side + k]!
    const q = corners[at + b + k]!
    const r = corners[at + c + k]!
    const middle = (p + q) / 2
    out[to + k] = p
    out[to + 3 + k] = out[to + SIDES + k] = middle
    out[to + SIDES + 3 + k] = q
    out[to + 6 + k] = out[to + SIDES + 6 + k] = r
  }
}

function squareOf(corners: Float64Array, p: number, q: number): number {
  const x = corners[p]! - corners[q]!
  const y = corners[p + 1]! - corners[q + 1]!
  const z = corners[p + 2]! - corners[q + 2]!
  return x * x + y * y + z * z
}

/** How far the corners of a triangle are from the middle of them, at most. */
export function circumference(corners: Float64Array, at: number): number {
  const x = (corners[at]! + corners[at + 3]! + corners[at + 6]!) / 3
  const y = (corners[at + 1]! + corners[at + 4]! + corners[at + 7]!) / 3
  const z = (corners[at + 2]! + corners[at + 5]! + corners[at + 8]!) / 3
  let most = 0
  for (let k = at; k < at + SIDES; k += 3) {
    const a = corners[k]! - x
    const b = corners[k + 1]! - y
    const c = corners[k + 2]! - z
    const square = a * a + b * b + c * c
    if (square > most) most = square
  }
  return Math.sqrt(most)
}

/** The square of a side of a triangle. */
export const squareOfSide = (corners: Float64Array, side: number) => squareOf(corners, side, (side + 3) % SIDES)
