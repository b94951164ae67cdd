import { tidy } from '../units/quantity'
import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Quat, Vec3 } from '../math/vectors'
import type { Transform } from '../math/transform'
import { degreesToQuat, localMatrix } from '../math/transform'
import type { ArrangementOwn, Exception, Vary } from './arrangement'
import type { CopyKeys, CopyPlace } from './keys'
import { chanceAt } from '../math/random'
import type { GroundBelow } from './path/ground'
import { definitionOf, ruleMatrices } from './rules'
import type { Dealt } from './scatter/deal'
import { dealtKeys } from './scatter/keys'

/** The copies of an arrangement: sixteen numbers each for where the rule puts them, and which source each shows. */
export type PlacedCopies = {
  keys: CopyKeys
  /** From the rule alone, and the ground. */
  ruled: Float64Array
  /** The number of the source each shows; -1 for one that is hidden. */
  sourceOf: (index: number) => number
  /** A source's numbers as a copy has them: varied, and with what differs. */
  numbersOf: (index: number, source: Transform) => Transform
  /** The same without what differs. */
  variedOf: (index: number, source: Transform) => Transform
  /** Whether all copies have their sources' numbers as they are. */
  isPlain: boolean
}

/**
 * @param sources how many there are; at least one
 * @param ground what copies that hug it stand on; without it they stay on their path
 * @param dealt the copies of a scatter
 */
export function placeCopies(
  { rule, sources: choice, vary, exceptions }: ArrangementOwn,
  sources: number,
  ground: GroundBelow | null,
  dealt: Dealt | null = null,
): PlacedCopies {
  const { keys: keysOf, settle } = definitionOf(rule)
  const isScatter = definitionOf(rule).scattered(rule) !== null
  const keys = isScatter ? dealtKeys(dealt) : keysOf(rule)
  const byIndex = new Map<number, Exception>()
  for (const [key, exception] of Object.entries(exceptions ?? {})) {
    const index = keys.indexOf(key)
    if (index !== null) byIndex.set(index, exception)
  }
  const chosen = isScatter
    ? (index: number) => (dealt!.sources[index]! < sources ? dealt!.sources[index]! : -1)
    : sourceChooser(choice, keys, sources)
  const ruled = isScatter ? (dealt?.matrices ?? new Float64Array(0)) : ruleMatrices(rule)
  if (ground) settle(rule, ruled, ground)
  const variedOf = (index: number, source: Transform) => {
    const stood = isScatter ? onItsPlace(source, dealt!.sizes, index) : source
    return vary ? varyNumbers(vary, keys.at(index), stood) : stood
  }
  return {
    keys,
    ruled,
    sourceOf: index => {
      const exception = byIndex.get(index)
      if (exception?.hidden) return -1
      return exception?.source !== undefined && exception.source < sources ? exception.source : chosen(index)
    },
    variedOf,
    numbersOf: (index, source) => {
      const varied = variedOf(index, source)
      const exception = byIndex.get(index)
      return exception ? withException(varied, exception) : varied
    },
    isPlain: !vary && !isScatter && byIndex.size === 0,
  }
}

/** A source's numbers as a scatter has them: its pivot stands where the copy was dealt, wherever it hangs itself. */
function onItsPlace(source: Transform, sizes: Float64Array | null, index: number): Transform {
  if (!sizes && source.translation.every(value => value === 0)) return source
  const scale = sizes ? (source.scale.map((value, axis) => value * sizes[index * 3 + axis]!) as Vec3) : source.scale
  return { ...source, translation: [0, 0, 0], scale }
}

function sourceChooser(choice: ArrangementOwn['sources'], keys: CopyKeys, sources: number): (index: number) => number {
  if (sources === 1) return () => 0
  const withMutex = (index: number) => {
    const [row, column, layer] = keys.at(index)
    return (row + column + layer) % sources
  }
  if (!choice) return withMutex
  if (choice.by === 'pattern') {
    return index => {
      const [row, column, layer] = keys.at(index)
      return choice.pattern[(row + column + layer) % choice.pattern.length]! % sources
    }
  }
  if (choice.by === 'ends') {
    return index => (choice[keys.partAt(index)] ?? choice.middle) % sources
  }
  const weights = Array.from({ length: sources }, (_, i) => choice.weights[i] ?? 0)
  const sum = weights.reduce((total, weight) => total + weight, 0)
  if (sum === 0) return withMutex
  return index => {
    let left = chanceAt('source', choice.seed, ...keys.at(index)).share() * sum
    return Math.max(
      0,
      weights.findIndex(weight => (left -= weight) < 0),
    )
  }
}

/** A source's numbers moved, turned and sized at random within limits. */
function varyNumbers({ seed, move, turn, size: [least, most] }: Vary, place: CopyPlace, source: Transform): Transform {
  const either = (use: 'move' | 'turn', limits: readonly number[]) => {
    const random = chanceAt(use, seed, ...place)
    return limits.map(limit => limit * (random.share() * 2 - 1)) as Vec3
  }
  const moved = either('move', move)
  const turned = new Quaternion(...degreesToQuat(either('turn', turn)))
  const size = least + (most - least) * chanceAt('size', seed, ...place).share()
  return {
    ...source,
    translation: source.translation.map((value, axis) => value + moved[axis]!) as Vec3,
    rotation: turned
      .multiply(new Quaternion(...source.rotation))
      .normalize()
      .toArray() as Quat,
    scale: source.scale.map(value => value * size) as Vec3,
  }
}

function withException(numbers: Transform, { move, turn, size }: Exception): Transform {
  return {
    ...numbers,
    translation: move ? (numbers.translation.map((value, axis) => value + move[axis]!) as Vec3) : numbers.translation,
    rotation: turn
      ? (new Quaternion(...turn)
          .multiply(new Quaternion(...numbers.rotation))
          .normalize()
          .toArray() as Quat)
      : numbers.rotation,
    scale: size ? (numbers.scale.map((value, axis) => value * size[axis]!) as Vec3) : numbers.scale,
  }
}

/** How far numbers are from others, as an exception; what does not differ is left out. */
export function exceptionBetween(from: Transform, to: Transform): Exception {
  const move = to.translation.map((value, axis) => tidy(value - from.translation[axis]!)) as Vec3
  const turn = new Quaternion(...to.rotation).multiply(new Quaternion(...from.rotation).invert()).normalize()
  const size = to.scale.map((value, axis) => value / from.scale[axis]!) as Vec3
  return {
    ...(Math.max(...move.map(Math.abs)) > 1e-9 ? { move } : {}),
    ...(Math.abs(turn.w) < 1 - 1e-12 ? { turn: turn.toArray() as Quat } : {}),
    ...(size.some(value => Math.abs(value - 1) > 1e-9) ? { size } : {}),
  }
}

/** Writes into each copy's matrix how it differs from its source, so that the source may be put there as it stands. */
export function placedMatrices(copies: PlacedCopies, sources: readonly Transform[]): Float64Array {
  if (copies.isPlain) return copies.ruled
  const matrices = new Float64Array(copies.ruled)
  const back = sources.map(source => localMatrix(source, new Matrix4()).invert())
  const [matrix, own] = [new Matrix4(), new Matrix4()]
  for (let i = 0; i < copies.keys.count; i++) {
    const source = copies.sourceOf(i)
    if (source < 0) continue
    const numbers = copies.numbersOf(i, sources[source]!)
    if (numbers === sources[source]) continue
    matrix
      .fromArray(matrices, i * 16)
      .multiply(localMatrix(numbers, own))
      .multiply(back[source]!)
      .toArray(matrices, i * 16)
  }
  return matrices
}

/** Where a copy's own numbers would have to be for it to stand as `matrix` does, in the arrangement's axes. */
export function numbersAt(copies: PlacedCopies, index: number, matrix: Matrix4, pivot: Vec3): Transform {
  const [position, rotation, scale] = [new Vector3(), new Quaternion(), new Vector3()]
  new Matrix4()
    .fromArray(copies.ruled, index * 16)
    .invert()
    .multiply(matrix)
    .decompose(position, rotation, scale)
  rotation.normalize()
  position.add(new Vector3(...pivot).multiply(scale).applyQuaternion(rotation))
  return { translation: position.toArray(), rotation: rotation.toArray() as Quat, scale: scale.toArray(), pivot }
}
