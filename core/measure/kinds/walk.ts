import type { MeasureDefinition } from '../definition'
import { chain } from './tape'

/** Where people are to walk; the level check looks for what is in their way. */
export const walk: MeasureDefinition = {
  name: 'Walking line',
  hint: 'click the way people take; the check looks for gaps and steps along it',
  icon: 'M12 3a2 2 0 1 1 0 4 2 2 0 0 1 0-4zM10 8h4l2 4-1.600.800L13.500 11v3l2.500 6.500-1.900.700L12 15.500l-2.100 5.700-1.900-.700L10.500 14v-3l-.900 1.800L8 12z',
  measure: (ends, { axes }) => {
    const { lines, facts } = chain(ends, axes)
    return { lines: [], guides: lines, numbers: [], facts, remarks: [] }
  },
}
