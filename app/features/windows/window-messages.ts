import { z } from 'zod'
import { HANDLE_CHOICES } from '~~/core/edit/handles/handle'

// What windows of one person on one level tell each other. It goes by the browser alone, and is kept nowhere.

/** What a window shows: all, its stage alone, or its roster and ledger alone. */
export const WINDOW_PARTS = ['all', 'stage', 'lists'] as const
export type WindowPart = (typeof WINDOW_PARTS)[number]

/** Things that are told as picked, at most. */
const MOST_PICKED = 100_000

const numbers = z.tuple([z.number(), z.number(), z.number()])
export const windowMessageSchema = z.union([
  /** Somebody came, and wants to know how things stand. */
  z.strictObject({ hello: z.literal(true) }),
  z.strictObject({ picked: z.array(z.string()).max(MOST_PICKED), last: z.string().nullable() }),
  /** Which handles are shown. */
  z.strictObject({ handles: z.enum(HANDLE_CHOICES) }),
  z.strictObject({ eye: numbers, target: numbers }),
  /** By which id the server knows it among the people of the level. */
  z.strictObject({ self: z.string() }),
])
export type WindowMessage = z.infer<typeof windowMessageSchema>
