import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Vec3 } from '../level/schema'
import { degreesToQuat } from '../level/transform'
import type { FanRule, GridRule, LineRule, MirrorRule, RingRule, Rule } from './rule'
import { countOf, fanRowCount, lineCount } from './count'
import { evaluatePath } from './path'
import { riseOf } from './rise'

/** Numbers of a matrix. */
const SIXTEEN = 16

/**
 * Writes the matrix of each copy, column by column, from the arrangement's own axes: sixteen numbers a copy, in the order of their
 * keys. The first copy of a line and of a grid that are not centred is the source as it stands.
 *
 * @param out at least sixteen times `countOf(rule)` long; nothing is allocated per copy
 * @returns the number of copies
 */
export function evaluate(rule: Rule, out: Float64Array | Float32Array): number {
  switch (rule.rule) {
    case 'line': return evaluateLine(rule, out)
    case 'grid': return evaluateGrid(rule, out)
    case 'ring': return evaluateRing(rule, out)
    case 'fan': return evaluateFan(rule, out)
    case 'path': return evaluatePath(rule, (i, each) => writeMatrix(out, i, each))
    case 'mirror': return evaluateMirror(rule, out)
  }
}

/** The copies of a rule as an array. @param spare is written into if it is long enough; a fresh one is a large part of the work */
export function copiesOf(rule: Rule, spare?: Float64Array | null): Float64Array {
  const length = countOf(rule) * SIXTEEN
  const out = spare && spare.length >= length ? spare.subarray(0, length) : new Float64Array(length)
  evaluate(rule, out)
  return out
}

/** The share of the way that copy `i` has gone, in gaps of the first one's size: the sum of i terms of a geometric series. */
export function geometricWay(ratio: number, i: number): number {
  return ratio === 1 ? i : (ratio ** i - 1) / (ratio - 1)
}

function evaluateLine(rule: LineRule, out: Float64Array | Float32Array): number {
  const count = lineCount(rule)
  const gaps = geometricWay(rule.ratio, count - 1)
  // Along the whole span the shares of the way end at exactly 1.
  const whole = rule.measure === 'spacing' || count === 1 ? 1 : gaps
  const along = new Vector3(...rule.along)
  const turns = rule.turn.some(value => value !== 0) || rule.size !== 1
  if (rule.axes === 'local' && turns) return evaluateSpiral(rule, count, along.divideScalar(whole), out)
  const before = rule.centred ? gaps / whole / 2 : 0
  const { x, y, z } = along
  const rotation = new Quaternion()
  for (let i = 0; i < count; i++) {
    const way = geometricWay(rule.ratio, i) / whole - before
    if (!turns) {
      writePlace(out, i, x * way, y * way, z * way)
      continue
    }
    rotation.set(...degreesToQuat(rule.turn.map(value => value * i) as Vec3))
    write(out, i, x * way, y * way, z * way, rotation, rule.size ** i)
  }
  return count
}

/** Each copy stands to the one before as that to its own: the same move, turn and size, in the axes of the one before. */
function evaluateSpiral({ turn, size, ratio, centred }: LineRule, count: number, along: Vector3, out: Float64Array | Float32Array): number {
  const step = new Quaternion(...degreesToQuat(turn))
  const [position, rotation, way] = [new Vector3(), new Quaternion(), new Vector3()]
  let grown = 1
  for (let i = 0; i < count; i++) {
    write(out, i, position.x, position.y, position.z, rotation, grown)
    position.add(way.copy(along).multiplyScalar(grown * ratio ** i).applyQuaternion(rotation))
    rotation.multiply(step).normalize()
    grown *= size
  }
  if (centred && count > 1) shift(out, count, -out[(count - 1) * SIXTEEN + 12]! / 2, -out[(count - 1) * SIXTEEN + 13]! / 2, -out[(count - 1) * SIXTEEN + 14]! / 2)
  return count
}

function evaluateGrid(rule: GridRule, out: Float64Array | Float32Array): number {
  const { counts: [columns, layers, rows], stagger, bond, centred } = rule
  const [dx, dy, dz] = rule.spacing.map((value, axis) => rule.measure === 'spacing' ? value : value / Math.max(rule.counts[axis]! - 1, 1)) as Vec3
  const [left, low, back] = centred ? [(columns - 1) * dx / 2, (layers - 1) * dy / 2, (rows - 1) * dz / 2] : [0, 0, 0]
  const heightOf = riseOf(rule.rise, { rows, columns, layers, count: columns * layers * rows })
  const perCopy = rule.rise.by === 'expression'
  let i = 0
  for (let row = 0; row < rows; row++) {
    const rowHeight = perCopy ? 0 : heightOf(row, 0, 0, i)
    for (let layer = 0; layer < layers; layer++) {
      const odd = (row + (bond ? layer : 0)) % 2
      const [first, y, z] = [odd * stagger * dx - left, layer * dy + rowHeight - low, row * dz - back]
      for (let column = 0; column < columns; column++, i++) {
        writePlace(out, i, column * dx + first, perCopy ? y + heightOf(row, column, layer, i) : y, z)
      }
    }
  }
  return i
}

function evaluateRing({ count, radius, axis, start, arc, facing, rise, turn: spin, size }: RingRule, out: Float64Array | Float32Array): number {
  const pitch = count === 1 ? 0 : arc / (isFullRing(arc) ? count : count - 1)
  // The ring begins along the axis after the next, so that about the vertical it begins at +Z, where fronts look.
  const turn = new SteadyTurn(start, pitch)
  // A copy's own heading goes on from where the ring's is, or from nothing, by its turn for each step.
  const heading = facing === 'out' && spin === 0 ? turn : new SteadyTurn((facing === 'kept' ? 0 : start) + (facing === 'in' ? 180 : 0), (facing === 'kept' ? 0 : pitch) + spin)
  const around = new AroundAxis(out, axis)
  for (let i = 0; i < count; i++) {
    const { cos, sin } = turn.at(i)
    if (heading !== turn) heading.at(i)
    around.write(i, heading, size === 1 ? 1 : size ** i, radius * cos, radius * sin, rise * i)
  }
  return count
}

/** Whether a ring comes back to where it began, after one turn or several. */
export const isFullRing = (arc: number) => arc !== 0 && Math.abs(Math.round(arc / 360) * 360 - arc) < 1e-9

function evaluateFan(rule: FanRule, out: Float64Array | Float32Array): number {
  const { rows, radius, depth, arc, stagger, facing } = rule
  const perCopy = rule.rise.by === 'expression'
  const heightOf = riseOf(rule.rise, { rows, columns: rule.first, layers: 1, count: perCopy ? countOf(rule) : 0 })
  const around = new AroundAxis(out, 1)
  const kept = new SteadyTurn(0, 0)
  let i = 0
  for (let row = 0; row < rows; row++) {
    const count = fanRowCount(rule, row)
    const pitch = count > 1 ? arc / (count - 1) : 0
    const far = radius + row * depth
    const rowHeight = perCopy ? 0 : heightOf(row, 0, 0, i)
    const start = (count > 1 ? -arc / 2 : 0) + row % 2 * stagger * pitch
    const turn = new SteadyTurn(start, pitch)
    const heading = facing === 'kept' ? kept : facing === 'out' ? turn : new SteadyTurn(start + 180, pitch)
    for (let column = 0; column < count; column++, i++) {
      turn.at(column)
      if (heading !== turn) heading.at(column)
      around.write(i, heading, 1, far * turn.cos, far * turn.sin, perCopy ? heightOf(row, column, 0, i) : rowHeight)
    }
  }
  return i
}

function evaluateMirror({ axis }: MirrorRule, out: Float64Array | Float32Array): number {
  writePlace(out, 0, 0, 0, 0)
  out[axis * 5] = -1
  return 1
}

/** How many steps are made from one exact angle before the next one is worked out. */
const STEPS_FROM_EXACT = 32

/**
 * The cosine and sine of angles in equal steps: each by turning the one before, which is several times quicker than working it out;
 * every now and then from the angle itself, so that rounding does not add up.
 */
class SteadyTurn {
  cos = 1
  sin = 0
  private readonly stepCos: number
  private readonly stepSin: number

  /** In degrees. */
  constructor(private readonly start: number, private readonly pitch: number) {
    this.stepCos = Math.cos(pitch * Math.PI / 180)
    this.stepSin = Math.sin(pitch * Math.PI / 180)
  }

  /** For i = 0, 1, 2 … in this order. */
  at(i: number): this {
    if (i % STEPS_FROM_EXACT === 0) {
      const angle = (this.start + this.pitch * i) * Math.PI / 180
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
class AroundAxis {
  /** The next axis and the one after it, in the sense of a right-handed turn. */
  private readonly u: number
  private readonly v: number

  constructor(private readonly out: Float64Array | Float32Array, private readonly axis: number) {
    this.u = (axis + 1) % 3
    this.v = (axis + 2) % 3
  }

  write(i: number, { cos, sin }: SteadyTurn, size: number, alongU: number, alongV: number, along: number): void {
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

const matrix = new Matrix4()
const position = new Vector3()
const scale = new Vector3()

function write(out: Float64Array | Float32Array, i: number, x: number, y: number, z: number, rotation: Quaternion, size: number): void {
  writeMatrix(out, i, matrix.compose(position.set(x, y, z), rotation, scale.setScalar(size)))
}

function writeMatrix(out: Float64Array | Float32Array, i: number, { elements }: Matrix4): void {
  const at = i * SIXTEEN
  for (let k = 0; k < SIXTEEN; k++) out[at + k] = elements[k]!
}

/** Written out number by number: a loop over the zeros takes half as long again. */
function writePlace(out: Float64Array | Float32Array, i: number, x: number, y: number, z: number): void {
  const at = i * SIXTEEN
  out[at] = out[at + 5] = out[at + 10] = out[at + 15] = 1
  out[at + 1] = out[at + 2] = out[at + 3] = out[at + 4] = 0
  out[at + 6] = out[at + 7] = out[at + 8] = out[at + 9] = 0
  out[at + 11] = 0
  out[at + 12] = x
  out[at + 13] = y
  out[at + 14] = z
}

function shift(out: Float64Array | Float32Array, count: number, x: number, y: number, z: number): void {
  for (let i = 0; i < count; i++) {
    out[i * SIXTEEN + 12]! += x
    out[i * SIXTEEN + 13]! += y
    out[i * SIXTEEN + 14]! += z
  }
}
