import { z } from 'zod'
import { idSchema, nameSchema } from '../level/fields'
import { LEVEL_ROLES, roleSchema } from './roles'

// People by name, whom keepers let in: each with a key of their own, or by what the studio's identity provider says.

/** Levels of one person in which they may do less than elsewhere, at the most. */
const MOST_LEVELS = 1000

const moment = z.iso.datetime()

const inLevelsSchema = z
  .array(z.strictObject({ level: idSchema, role: z.enum(LEVEL_ROLES) }))
  .max(MOST_LEVELS)
  .refine(all => new Set(all.map(({ level }) => level)).size === all.length, 'has a level twice')

/** A person as keepers see them. */
export const accountSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  role: roleSchema,
  /** Where it is a narrower one; none at all where the level is as if it was not there. */
  levels: inLevelsSchema,
  /** By a key, or by the identity provider, which then says the name and the role each time. */
  by: z.enum(['key', 'provider']),
  madeAt: moment,
  /** Since when the key is this one. */
  keyMadeAt: moment.nullable(),
  /** Since when nothing is opened to them any more. */
  endedAt: moment.nullable(),
})
export type Account = z.infer<typeof accountSchema>

export const newPersonSchema = z.strictObject({ name: nameSchema, role: roleSchema })
export type NewPerson = z.infer<typeof newPersonSchema>

/** A person with their key, which is told this once and kept nowhere. */
export const personKeySchema = z.strictObject({ person: accountSchema, key: z.string() })
export type PersonKey = z.infer<typeof personKeySchema>

export const personPatchSchema = z
  .strictObject({
    name: nameSchema.optional(),
    role: roleSchema.optional(),
    levels: inLevelsSchema.optional(),
    /** Lets somebody in again who comes by the provider. */
    ended: z.literal(false).optional(),
  })
  .refine(patch => Object.keys(patch).length > 0, 'nothing to change')
export type PersonPatch = z.infer<typeof personPatchSchema>

/** What keepers do that is kept in their log, with the words for it. */
export const KEPT_DEEDS = {
  'let in': 'let in',
  'renamed': 'renamed',
  'role': 'changed the role of',
  'in levels': 'changed the roles in single levels of',
  'new key': 'gave a new key to',
  'ended': 'ended',
  'level deleted': 'deleted the level',
  'level brought back': 'brought back the level',
} as const
export type KeptDeed = keyof typeof KEPT_DEEDS

export const keeperLogQuerySchema = z.strictObject({
  /** Only what is older than this entry. */
  before: z.coerce.number().pipe(z.int().min(1)).optional(),
})

/** What keepers did, the last first. */
export const keeperLogSchema = z.strictObject({
  entries: z.array(
    z.strictObject({
      id: z.int().min(1),
      at: moment,
      /** Who did it, and whether that is proven. */
      by: z.string(),
      proven: z.boolean(),
      did: z.enum(Object.keys(KEPT_DEEDS) as [KeptDeed, ...KeptDeed[]]),
      /** The name of whom or what it was done to. */
      to: z.string(),
      /** What it is now, where that is not said yet. */
      now: z.string(),
    }),
  ),
})
export type KeeperLog = z.infer<typeof keeperLogSchema>
