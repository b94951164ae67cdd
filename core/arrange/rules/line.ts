import { Matrix3, Quaternion, Vector3 } from 'three'
import { z } from 'zod'
import { degreesToQuat } from '../../math/transform'
import type { Vec3 } from '../../math/vectors'
import { tidy } from '../../units/quantity'
import type { GripDragged, RuleDefinition } from '../definition'
import { BY_ITSELF, STANDS_STRAIGHT } from '../definition'
import { gapField } from '../fields'
import { choiceField, numberField, switchField, threeFields } from '../../units/field'
import { widthAlong } from '../width'
import { firstWhere, geometricWay, isSizeInRange, isWayInRange } from '../growth'
import { lineKeys } from '../keys'
import type { Out } from '../matrices'
import { shiftPlaces, TurnedSteps, writePlace, writeTurned } from '../matrices'
import { count, factor, metres, MOST_COPIES, place, turns } from '../numbers'

const schema = z.strictObject({
  type: z.literal('line'),
  count,
  /** From one copy to the next (`spacing`), or from the first to the last (`span`, `fit`). */
  along: place,
  /**
   * `spacing`, also said as the `gap` that it leaves; `span`: as many as `count` between both ends; `fit`: as many as
   * fit in the span at no less than `least`.
   */
  measure: z.enum(['spacing', 'gap', 'span', 'fit']),
  least: metres.min(0.001, 'must be at least 1 mm'),
  /** Of each gap to the one before. */
  ratio: factor,
  centred: z.boolean(),
  /** Degrees about X, Y, Z for each step. */
  turn: turns,
  /** For each step. */
  size: factor,
  /** `world`: steps along the arrangement's axes; `local`: along those of the copy before, as a spiral climbs. */
  axes: z.enum(['world', 'local']),
})

export type LineRule = z.infer<typeof schema>

/** Copies one after the other. The first one of a line that is not centred is the source as it stands. */
export const line: RuleDefinition<LineRule> = {
  schema,
  first: {
    type: 'line',
    count: 5,
    along: [1.5, 0, 0],
    measure: 'spacing',
    least: 1,
    ratio: 1,
    centred: false,
    turn: [0, 0, 0],
    size: 1,
    axes: 'world',
  },
  sideBySide: (rule, size) => ({ ...rule, along: side(rule.along, size) }),
  name: 'Line',
  countedBy: 'count',
  count: countOf,
  most: countOf,
  firstBeyond: rule => {
    const wayTo = longestWay(rule)
    return firstWhere(countOf(rule), i => !isSizeInRange(rule.size ** i) || !isWayInRange(wayTo(i)))
  },
  write,
  keys: rule => lineKeys(countOf(rule)),
  nameOf: (_, [, column]) => `copy ${column + 1}`,
  grips: rule => (countOf(rule) > 1 ? [{ at: positionAt(rule, 0) }, { at: positionAt(rule, countOf(rule) - 1) }] : []),
  drag,
  gripsOnSurface: false,
  gripText: ({ measure, along }, length) => `${isSpaced(measure) ? 'spacing' : 'span'} ${length(Math.hypot(...along))}`,
  aroundMiddle: null,
  keepsSources: false,
  remarks: rule =>
    !isSpaced(rule.measure) && isSpiral(rule) && rule.turn.some(value => value !== 0)
      ? ['The span is the way along the line as it turns.']
      : [],
  ...STANDS_STRAIGHT,
  ...BY_ITSELF,
  fields: ({ measure }) => [
    choiceField('By', 'measure', { spacing: 'spacing', gap: 'gap', span: 'span, both ends', fit: 'as many as fit' }),
    measure === 'fit' ? numberField('At least apart', ['least'], 'length') : numberField('Count', ['count'], 'count'),
    ...(measure === 'gap' ? [gapField('Gap', ['along'], 'way')] : []),
    ...threeFields(isSpaced(measure) ? 'Spacing' : 'Span', 'along', 'length'),
    numberField('Ratio of gaps', ['ratio'], 'factor'),
    ...threeFields('Turn each', 'turn', 'angle'),
    numberField('Size each', ['size'], 'factor'),
    choiceField('Steps along', 'axes', { world: 'its own axes', local: 'those of the copy before' }),
    switchField('Centred', 'centred'),
  ],
}

const isSpaced = (measure: LineRule['measure']) => measure === 'spacing' || measure === 'gap'

/** As long as sources of a size are that way. */
function side(along: Vec3, size: Vec3): Vec3 {
  const [length, width] = [Math.hypot(...along), widthAlong(along, size)]
  return length > 0 && width > 0 && Number.isFinite(width)
    ? (along.map(part => tidy((part / length) * width)) as Vec3)
    : along
}

/** Of each gap to the one before: steps along the copies' own axes grow with the copies. */
const gapRatio = ({ axes, ratio, size }: LineRule) => (axes === 'local' ? ratio * size : ratio)

function countOf(rule: LineRule): number {
  const { count: given, measure, along, least } = rule
  if (measure !== 'fit') return given
  // The smallest gap is the first one or the last one; counted from there, each is so many times the one before.
  const grows = Math.max(gapRatio(rule), 1 / gapRatio(rule))
  const span = Math.hypot(...along) / least
  const gaps = grows - 1 < 1e-12 ? span : Math.log1p((grows - 1) * span) / Math.log(grows)
  // A hair's breadth of slack, so that 3 m holds four at 1 m.
  return Math.min(Math.floor(gaps + 1e-9), MOST_COPIES) + 1
}

/** How far a copy can be from the first one, if every step went straight on. */
function longestWay(rule: LineRule): (i: number) => number {
  const grows = gapRatio(rule)
  const step =
    Math.hypot(...rule.along) / (isSpaced(rule.measure) ? 1 : geometricWay(grows, Math.max(countOf(rule) - 1, 1)))
  return i => step * geometricWay(grows, i)
}

const isSpiral = ({ axes, turn, size }: LineRule) => axes === 'local' && (turn.some(value => value !== 0) || size !== 1)

function write(rule: LineRule, out: Out): void {
  const copies = countOf(rule)
  const gaps = geometricWay(gapRatio(rule), copies - 1)
  // Along the whole span the shares of the way end at exactly 1.
  const whole = isSpaced(rule.measure) || copies === 1 ? 1 : gaps
  const along = new Vector3(...rule.along)
  if (isSpiral(rule)) return writeSpiral(rule, copies, along.divideScalar(whole), out)
  const isTurned = rule.turn.some(value => value !== 0) || rule.size !== 1
  const before = rule.centred ? gaps / whole / 2 : 0
  const { x, y, z: depth } = along
  const { ratio } = rule
  const turned = isTurned ? new TurnedSteps(out, rule.turn, rule.size) : null
  for (let i = 0; i < copies; i++) {
    const way = (ratio === 1 ? i : geometricWay(ratio, i)) / whole - before
    if (turned) turned.write(i, x * way, y * way, depth * way)
    else writePlace(out, i, x * way, y * way, depth * way)
  }
}

/**
 * Each copy stands to the one before as that to its own: the same move, turn and size, in the axes of the one before.
 */
function writeSpiral({ turn, size, ratio, centred }: LineRule, copies: number, along: Vector3, out: Out): void {
  const step = new Quaternion(...degreesToQuat(turn))
  const [position, rotation, way] = [new Vector3(), new Quaternion(), new Vector3()]
  let grown = 1
  for (let i = 0; i < copies; i++) {
    writeTurned(out, i, position.x, position.y, position.z, rotation, grown)
    position.add(
      way
        .copy(along)
        .multiplyScalar(grown * ratio ** i)
        .applyQuaternion(rotation),
    )
    rotation.multiply(step).normalize()
    grown *= size
  }
  const last = (copies - 1) * 16 + 12
  if (centred && copies > 1) shiftPlaces(out, copies, -out[last]! / 2, -out[last + 1]! / 2, -out[last + 2]! / 2)
}

/** Where one copy stands, without working out those before it: grips are asked for at every pointer move. */
function positionAt(rule: LineRule, index: number): Vector3 {
  const copies = countOf(rule)
  const { measure, centred, along } = rule
  const step = new Vector3(...along).divideScalar(
    isSpaced(measure) || copies === 1 ? 1 : geometricWay(gapRatio(rule), copies - 1),
  )
  const way = isSpiral(rule)
    ? (i: number) => placeOnSpiral(rule, step, i)
    : (i: number) => step.clone().multiplyScalar(geometricWay(rule.ratio, i))
  return centred ? way(index).sub(way(copies - 1).divideScalar(2)) : way(index)
}

/**
 * The sum of the steps of a spiral: of gᵏ·Rᵏ·step for k below `index`, where g grows each step and R turns it. Along
 * the axis of R that is a geometric series of g; across it one of the complex number g·e^(iθ).
 */
function placeOnSpiral(rule: LineRule, step: Vector3, index: number): Vector3 {
  const { turn } = rule
  const rotation = new Quaternion(...degreesToQuat(turn)).normalize()
  const half = Math.hypot(rotation.x, rotation.y, rotation.z)
  const angle = 2 * Math.atan2(half, rotation.w)
  const about = half > 0 ? new Vector3(rotation.x, rotation.y, rotation.z).divideScalar(half) : new Vector3(0, 1, 0)
  const grows = gapRatio(rule)
  const along = about.clone().multiplyScalar(step.dot(about))
  const across = step.clone().sub(along)
  const [real, imaginary] = complexSeries(grows, angle, index)
  return along
    .multiplyScalar(geometricWay(grows, index))
    .addScaledVector(across, real)
    .addScaledVector(about.clone().cross(across), imaginary)
}

/** The sum of (g·e^(iθ))ᵏ for k below `terms`: (zⁿ - 1) / (z - 1). */
function complexSeries(g: number, angle: number, terms: number): [number, number] {
  const [x, y] = [g * Math.cos(angle) - 1, g * Math.sin(angle)]
  const square = x * x + y * y
  if (square < 1e-24) return [terms, 0]
  const [u, v] = [g ** terms * Math.cos(angle * terms) - 1, g ** terms * Math.sin(angle * terms)]
  return [(u * x + v * y) / square, (v * x - u * y) / square]
}

/**
 * The first copy moves while the last one stays, and the other way round. Where a line's copies stand depends evenly on
 * its spacing or span, whatever its turn, size and ratio; so it can be solved for.
 */
function drag(rule: LineRule, index: number, to: Vector3): GripDragged<LineRule> {
  const copies = countOf(rule)
  const fixed: LineRule = rule.measure === 'fit' ? { ...rule, measure: 'span', count: copies } : rule
  const placesFor = (along: Vec3) =>
    [positionAt({ ...fixed, along }, 0), positionAt({ ...fixed, along }, copies - 1)] as const
  const columns = (
    [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ] as Vec3[]
  ).map(placesFor)
  const first = new Matrix3().set(...rows(columns.map(([from]) => from)))
  const whole = new Matrix3().set(...rows(columns.map(([from, end]) => end.clone().sub(from))))
  if (Math.abs(whole.determinant()) < 1e-12) return { rule }
  const [start, end] = placesFor(rule.along)
  const along = (index === 0 ? end.clone().sub(to) : to.clone().sub(start)).applyMatrix3(whole.invert())
  const shift = (index === 0 ? to.clone() : start.clone()).sub(along.clone().applyMatrix3(first))
  return { rule: { ...rule, along: rounded(along) }, ...(shift.length() > 1e-9 ? { shift: rounded(shift) } : {}) }
}

const rounded = (vector: Vector3): Vec3 => vector.toArray().map(tidy) as Vec3

const rows = ([a, b, c]: Vector3[]): [number, number, number, number, number, number, number, number, number] => [
  a!.x,
  b!.x,
  c!.x,
  a!.y,
  b!.y,
  c!.y,
  a!.z,
  b!.z,
  c!.z,
]
