import { z } from 'zod'
import { idSchema, nameSchema, quatSchema, vec3Schema } from './fields'
import { light } from './kinds/light'

const unit = vec3Schema.refine(([x, y, z]) => Math.abs(Math.hypot(x, y, z) - 1) < 1e-6, 'must be of unit length')

/** A place where parts connect, in the mesh's axes: two of the same kind fit when they point against each other. */
export const socketSchema = z
  .strictObject({
    name: nameSchema,
    at: vec3Schema,
    /** Outwards, to where the other part is. */
    direction: unit,
    /** What points up in both when they are connected; at right angles to the direction. */
    up: unit,
    kind: nameSchema,
  })
  .refine(({ direction: [a, b, c], up: [x, y, z] }) => Math.abs(a * x + b * y + c * z) < 1e-6, {
    path: ['up'],
    message: 'must be at right angles to the direction',
  })

export type Socket = z.infer<typeof socketSchema>

/** A light that a part brings: what it is, where in the mesh's axes, and turned so that it shines along -Z. */
export const lampSchema = z.strictObject({ at: vec3Schema, rotation: quatSchema, light: light.own })

/** Lights that one part may bring. */
export const MOST_LAMPS = 16

export type Lamp = z.infer<typeof lampSchema>

/** The kit that parts are in if nothing else is said. */
export const OWN_KIT = 'Own parts'

/** Several parts as one entry of the kit, of which one is placed at a time. */
export const kitEntrySchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  kit: nameSchema,
  /** In turn, or any of them. */
  by: z.enum(['turn', 'random']),
  parts: z.array(idSchema).min(2, 'needs two parts').max(50),
})

export type KitEntry = z.infer<typeof kitEntrySchema>

/** One entry of the kit, as listed; its mesh is fetched apart, once. */
export const partSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  /** The kit it is in, by its name. */
  kit: nameSchema,
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
  /** Where others connect to it. */
  sockets: z.array(socketSchema).max(64, 'may be 64'),
  /** The lights that it brings wherever it is placed. */
  lamps: z.array(lampSchema).max(MOST_LAMPS).default([]),
  /** As what it falls when things are let settle. */
  settlesAs: z.enum(['hull', 'box']).default('hull'),
  /** Whether a picture of it is kept. */
  hasPicture: z.boolean(),
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
  const tags = [
    ...new Set(
      text
        .split(',')
        .map(tag => tag.trim())
        .filter(Boolean),
    ),
  ]
  return partSchema.shape.tags.safeParse(tags).data ?? null
}
