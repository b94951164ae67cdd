import { z } from 'zod'
import type { Json } from '../units/json-bounds'
import { jsonProblem, jsonSize } from '../units/json-bounds'

/** Values within values, values in all, and characters of what is kept of a form or a step. */
const BOUNDS = { deepest: 24, most: 5000 }
const LARGEST = 60_000

/** Values that belong together by names, whatever they mean: whoever uses them looks at them by a schema of its own. */
export const valuesSchema = z.record(z.string().max(200), z.unknown()).superRefine((values, context) => {
  const problem = jsonProblem(values, BOUNDS) ?? (jsonSize(values, LARGEST) > LARGEST ? 'is too large' : null)
  if (problem) context.addIssue({ code: 'custom', message: problem })
}) as unknown as z.ZodType<Record<string, Json>>
