import { z } from 'zod'
import { idSchema, nameSchema, vec3Schema } from './fields'

/** One entry of the kit, as listed; its mesh is fetched apart, once. */
export const partSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** A piece is modular, made for a grid; a prop stands free. */
  kind: z.enum(['piece', 'prop']),
  tags: z.array(nameSchema).max(20),
  /** SHA-256 of the GLB that holds its mesh, in lower-case hexadecimal. */
  meshHash: z.string().regex(/^[0-9a-f]{64}$/),
  /** The corners of its box in its own axes, in metres; the pivot is the origin. */
  boundsMin: vec3Schema,
  boundsMax: vec3Schema,
  triangles: z.int().min(0),
  /** Where new placements have their pivot, in the mesh's axes. */
  pivot: vec3Schema,
  /** Whether it can be placed from the kit; a shape baked for one placement alone cannot. */
  inKit: z.boolean(),
})

export type Part = z.infer<typeof partSchema>

/** Width (X), height (Y) and depth (Z) of a part, in metres. */
export function partSize({ boundsMin, boundsMax }: Pick<Part, 'boundsMin' | 'boundsMax'>): [number, number, number] {
  return [boundsMax[0] - boundsMin[0], boundsMax[1] - boundsMin[1], boundsMax[2] - boundsMin[2]]
}

/** Tags as they are typed, with commas between them; null if they are too many or too long. */
export function readTags(text: string): string[] | null {
  const tags = [...new Set(text.split(',').map(tag => tag.trim()).filter(Boolean))]
  return partSchema.shape.tags.safeParse(tags).data ?? null
}
