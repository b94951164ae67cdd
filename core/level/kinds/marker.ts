import { z } from 'zod'
import { plainText } from '../../units/text'
import type { KindDefinition } from '../kind-definition'

const own = z.strictObject({ marker: z.enum(['spawn', 'volume', 'note']), text: plainText(2000) })

/** A spawn faces +Z; a volume is a box of 1 m under its size; a note says its text. */
export const marker: KindDefinition<z.infer<typeof own>> = {
  own,
  first: { marker: 'note', text: '' },
  name: 'Marker',
  shows: 'nothing',
  isMark: true,
  icon: 'M6 2h2v20H6zM9 3l10 4-10 4z',
  extras: own => ({ marker: own }),
}
