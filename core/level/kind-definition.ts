import type { z } from 'zod'

/** All there is to know about one kind of placement. */
export type KindDefinition<Own extends object, Mark extends boolean> = {
  /** What a placement of the kind has beyond the fields that all have. */
  own: z.ZodType<Own>
  first: Own
  /** What people call it. */
  name: string
  /** What is seen where it stands: the part or block it names, copies of what hangs below it, or nothing of its own. */
  shows: 'part' | 'block' | 'copies' | 'nothing'
  /** Whether a mark stands on the stage for it. */
  isMark: Mark
  /** SVG path data in a square of 24 by 24, for lists and marks. */
  icon: string
  /** What is said of it in the `extras` of its glTF node. */
  extras: (own: Own) => Record<string, unknown>
}
