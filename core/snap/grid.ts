import { tidy } from '../units/quantity'

/**
 * The nearest multiple of `step`; the value itself when the step is 0.
 * Free of the crumbs of binary fractions: 0.3 at a step of 0.1 is 0.3.
 */
export function snapToStep(value: number, step: number): number {
  return step > 0 ? tidy(Math.round(value / step) * step) : value
}
