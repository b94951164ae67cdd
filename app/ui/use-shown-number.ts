import type { FieldQuantity } from '~~/core/units/field'
import type { Quantity } from '~~/core/units/quantity'
import { useSettings } from '~/editor/settings'

/** How a number is written and typed. */
export type ShownNumber = { quantity: Quantity; unit?: string; decimals: number; suffix: string }

/** @returns what tells of a quantity how its numbers are shown: lengths in the unit worked in, all else by itself */
export function useShownNumber() {
  const settings = useSettings()
  return ({
    quantity,
    suffix,
    decimals,
  }: {
    quantity: FieldQuantity
    suffix?: string
    decimals?: number
  }): ShownNumber => {
    switch (quantity) {
      case 'length':
        return {
          quantity,
          unit: settings.kept.unit,
          decimals: Math.max(settings.decimals, decimals ?? 0),
          suffix: settings.suffix,
        }
      case 'angle':
        return { quantity, ...settings.angles, suffix: settings.angles.suffix.trim() }
      case 'share':
        return { quantity: 'factor', unit: '%', decimals: decimals ?? 0, suffix: '%' }
      case 'count':
        return { quantity: 'factor', decimals: 0, suffix: suffix ?? '' }
      case 'number':
        return { quantity: 'factor', decimals: decimals ?? 3, suffix: suffix ?? '' }
      default:
        return { quantity, decimals: decimals ?? 3, suffix: suffix ?? '×' }
    }
  }
}
