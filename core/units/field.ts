import type { LevelAxis, WrittenAxes } from './height'
import { LEVEL_AXES } from './height'
import type { Quantity } from './quantity'

/** Where a value stands in what a form is of. */
export type FieldPath = readonly (string | number)[]

/** `count`: a whole number from 1; `share`: from 0 to 1; `number`: a plain one. */
export type FieldQuantity = Quantity | 'count' | 'share' | 'number'

type Row = {
  label: string
  path: FieldPath
  /** What it is called where the label alone says too little. */
  named?: string
}

export type NumberField = Row & {
  type: 'number'
  quantity: FieldQuantity
  /** Said behind it and shown to so many places, where its quantity does not say so. */
  suffix?: string
  decimals?: number
  /** What is less or more than these is refused. */
  least?: number
  most?: number
  /** The axis of the level that it runs along, whose letter is in the label. */
  axis?: LevelAxis
  /** It is only how much there is along that axis, whichever way. */
  isAmount?: true
  /** What it is called where that axis is written the other way, if it is the end of something. */
  otherEnd?: string
  /** What stands while there is none. */
  otherwise?: number
  /** Said while there is none. */
  empty?: string
}

export type ChoiceField = Row & {
  type: 'choice'
  options: readonly { value: string | number; name: string }[]
  /** What stands while there is none. */
  otherwise?: string
  /** By value, what is put together with it, so that nothing jumps. */
  also?: Record<string, object>
  /** All of them beside each other, if they are few and short. */
  isOpen?: true
  /** Its values are axes of the level, named by their letters. */
  ofAxes?: true
}

/** `on`: what is there while it is on, and nothing while it is not; without it the switch is itself the value. */
export type SwitchField = Row & { type: 'switch'; on?: object }

/** A row of a form: which value of something it shows and sets, and how. One description for whatever has values. */
export type Field =
  | NumberField
  | ChoiceField
  | SwitchField
  /** As in `#b9a58b`. */
  | (Row & { type: 'color' })
  | (Row & { type: 'text'; empty?: string })
  /** Some of several, in their order; `empty` is said while none is chosen. */
  | (Row & { type: 'several'; options: readonly string[]; empty: string })
  /** Whole numbers one after the other. */
  | (Row & { type: 'counts' })

/**
 * @example
 * const near = numberField('Near', ['near'], 'length', { named: 'Near of the camera' })
 * valueAt({ near: 0.1, far: 100 }, near.path) // 0.1
 */
export function numberField(
  label: string,
  path: FieldPath,
  quantity: FieldQuantity,
  more: Partial<NumberField> = {},
): NumberField {
  return { type: 'number', label, path, quantity, ...more }
}

/** Three numbers along X, Y and Z. */
export const threeFields = (label: string, key: string, quantity: FieldQuantity): NumberField[] =>
  LEVEL_AXES.map(axis => numberField(`${label} ${'XYZ'[axis]}`, [key, axis], quantity, { axis }))

/** Whether a number is the other way where its axis is: not how much there is of something, and no factor. */
export const isDirected = ({
  quantity,
  axis,
  isAmount,
}: Pick<NumberField, 'quantity' | 'axis'> & { isAmount?: boolean }) =>
  axis !== undefined && !isAmount && (quantity === 'length' || quantity === 'angle')

/** -1 for a number that is written the other way of what is kept. */
export const signOf = (of: Parameters<typeof isDirected>[0], axes: WrittenAxes): 1 | -1 =>
  isDirected(of) ? axes.sign(of.axis) : 1

export const switchField = (label: string, at: string | FieldPath, on?: object): SwitchField => ({
  type: 'switch',
  label,
  path: typeof at === 'string' ? [at] : at,
  on,
})

/** @param options names by value */
export function choiceField(
  label: string,
  key: string,
  options: Record<string, string>,
  more: Partial<ChoiceField> = {},
): ChoiceField {
  const list = Object.entries(options).map(([value, name]) => ({ value, name }))
  return { type: 'choice', label, path: [key], options: list, ...more }
}

/** What something has at a field's path; undefined where it has nothing there. */
export function valueAt(of: object, path: FieldPath): unknown {
  return path.reduce<unknown>((at, key) => (at as Record<string | number, unknown> | undefined)?.[key], of)
}

/**
 * The same with another value at a path, whether or not that is allowed; undefined takes it away. What is given stays
 * as it is, and what is not on the path is shared.
 */
export function putValue<T extends object>(of: T, path: FieldPath, value: unknown): T {
  const copy = (each: unknown) =>
    (Array.isArray(each) ? [...(each as unknown[])] : { ...(each as object) }) as Record<string | number, unknown>
  const next = copy(of)
  let at = next
  for (const key of path.slice(0, -1)) {
    const below = copy(at[key])
    at[key] = below
    at = below
  }
  if (value === undefined) delete at[path.at(-1)!]
  else at[path.at(-1)!] = value
  return next as T
}
