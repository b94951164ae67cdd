import { Euler, MathUtils, Matrix4, Quaternion, Vector3 } from 'three'
import { z } from 'zod'
import type { Vec3 } from '../../math/vectors'
import type { Height } from '../../units/height'
import { scaleOf } from '../../units/units'

export const EULER_ORDERS = ['XYZ', 'XZY', 'YXZ', 'YZX', 'ZXY', 'ZYX'] as const
export const TURN_FORMS = ['quaternion', 'matrix', ...EULER_ORDERS] as const
export const TABLE_UNITS = ['m', 'cm', 'mm', 'in', 'ft'] as const

/** In which axes, units and form the numbers of a table are. */
export const conventionSchema = z.object({
  /** The axis that points upwards. */
  up: z.enum(['y', 'z']).default('y'),
  /** Whether the axes are those of the right hand or the left. */
  hand: z.enum(['right', 'left']).default('right'),
  unit: z.enum(TABLE_UNITS).default('m'),
  /** A quaternion, degrees in an order of axes, or the whole matrix in place of position, turn and size. */
  turn: z.enum(TURN_FORMS).default('YXZ'),
  /** Where things stand: in the world, or in what they hang from. */
  space: z.enum(['world', 'parent']).default('world'),
})

export type Convention = z.output<typeof conventionSchema>

/** In what tables are, by along which axis somebody writes height; where they say nothing else. */
export const CONVENTION_OF = {
  y: {},
  z: { up: 'z', turn: 'ZXY' },
} as const satisfies Record<Height, Partial<Convention>>

/** Numbers of a placement by the names of their columns. */
export type Numbers = Partial<Record<NumberColumn, number>>

const PLACE = ['x', 'y', 'z'] as const
const DEGREES = ['rx', 'ry', 'rz'] as const
const QUATERNION = ['qx', 'qy', 'qz', 'qw'] as const
export const SIZE = ['sx', 'sy', 'sz'] as const
/** Row by row, without the last, which is 0 0 0 1. */
const MATRIX = ['m11', 'm12', 'm13', 'm14', 'm21', 'm22', 'm23', 'm24', 'm31', 'm32', 'm33', 'm34'] as const
export const NUMBER_COLUMNS = [...PLACE, ...DEGREES, ...QUATERNION, ...SIZE, ...MATRIX] as const
export type NumberColumn = (typeof NUMBER_COLUMNS)[number]

/** The columns of numbers that a table in this convention has. */
export function numberColumns({ turn }: Convention): readonly NumberColumn[] {
  return turn === 'matrix' ? MATRIX : [...PLACE, ...(turn === 'quaternion' ? QUATERNION : DEGREES), ...SIZE]
}

/**
 * From this program's axes (Y up, right-handed) to others. With Z up the front, +Z here, becomes -Y; a left hand is the
 * right one seen in a mirror.
 */
function axesOf({ up, hand }: Convention): Matrix4 {
  if (up === 'y') return new Matrix4().makeScale(1, 1, hand === 'right' ? 1 : -1)
  return hand === 'right'
    ? new Matrix4().set(1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1)
    : new Matrix4().set(1, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 1)
}

/**
 * How matrices of this program are written as the numbers of a table, in the order of its `numberColumns`. One that is
 * skewed is only whole as a matrix.
 */
export function numbersIn(convention: Convention): (matrix: Matrix4) => number[] {
  const { turn: form } = convention
  const axes = axesOf(convention)
  const back = axes.clone().invert()
  const size = 1 / scaleOf('length', convention.unit)
  const [moved, place, turn, scale, euler] = [
    new Matrix4(),
    new Vector3(),
    new Quaternion(),
    new Vector3(),
    new Euler(),
  ]
  return matrix => {
    const { elements } = moved.multiplyMatrices(axes, matrix).multiply(back)
    for (const at of [12, 13, 14]) elements[at]! *= size
    if (form === 'matrix') return MATRIX.map((_, i) => elements[(i % 4) * 4 + Math.floor(i / 4)]! + 0)
    moved.decompose(place, turn, scale)
    turn.normalize()
    const { x, y, z } = form === 'quaternion' ? turn : euler.setFromQuaternion(turn, form)
    const turned =
      form === 'quaternion' ? [x, y, z, turn.w] : [MathUtils.radToDeg(x), MathUtils.radToDeg(y), MathUtils.radToDeg(z)]
    return [place.x, place.y, place.z, ...turned, scale.x, scale.y, scale.z].map(value => value + 0)
  }
}

/** A matrix of this program as the numbers of a table, by their columns. */
export function toNumbers(matrix: Matrix4, convention: Convention): Numbers {
  const values = numbersIn(convention)(matrix)
  return Object.fromEntries(numberColumns(convention).map((column, i) => [column, values[i]!]))
}

/** A matrix of this program from the numbers of a table. What is not given is at rest. */
export function fromNumbers(numbers: Numbers, convention: Convention): Matrix4 {
  const { turn } = convention
  const get = (columns: readonly NumberColumn[], rest: readonly number[]) =>
    columns.map((column, i) => numbers[column] ?? rest[i]!)
  const moved = new Matrix4()
  if (turn === 'matrix') moved.set(...(get(MATRIX, [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]) as Twelve), 0, 0, 0, 1)
  else {
    const quaternion =
      turn === 'quaternion'
        ? new Quaternion().fromArray(get(QUATERNION, [0, 0, 0, 1])).normalize()
        : new Quaternion().setFromEuler(new Euler(...(get(DEGREES, [0, 0, 0]).map(MathUtils.degToRad) as Vec3), turn))
    moved.compose(
      new Vector3().fromArray(get(PLACE, [0, 0, 0])),
      quaternion,
      new Vector3().fromArray(get(SIZE, [1, 1, 1])),
    )
  }
  const size = scaleOf('length', convention.unit)
  for (const at of [12, 13, 14]) moved.elements[at]! *= size
  const axes = axesOf(convention)
  return axes.clone().invert().multiply(moved).multiply(axes)
}

type Twelve = [number, number, number, number, number, number, number, number, number, number, number, number]

/** A convention in words, for the comment at the head of a table. */
export function sayConvention({ up, hand, unit, turn, space }: Convention): string {
  return `up=${up} hand=${hand} unit=${unit} turn=${turn} space=${space}`
}

/** What a comment at the head of a table says of its convention. */
export function readConvention(comment: string): Partial<Convention> {
  const given = Object.fromEntries(
    [...comment.matchAll(/\b(up|hand|unit|turn|space)=(\w+)/g)].map(([, key, value]) => [key, value]),
  )
  // The schema fills in what is usual; here only what is said counts.
  const read = conventionSchema.partial().safeParse(given).data ?? {}
  return Object.fromEntries(Object.entries(read).filter(([key]) => key in given))
}
