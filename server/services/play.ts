import { and, eq, inArray } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { PlayAnswer, PlayRequest } from '../../core/api/play'
import { playRequestSchema } from '../../core/api/play'
import { idSchema } from '../../core/level/fields'
import { Level } from '../../core/level/level'
import type { Recipe } from '../../core/level/recipe'
import type { Placement } from '../../core/level/schema'
import { playRecipe } from '../../core/recipe/playing'
import { firstIssue } from '../../core/units/issue'
import { asName } from '../../core/units/text'
import type { Database, Transaction } from '../db/client'
import { inTransaction } from '../db/client'
import { changes, parts, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import type { Maker } from './changes'
import { loadWithAncestors, revisionOf, saveWithin } from './changes'
import { loadSmall, slices } from './small-tables'

/**
 * Plays a recipe on things of a level, as one change.
 *
 * @throws ApiError 404 for an unknown level, 422 with the field for what cannot be played
 */
export async function playRecipeJob(
  db: Database,
  { levelId, request, by }: { levelId: string; request: PlayRequest; by: Maker },
): Promise<PlayAnswer> {
  return inTransaction(db, async tx => {
    const revision = await revisionOf(tx, levelId)
    const before = request.change && (await doneBefore(tx, levelId, request.change))
    if (before) return { ...before, revision }
    const recipe = await recipeOf(tx, levelId, request.recipe)
    const on = [...request.on, ...(await idsNamed(tx, levelId, request.named))]
    const needed = new Set([...on, ...idsIn(recipe)])
    const known = await loadWithAncestors(tx, levelId, needed)
    const level = new Level(known, await loadSmall(tx, levelId))
    const missing = on.find(id => !level.has(id))
    if (missing !== undefined) throw refused('on', `Nothing in the level has the id ${missing}.`)
    const hasPart = await partsOf(tx, recipe, known)
    const played = playRecipe(level, recipe, { on, inputs: request.inputs, newId: v7, hasPart })
    if (!played.ok) throw refused('recipe', played.step === 0 ? played.error : `Step ${played.step}: ${played.error}`)
    const label = asName(`Play “${recipe.name}”`)
    const { operations, made } = played
    if (request.dry || operations.length === 0)
      return { label, revision, change: null, operations: operations.length, made: request.dry ? [] : made }
    const change = { id: request.change ?? v7(), label, author: request.author, operations }
    const saved = await saveWithin(tx, levelId, { baseRevision: revision, changes: [change] }, by)
    return { label, revision: saved.revision, change: change.id, operations: operations.length, made }
  })
}

/** The same from the command line, of whatever was asked for there. @throws ApiError 422 */
export async function playAskedJob(
  db: Database,
  { levelId, request }: { levelId: string; request: unknown },
): Promise<PlayAnswer> {
  const read = playRequestSchema.safeParse(request)
  if (!read.success) {
    const { path, message } = firstIssue(read.error)
    throw refused(path.join('.') || 'request', `${message}.`)
  }
  return playRecipeJob(db, { levelId, request: read.data, by: { person: null, role: 'keep' } })
}

const refused = (field: string, message: string) => new ApiError(422, 'invalid', `${field}: ${message}`, { field })

/** What was answered when the same was sent before. */
async function doneBefore(
  tx: Transaction,
  levelId: string,
  id: string,
): Promise<Omit<PlayAnswer, 'revision'> | undefined> {
  const [done] = await tx
    .select({ label: changes.label, operations: changes.operations, inverse: changes.inverse })
    .from(changes)
    .where(and(eq(changes.levelId, levelId), eq(changes.id, id)))
  // What takes it back removes what it made.
  const made = (done?.inverse ?? []).flatMap(({ do: does, id: of }) => (does.startsWith('remove') ? [of] : []))
  return done && { label: done.label, change: id, operations: done.operations.length, made }
}

/** @throws ApiError 422 if the level has none that is meant */
async function recipeOf(tx: Transaction, levelId: string, given: PlayRequest['recipe']): Promise<Recipe> {
  if (typeof given !== 'string') return given
  const { recipes } = await loadSmall(tx, levelId, record => (record === 'recipe' ? undefined : []))
  const found = recipes.filter(({ id, name }) => id === given.toLowerCase() || name === given)
  if (found.length === 1) return found[0]!
  throw refused('recipe', found.length === 0 ? `The level has no recipe “${given}”.` : `Several are called “${given}”.`)
}

/** Things by names that one thing alone has. @throws ApiError 422 */
async function idsNamed(tx: Transaction, levelId: string, names: readonly string[]): Promise<string[]> {
  const found = new Map<string, string[]>()
  for (const some of slices([...new Set(names)])) {
    const rows = await tx
      .select({ id: placements.id, name: placements.name })
      .from(placements)
      .where(and(eq(placements.levelId, levelId), inArray(placements.name, some)))
      .limit(100_000)
    for (const { id, name } of rows) found.set(name, [...(found.get(name) ?? []), id])
  }
  return names.map(name => {
    const ids = found.get(name) ?? []
    if (ids.length === 1) return ids[0]!
    throw refused(
      'named',
      ids.length === 0 ? `Nothing is called “${name}”.` : `${ids.length} things are called “${name}”.`,
    )
  })
}

/** All ids that a recipe names, whatever they are of. */
function idsIn(recipe: Recipe): string[] {
  const found: string[] = []
  JSON.stringify(recipe.steps, (_key, value: unknown) => {
    if (typeof value === 'string' && idSchema.safeParse(value).success) found.push(value)
    return value
  })
  return found
}

/** Whether the kit has a part, for those that playing may name. */
async function partsOf(tx: Transaction, recipe: Recipe, known: readonly Placement[]): Promise<(id: string) => boolean> {
  const named = new Set([...idsIn(recipe), ...known.flatMap(({ partId }) => partId ?? [])])
  const there = new Set<string>()
  for (const some of slices([...named])) {
    const rows = await tx.select({ id: parts.id }).from(parts).where(inArray(parts.id, some))
    for (const { id } of rows) there.add(id)
  }
  return id => there.has(id)
}
