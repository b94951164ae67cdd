import type { Quantity } from '../units/quantity'

/** Where a value stands in a rule. */
export type FieldPath = readonly (string | number)[]

/**
 * A number or choice of a rule as a form has it. `otherwise`: what stands while the rule leaves it out; `also`: what is
 * put together with a choice, so that nothing jumps.
 */
export type RuleField =
  /** `count`: a whole number from 1; `share`: from 0 to 1; `number`: a plain one. `axis` is the one it runs along. */
  | {
      type: 'number'
      label: string
      /** What it is called where the label alone says too little. */
      named?: string
      path: FieldPath
      quantity: FieldQuantity
      axis?: number
      otherwise?: number
      /**
       * Shown and typed is what is left of it beyond the sources' size: along the largest of these axes, or along the
       * way that it is.
       */
      beyond?: readonly number[] | 'way'
    }
  | {
      type: 'choice'
      label: string
      path: FieldPath
      options: readonly { value: string | number; name: string }[]
      otherwise?: string
      also?: Record<string, object>
    }
  /** `on`: what is there while it is on, and nothing while it is not; without it the switch is itself the value. */
  | { type: 'switch'; label: string; path: FieldPath; on?: object }
  /** Whole numbers one after the other. */
  | { type: 'counts'; label: string; path: FieldPath }
  | { type: 'rise'; label: string; path: FieldPath; /** Where the number of its rows is. */ rows: FieldPath }

export type NumberField = Extract<RuleField, { type: 'number' }>
type ChoiceField = Extract<RuleField, { type: 'choice' }>

export type FieldQuantity = Quantity | 'count' | 'share' | 'number'

export const numberField = (label: string, path: FieldPath, quantity: FieldQuantity, axis?: number): NumberField => ({
  type: 'number',
  label,
  path,
  quantity,
  axis,
})
export const threeFields = (label: string, key: string, quantity: FieldQuantity): RuleField[] =>
  [0, 1, 2].map(axis => numberField(`${label} ${'XYZ'[axis]}`, [key, axis], quantity, axis))
/** A number whose part beyond the sources' size is shown: the free space between copies. */
export const gapField = (
  label: string,
  path: FieldPath,
  beyond: readonly number[] | 'way',
  axis?: number,
): NumberField => ({ ...numberField(label, path, 'length', axis), beyond })
export const switchField = (label: string, key: string): RuleField => ({ type: 'switch', label, path: [key] })
/** @param options names by value; @param also by value what is put together with it */
export const choiceField = (
  label: string,
  key: string,
  options: Record<string, string>,
  also?: Record<string, object>,
): ChoiceField => ({
  type: 'choice',
  label,
  path: [key],
  options: Object.entries(options).map(([value, name]) => ({ value, name })),
  also,
})

/** A number or choice that older rules leave out. */
export const withOtherwise = <F extends NumberField | ChoiceField>(
  field: F,
  otherwise: NonNullable<F['otherwise']>,
): F => ({ ...field, otherwise })

export const FACING = choiceField('Facing', 'facing', { kept: 'kept', in: 'inwards', out: 'outwards' })
/** How rows rise, one after the other. @param rows where the number of them is in the rule */
export const riseOver = (rows: FieldPath): RuleField => ({ type: 'rise', label: 'Rise', path: ['rise'], rows })
