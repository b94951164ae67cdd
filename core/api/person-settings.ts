import { z } from 'zod'
import type { Json } from '../units/json-bounds'
import { jsonProblem, jsonSize } from '../units/json-bounds'

// How a person works, kept with them on the server. What it means is the page's matter: here it is only bounded.

/** Settings, values within values, and values in all. */
const MOST = 200
const BOUNDS = { deepest: 30, most: 200_000 }
/** Characters of all settings of one person, about. */
export const LARGEST_KEPT = 6_000_000

/** Settings by name, and the version of the program's settings that they are of. */
export const keptSettingsSchema = z.strictObject({
  version: z.int().min(1).max(10_000),
  settings: z.record(z.string().min(1).max(60), z.unknown()).superRefine((settings, context) => {
    const problem =
      Object.keys(settings).length > MOST
        ? `holds more than ${MOST} settings`
        : (jsonProblem(settings, BOUNDS) ?? (jsonSize(settings, LARGEST_KEPT) > LARGEST_KEPT ? 'is too large' : null))
    if (problem) context.addIssue({ code: 'custom', message: problem })
  }) as unknown as z.ZodType<Record<string, Json>>,
})
export type KeptSettings = z.infer<typeof keptSettingsSchema>

/** What is kept with whoever asks; null while nothing is, and for who is not known by name. */
export const keptAnswerSchema = z.strictObject({ kept: keptSettingsSchema.nullable() })

/**
 * What is kept with some put to it: the same settings are replaced, all others stay. Of a newer version they are all
 * that is kept from then on, since nobody here can bring the others to it.
 */
export const withSettings = (kept: KeptSettings | null, put: KeptSettings): KeptSettings => ({
  version: put.version,
  settings: { ...(kept?.version === put.version && kept.settings), ...put.settings },
})
