import { eq } from 'drizzle-orm'
import type { KeptSettings } from '../../core/api/person-settings'
import { keptSettingsSchema, withSettings } from '../../core/api/person-settings'
import type { Database, Transaction } from '../db/client'
import { inTransaction } from '../db/client'
import { people, personSettings } from '../db/schema'
import { ApiError } from '../utils/api-error'
import type { Doer } from './accounts'

/** What is kept with a person; null for nothing, and for nobody by name. */
export async function settingsOf(db: Database | Transaction, person: Doer): Promise<KeptSettings | null> {
  if (person === null) return null
  const [row] = await db
    .select({ version: personSettings.version, settings: personSettings.settings })
    .from(personSettings)
    .where(eq(personSettings.personId, person.id))
  return row ?? null
}

/**
 * Keeps some settings with a person; others that are kept stay.
 *
 * @throws ApiError 409 for who is not known by name, and where those of a newer version are kept; 422 for too many
 */
export async function keepSettings(db: Database, person: Doer, put: KeptSettings): Promise<void> {
  if (person === null)
    throw new ApiError(409, 'no-name', 'Only of who comes in by name settings are kept here.', { field: 'settings' })
  await inTransaction(db, async tx => {
    // One after the other: what two devices send at once is put together.
    await tx.select({ id: people.id }).from(people).where(eq(people.id, person.id)).for('update')
    const before = await settingsOf(tx, person)
    if (before && before.version > put.version)
      throw new ApiError(409, 'newer', 'Settings of a newer version of this program are kept with you.', {
        field: 'version',
      })
    const next = keptSettingsSchema.safeParse(withSettings(before, put))
    if (!next.success) throw ApiError.invalid(next.error)
    await tx
      .insert(personSettings)
      .values({ personId: person.id, ...next.data })
      .onConflictDoUpdate({ target: personSettings.personId, set: next.data })
  })
}
