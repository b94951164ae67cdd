import { z } from 'zod'
import type { Things } from '../edit/things'
import { gatherThings, MOST_THINGS } from '../edit/things'
import { colorSchema, idSchema, nameSchema, vec3Schema } from '../level/fields'
import { blockSchema, placementSchema, relationSchema } from '../level/schema'

/** Things as text, to be put into any level: JSON of their placements, and of what those name. */
const thingsSchema: z.ZodType<Things> = z
  .strictObject({
    /** Tells the text from any other. */
    format: z.literal('handy-grid things'),
    version: z.literal(1),
    /** The point of the world that is brought to the place where they are put down. */
    foot: vec3Schema,
    /** Those at the top stand in the world; each of the others comes after what it hangs from. */
    placements: z.array(placementSchema).min(1).max(MOST_THINGS),
    layers: z.array(z.strictObject({ id: idSchema, name: nameSchema, color: colorSchema })).max(10_000),
    blocks: z.array(blockSchema).max(MOST_THINGS),
    /** What the parts are called, for when they are not there. */
    parts: z.array(z.strictObject({ id: idSchema, name: nameSchema })).max(MOST_THINGS),
    /** What is kept of them. */
    relations: z.array(relationSchema).max(MOST_THINGS).optional(),
  })
  .refine(
    ({ placements }) => {
      const seen = new Set<string>()
      return placements.every(
        ({ id, parentId }) => !seen.has(id) && (parentId === null || seen.has(parentId)) && seen.add(id),
      )
    },
    { path: ['placements'], message: 'must come after what they hang from, each once' },
  )

/**
 * Things as text for the clipboard; see `gatherThings`.
 *
 * @throws RangeError for more things than can be copied at once
 */
export function writeThings(...given: Parameters<typeof gatherThings>): string {
  return JSON.stringify(gatherThings(...given))
}

/** What a text says; null if it is no text of things, or one that makes no sense. */
export function readThings(text: string): Things | null {
  if (!text.startsWith('{"format":"handy-grid things"')) return null
  try {
    return thingsSchema.safeParse(JSON.parse(text)).data ?? null
  } catch {
    return null
  }
}
