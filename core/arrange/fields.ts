import type { ChoiceField, Field, FieldPath, NumberField } from '../units/field'
import { choiceField, numberField } from '../units/field'
import type { LevelAxis } from '../units/height'

/**
 * Of some numbers is shown and typed what is left beyond the sources' size: along the largest of these axes, or along
 * the way that it is.
 */
export type RuleNumber = NumberField & { beyond?: readonly number[] | 'way' }

/** A row of the form of a rule. `rise` is how its rows rise, and where the number of them is. */
export type RuleField =
  | Exclude<Field, NumberField>
  | RuleNumber
  | { type: 'rise'; label: string; path: FieldPath; rows: FieldPath }

/** A number whose part beyond the sources' size is shown: the free space between copies. */
export const gapField = (
  label: string,
  path: FieldPath,
  beyond: readonly number[] | 'way',
  axis?: LevelAxis,
): RuleNumber => ({ ...numberField(label, path, 'length', { axis, isAmount: true }), beyond })

/** A number or choice that older rules leave out. */
export const withOtherwise = <F extends RuleNumber | ChoiceField>(
  field: F,
  otherwise: NonNullable<F['otherwise']>,
): F => ({ ...field, otherwise })

export const FACING = choiceField('Facing', 'facing', { kept: 'kept', in: 'inwards', out: 'outwards' })
/** How rows rise, one after the other. @param rows where the number of them is in the rule */
export const riseOver = (rows: FieldPath): RuleField => ({ type: 'rise', label: 'Rise', path: ['rise'], rows })
