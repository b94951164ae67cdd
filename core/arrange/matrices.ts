import type { Quaternion } from 'three'
import { Matrix4, Vector3 } from 'three'
import type { Vec3 } from '../math/vectors'

// Writing the matrices of very many copies into one array, sixteen numbers each, column by column.

const SIXTEEN = 16

export type Out = Float64Array | Float32Array

export function writeMatrix(out: Out, i: number, { elements }: Matrix4): void {
  const at = i * SIXTEEN
  for (let k = 0; k < SIXTEEN; k++) out[at + k] = elements[k]!
}

/** A copy that stands somewhere, turned, and sized alike along all axes. */
export function writeTurned(
  out: Out,
  i: number,
  x: number,
  y: number,
  z: number,
  rotation: Quaternion,
  size: number,
): void {
  writeMatrix(out, i, matrix.compose(position.set(x, y, z), rotation, scale.setScalar(size)))
}

/** A copy that is only moved. Written out number by number: a loop over the zeros takes half as long again. */
export function writePlace(out: Out, i: number, x: number, y: number, z: number): void {
  const at = i * SIXTEEN
  out[at] = out[at + 5] = out[at + 10] = out[at + 15] = 1
  out[at + 1] = out[at + 2] = out[at + 3] = out[at + 4] = 0
  out[at + 6] = out[at + 7] = out[at + 8] = out[at + 9] = 0
  out[at + 11] = 0
  out[at + 12] = x
  out[at + 13] = y
  out[at + 14] = z
}

/** Moves the first copies on. */
export function shiftPlaces(out: Out, count: number, x: number, y: number, z: number): void {
  for (let i = 0; i < count; i++) {
    out[i * SIXTEEN + 12]! += x
    out[i * SIXTEEN + 13]! += y
    out[i * SIXTEEN + 14]! += z
  }
}

/** How many steps are made from one exact angle before the next one is worked out. */
const STEPS_FROM_EXACT = 32

/**
 * The cosine and sine of angles in equal steps: each by turning the one before, which is several times quicker than
 * working it out; every now and then from the angle itself, so that rounding does not add up.
 */
export class SteadyTurn {
  cos = 1
  sin = 0
  private readonly stepCos: number
  private readonly stepSin: number

  /** In degrees. */
  constructor(
    private readonly start: number,
    private readonly pitch: number,
  ) {
    this.stepCos = Math.cos((pitch * Math.PI) / 180)
    this.stepSin = Math.sin((pitch * Math.PI) / 180)
  }

  /** For i = 0, 1, 2 … in this order. */
  at(i: number): this {
    if (i % STEPS_FROM_EXACT === 0) {
      const angle = ((this.start + this.pitch * i) * Math.PI) / 180
      this.cos = Math.cos(angle)
      this.sin = Math.sin(angle)
      return this
    }
    const { cos, sin } = this
    this.cos = cos * this.stepCos - sin * this.stepSin
    this.sin = sin * this.stepCos + cos * this.stepSin
    return this
  }
}

/** Writes copies turned about an axis and put beside it. */
export class AroundAxis {
  /** The next axis and the one after it, in the sense of a right-handed turn. */
  private readonly u: number
  private readonly v: number

  constructor(
    private readonly out: Out,
    private readonly axis: number,
  ) {
    this.u = (axis + 1) % 3
    this.v = (axis + 2) % 3
  }

  /** @param cos and sin of how far the copy itself is turned */
  write(i: number, cos: number, sin: number, size: number, alongU: number, alongV: number, along: number): void {
    const { out, axis, u, v } = this
    const at = i * SIXTEEN
    out[at + axis * 5] = size
    out[at + axis * 4 + u] = out[at + axis * 4 + v] = out[at + u * 4 + axis] = out[at + v * 4 + axis] = 0
    out[at + u * 5] = out[at + v * 5] = cos * size
    out[at + u * 4 + v] = sin * size
    out[at + v * 4 + u] = -sin * size
    out[at + 3] = out[at + 7] = out[at + 11] = 0
    out[at + 12 + u] = alongU
    out[at + 12 + v] = alongV
    out[at + 12 + axis] = along
    out[at + 15] = 1
  }
}

/** Writes copies that are turned about X, Y and Z by so much for each step, and sized by so much. */
export class TurnedSteps {
  private readonly turns: readonly [SteadyTurn, SteadyTurn, SteadyTurn]
  private grown = 1

  /** @param turn degrees for each step, applied as `degreesToQuat` does, and @param size factor for each step */
  constructor(
    private readonly out: Out,
    turn: Vec3,
    private readonly size: number,
  ) {
    this.turns = [new SteadyTurn(0, turn[0]), new SteadyTurn(0, turn[1]), new SteadyTurn(0, turn[2])]
  }

  /** For i = 0, 1, 2 … in this order. The nine numbers are those of a turn about Z, then X, then Y. */
  write(i: number, x: number, y: number, z: number): void {
    const {
      out,
      turns: [pitch, heading, roll],
      size,
    } = this
    const [{ cos: a, sin: b }, { cos: c, sin: d }, { cos: e, sin: f }] = [pitch.at(i), heading.at(i), roll.at(i)]
    const grown = (this.grown = i % STEPS_FROM_EXACT === 0 ? size ** i : this.grown * size)
    const at = i * SIXTEEN
    out[at] = (c * e + d * f * b) * grown
    out[at + 1] = a * f * grown
    out[at + 2] = (c * f * b - d * e) * grown
    out[at + 4] = (d * e * b - c * f) * grown
    out[at + 5] = a * e * grown
    out[at + 6] = (d * f + c * e * b) * grown
    out[at + 8] = a * d * grown
    out[at + 9] = -b * grown
    out[at + 10] = a * c * grown
    out[at + 3] = out[at + 7] = out[at + 11] = 0
    out[at + 12] = x
    out[at + 13] = y
    out[at + 14] = z
    out[at + 15] = 1
  }
}

const [matrix, position, scale] = [new Matrix4(), new Vector3(), new Vector3()]
