import { Euler, MathUtils, Matrix4, Quaternion, Vector3 } from 'three'
import type { Quat, Vec3 } from './vectors'

const translation = new Vector3()
const rotation = new Quaternion()
const scale = new Vector3()
const shift = new Vector3()

/** Position of the pivot in metres, turn, size, and where the pivot is in the thing's own axes. */
export type Transform = { translation: Vec3; rotation: Quat; scale: Vec3; pivot: Vec3 }

/**
 * Writes the placement's matrix T · R · S · T(-pivot) into `target`: from its own axes to its parent's.
 * With the pivot put in, that is the plain TRS matrix whose translation is `nodeTranslation`.
 *
 * @example
 * import { Matrix4, Vector3 } from 'three'
 * const turned = { translation: [2, 0, 0], rotation: degreesToQuat([0, 90, 0]), scale: [1, 1, 1], pivot: [1, 0, 0] }
 * const matrix = localMatrix(turned, new Matrix4())
 * new Vector3(1, 0, 0).applyMatrix4(matrix).toArray().map(Math.round) // [2, 0, 0]
 */
export function localMatrix(transform: Transform, target: Matrix4): Matrix4 {
  rotation.fromArray(transform.rotation)
  scale.fromArray(transform.scale)
  return target.compose(translation.fromArray(nodeTranslation(transform)), rotation, scale)
}

/**
 * The translation of a glTF node without a pivot that stands exactly where the placement stands:
 * T · R · S · T(-p) = T(t - R·S·p) · R · S.
 */
export function nodeTranslation({ translation: [x, y, z], rotation: turn, scale: size, pivot }: Transform): Vec3 {
  shift.fromArray(pivot).multiply(scale.fromArray(size)).applyQuaternion(rotation.fromArray(turn))
  return [x - shift.x, y - shift.y, z - shift.z]
}

/** Turn about X, Y and Z in degrees, applied in the order Y, X, Z (heading, then pitch, then roll). */
export function quatToDegrees(quat: Quat): Vec3 {
  const euler = new Euler().setFromQuaternion(rotation.fromArray(quat), 'YXZ')
  return [euler.x, euler.y, euler.z].map(MathUtils.radToDeg) as Vec3
}

/** The inverse of `quatToDegrees`. */
export function degreesToQuat([x, y, z]: Vec3): Quat {
  const euler = new Euler(MathUtils.degToRad(x), MathUtils.degToRad(y), MathUtils.degToRad(z), 'YXZ')
  return rotation.setFromEuler(euler).normalize().toArray() as Quat
}

/**
 * Position, turn and size of a matrix around a pivot: T = m + R·S·p, m being the matrix's translation. A skewed matrix
 * has none; then those whose matrix is nearest to it.
 */
export function decompose(matrix: Matrix4, pivot: Vec3): Omit<Transform, 'pivot'> {
  // Takes the matrix apart into the same three.
  if (isSheared(matrix)) nearestWithoutSkew(matrix, rotation, scale)
  translation.add(shift.fromArray(pivot).multiply(scale).applyQuaternion(rotation))
  return { translation: translation.toArray(), rotation: rotation.toArray() as Quat, scale: scale.toArray() }
}

const again = new Matrix4()

/** Whether no position, turn and size give the shape that a matrix makes; `decompose` then gives the nearest. */
export function isSheared(matrix: Matrix4): boolean {
  matrix.decompose(translation, rotation, scale)
  rotation.normalize()
  return differsFrom(matrix, again.compose(translation, rotation, scale))
}

/**
 * How much the axes of a matrix may differ from its parts put together again, relative to the longest, and not count as
 * skewed.
 */
export const SKEW_TOLERANCE = 1e-6

/** Whether the shape that a matrix makes differs from that of another by more than rounding, wherever the two stand. */
export function differsFrom(a: Matrix4, b: Matrix4): boolean {
  let [size, most] = [0, 0]
  for (let i = 0; i < 12; i++) {
    size = Math.max(size, Math.abs(a.elements[i]!))
    most = Math.max(most, Math.abs(a.elements[i]! - b.elements[i]!))
  }
  return most > size * SKEW_TOLERANCE
}

/** Of the squares: a skew so small that it is not looked for a better shape from elsewhere. */
const LITTLE = 0.02
/** Rounds of the search below; most end after ten. */
const MOST_ROUNDS = 200

/**
 * The turn R and the sizes S with the least ‖M - R·S‖, all nine numbers squared and summed. For given sizes the best
 * turn is the turn of M·S (the orthogonal Procrustes problem, Schönemann 1966), for a given turn the best sizes are how
 * far M's axes reach along it; the two take turns until neither gains, from several beginnings, since there may be
 * several such ends.
 */
function nearestWithoutSkew(matrix: Matrix4, turn: Quaternion, size: Vector3): void {
  const axes = [0, 1, 2].map(column => new Vector3().setFromMatrixColumn(matrix, column)) as [Vector3, Vector3, Vector3]
  const lengths = axes.map(axis => axis.length())
  const whole = lengths.reduce((sum, length) => sum + length * length, 0)
  const starts = [
    lengths,
    [1, 1, 1],
    lengths.map(length => 1 / length),
    ...[0, 1, 2].map(axis => lengths.map((length, i) => (i === axis ? length * 100 : length))),
  ]
  let best = -Infinity
  for (const start of starts) {
    const sizes = [...start]
    let [reached, before] = [0, -1]
    let found = axes
    for (let round = 0; round < MOST_ROUNDS && reached > before * (1 + 1e-13); round++) {
      found = turnOf(axes.map((axis, i) => axis.clone().multiplyScalar(sizes[i]!)) as [Vector3, Vector3, Vector3])
      axes.forEach((axis, i) => (sizes[i] = axis.dot(found[i]!)))
      ;[before, reached] = [reached, sizes.reduce((sum, value) => sum + value * value, 0)]
    }
    // What of M's squares the sizes reach is not missing from the sum.
    if (reached <= best * (1 + 1e-12)) continue
    best = reached
    // An axis and its size may both be turned round: that is the same matrix, and makes a turn of what mirrors.
    if (found[0].dot(found[1].clone().cross(found[2])) < 0) {
      found[0].negate()
      sizes[0]! *= -1
    }
    turn.setFromRotationMatrix(new Matrix4().makeBasis(...found)).normalize()
    size.fromArray(sizes)
    // With little skew there is one end, whatever the beginning.
    if (whole - reached < LITTLE * whole) return
  }
}

/** The turn of a matrix, by its three axes: the orthogonal one nearest to it, by Newton's iteration (Higham 1986). */
function turnOf([x, y, z]: [Vector3, Vector3, Vector3]): [Vector3, Vector3, Vector3] {
  let axes: [Vector3, Vector3, Vector3] = [x, y, z]
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const [a, b, c] = axes
    // The transposed inverse has b×c, c×a, a×b over the volume as its axes.
    const across = [b.clone().cross(c), c.clone().cross(a), a.clone().cross(b)] as const
    const volume = a.dot(across[0])
    if (Math.abs(volume) < Number.MIN_VALUE) break
    const length = (of: readonly Vector3[]) => Math.hypot(...of.map(axis => axis.length()))
    const pull = Math.sqrt(length(across) / Math.abs(volume) / length(axes))
    const next = axes.map((axis, i) =>
      axis
        .clone()
        .multiplyScalar(pull / 2)
        .addScaledVector(across[i]!, 1 / (2 * pull * volume)),
    ) as [Vector3, Vector3, Vector3]
    const change = Math.max(...next.map((axis, i) => axis.distanceTo(axes[i]!)))
    axes = next
    if (change < 1e-14) break
  }
  return axes
}
