import { z } from 'zod'

/** What somebody may do, each with all before it: look, write notes, work on levels, keep people and levels. */
export const ROLES = ['look', 'note', 'work', 'keep'] as const
export type Role = (typeof ROLES)[number]
export const roleSchema = z.enum(ROLES)

/** What somebody may do in one level: no more than elsewhere, or nothing at all. */
export const LEVEL_ROLES = ['none', 'look', 'note', 'work'] as const
export type LevelRole = (typeof LEVEL_ROLES)[number]

/** What people read of it. */
export const ROLE_WORDS: Record<Role, string> = {
  look: 'Looking',
  note: 'Noting',
  work: 'Working',
  keep: 'Keeping',
}

/**
 * Whether a role is enough for something.
 *
 * @example
 * [mayDo('work', 'look'), mayDo('look', 'work'), mayDo(null, 'look')] // [true, false, false]
 */
export function mayDo(role: Role | null, needed: Role): boolean {
  return role !== null && ROLES.indexOf(role) >= ROLES.indexOf(needed)
}

/**
 * A role in a level where somebody has a narrower one; null if they may not even look.
 *
 * @example
 * [narrowed('work', 'look'), narrowed('look', 'work'), narrowed('keep', 'none')] // ['look', 'look', null]
 */
export function narrowed(role: Role, inLevel: LevelRole | null): Role | null {
  if (inLevel === 'none') return null
  return inLevel !== null && mayDo(role, inLevel) ? inLevel : role
}
