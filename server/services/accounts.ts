import { createHash, randomBytes } from 'node:crypto'
import { and, asc, desc, eq, isNull, lt, ne, sql } from 'drizzle-orm'
import { v7 } from 'uuid'
import { ZodError } from 'zod'
import { newPersonSchema, personPatchSchema } from '../../core/api/accounts'
import type { Account, KeeperLog, KeptDeed, NewPerson, PersonKey, PersonPatch } from '../../core/api/accounts'
import type { LevelRole, Role } from '../../core/api/roles'
import { ROLE_WORDS } from '../../core/api/roles'
import { idSchema } from '../../core/level/fields'
import { counted } from '../../core/units/plural'
import { LONGEST_NAME } from '../../core/units/text'
import type { Database, Transaction } from '../db/client'
import { inTransaction } from '../db/client'
import { isForeignKeyViolation } from '../db/failures'
import { keeperLog, levelRoles, people } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { announce } from './live/announce'

/** Who does something, as far as that is known: nobody by name where one comes by the shared keys, or on loopback. */
export type Doer = { id: string; name: string } | null

/** People there may be, with those who were ended. */
const MOST_PEOPLE = 10_000
/** Bytes of a key: as much chance as in a UUID, twice; nobody needs to make its hash slow to guess. */
const KEY_BYTES = 32
/** Entries of the log that are answered at once. */
const LOG_PAGE = 100

/** What is kept of a key. */
export const keyHash = (key: string) => createHash('sha256').update(key).digest('hex')

type Row = typeof people.$inferSelect

function toAccount({ keyHash: _hash, subject, madeAt, keyMadeAt, endedAt, ...row }: Row, levels: InLevel[]): Account {
  return {
    ...row,
    levels,
    by: subject === null ? 'key' : 'provider',
    madeAt: madeAt.toISOString(),
    keyMadeAt: keyMadeAt?.toISOString() ?? null,
    endedAt: endedAt?.toISOString() ?? null,
  }
}

type InLevel = { level: string; role: LevelRole }

/** Everybody who may come in, and who might once, by name. */
export async function listPeople(db: Database): Promise<Account[]> {
  const rows = await db
    .select()
    .from(people)
    .orderBy(asc(sql`lower(${people.name})`), asc(people.id))
  const inLevels = new Map<string, InLevel[]>(rows.map(({ id }) => [id, []]))
  for (const { personId, levelId, role } of await db.select().from(levelRoles).orderBy(asc(levelRoles.levelId)))
    inLevels.get(personId)?.push({ level: levelId, role })
  return rows.map(row => toAccount(row, inLevels.get(row.id)!))
}

async function needPerson(tx: Transaction, id: string): Promise<Account> {
  const [row] = await tx.select().from(people).where(eq(people.id, id)).for('update')
  if (!row) throw ApiError.notFound('person')
  const levels = await tx
    .select({ level: levelRoles.levelId, role: levelRoles.role })
    .from(levelRoles)
    .where(eq(levelRoles.personId, id))
    .orderBy(asc(levelRoles.levelId))
  return toAccount(row, levels)
}

/** Whether somebody else who may come in is called so. */
async function isTaken(tx: Transaction, name: string, id: string): Promise<boolean> {
  const [other] = await tx
    .select({ id: people.id })
    .from(people)
    .where(and(sql`lower(${people.name}) = lower(${name})`, isNull(people.endedAt), ne(people.id, id)))
  return other !== undefined
}

/** @throws ApiError 422 if the name is taken */
async function refuseTaken(tx: Transaction, name: string, id: string): Promise<void> {
  if (await isTaken(tx, name, id))
    throw new ApiError(422, 'name-taken', 'name: somebody else is called so.', { field: 'name' })
}

/** One after the other: names are looked at before they are written. */
async function asOneOfMany<T>(db: Database, work: (tx: Transaction) => Promise<T>): Promise<T> {
  return inTransaction(db, async tx => {
    await tx.execute(sql`lock table ${people} in share row exclusive mode`)
    return work(tx)
  })
}

function freshKey(): { key: string; columns: Pick<Row, 'keyHash' | 'keyMadeAt'> } {
  const key = randomBytes(KEY_BYTES).toString('base64url')
  return { key, columns: { keyHash: keyHash(key), keyMadeAt: new Date() } }
}

/** Lets somebody in by name. @throws ApiError 422 if the name is taken, or there are too many */
export async function letIn(db: Database, by: Doer, { name, role }: NewPerson): Promise<PersonKey> {
  return asOneOfMany(db, async tx => {
    if ((await tx.$count(people)) >= MOST_PEOPLE)
      throw new ApiError(422, 'too-many', `name: there are ${MOST_PEOPLE} people, and no more can be let in.`, {
        field: 'name',
      })
    const id = v7()
    await refuseTaken(tx, name, id)
    const { key, columns } = freshKey()
    await tx.insert(people).values({ id, name, role, ...columns })
    await note(tx, by, 'let in', name, ROLE_WORDS[role])
    return { person: await needPerson(tx, id), key }
  })
}

/** Gives another name or other roles. @throws ApiError 404, 409 for the provider's, 422 */
export async function patchPerson(
  db: Database,
  by: Doer,
  id: string,
  { name, role, levels, ended }: PersonPatch,
): Promise<Account> {
  return asOneOfMany(db, async tx => {
    const before = await needPerson(tx, id)
    if (ended === false && before.endedAt) {
      if (before.by === 'key') throw new ApiError(409, 'key-gone', 'This person needs a new key to come in again.')
      await refuseTaken(tx, before.name, id)
      await tx.update(people).set({ endedAt: null }).where(eq(people.id, id))
      await note(tx, by, 'let in', before.name, 'again')
    }
    if (before.by === 'provider' && (name !== undefined || role !== undefined))
      throw new ApiError(409, 'provider', 'The identity provider says what this person is called and may do.')
    if (role !== undefined && role !== before.role) refuseSelf(by, id, 'changes their own role')
    if (name !== undefined && name !== before.name) {
      await refuseTaken(tx, name, id)
      await tx.update(people).set({ name }).where(eq(people.id, id))
      await note(tx, by, 'renamed', before.name, name)
    }
    const called = name ?? before.name
    if (role !== undefined && role !== before.role) {
      await tx.update(people).set({ role }).where(eq(people.id, id))
      await note(tx, by, 'role', called, ROLE_WORDS[role])
    }
    if (levels) await setLevels(tx, by, { ...before, name: called }, levels)
    // What they have open is opened anew, as what they may now.
    await announce(tx, { ended: id })
    return needPerson(tx, id)
  })
}

/** @throws ApiError 422 if a level is not there */
async function setLevels(tx: Transaction, by: Doer, { id, name }: Account, levels: InLevel[]): Promise<void> {
  await tx.delete(levelRoles).where(eq(levelRoles.personId, id))
  try {
    if (levels.length > 0)
      await tx
        .insert(levelRoles)
        .values(levels.map(({ level, role }) => ({ personId: id, levelId: level.toLowerCase(), role })))
  } catch (error) {
    if (!isForeignKeyViolation(error)) throw error
    throw new ApiError(422, 'unknown-level', 'levels: one of these is not there.', { field: 'levels' })
  }
  await note(tx, by, 'in levels', name, counted(levels.length, 'level'))
}

/**
 * Gives somebody a new key; the one before opens nothing any more, nor do sessions that were begun with it. Who was
 * ended may come in again.
 *
 * @throws ApiError 404, 409 for the provider's, 422 if the name is taken by now
 */
export async function renewKey(db: Database, by: Doer, id: string): Promise<PersonKey> {
  return asOneOfMany(db, async tx => {
    const before = await needPerson(tx, id)
    if (before.by === 'provider')
      throw new ApiError(409, 'provider', 'This person comes in by the identity provider, without a key.')
    await refuseTaken(tx, before.name, id)
    const { key, columns } = freshKey()
    await tx
      .update(people)
      .set({ ...columns, endedAt: null })
      .where(eq(people.id, id))
    await note(tx, by, 'new key', before.name, '')
    await announce(tx, { ended: id })
    return { person: await needPerson(tx, id), key }
  })
}

/** Lets somebody in no longer: within a second they are out everywhere. @throws ApiError 404, 409 for oneself */
export async function endPerson(db: Database, by: Doer, id: string): Promise<void> {
  await inTransaction(db, async tx => {
    const before = await needPerson(tx, id)
    if (before.endedAt) return
    refuseSelf(by, id, 'ends themself')
    await tx.update(people).set({ keyHash: null, endedAt: new Date() }).where(eq(people.id, id))
    await note(tx, by, 'ended', before.name, '')
    await announce(tx, { ended: id })
  })
}

/** A keeper who is the last one would be nobody's keeper any more by a slip of the hand. */
function refuseSelf(by: Doer, id: string, what: string): void {
  if (by?.id === id) throw new ApiError(409, 'oneself', `Nobody ${what}; another keeper can.`)
}

/** Somebody as the door needs them: what they may, and since when their key is this one. */
export type Known = { id: string; name: string; role: Role; keyMadeAt: Date | null; inLevel: LevelRole | null }

/** Somebody who may come in, by a key's hash or an id. @param levelId where they want to do something */
export async function findPerson(
  db: Database,
  by: { keyHash: string } | { id: string },
  levelId: string | null = null,
): Promise<Known | null> {
  const [row] = await db
    .select({
      id: people.id,
      name: people.name,
      role: people.role,
      keyMadeAt: people.keyMadeAt,
      inLevel: levelRoles.role,
    })
    .from(people)
    .leftJoin(levelRoles, and(eq(levelRoles.personId, people.id), eq(levelRoles.levelId, levelId ?? NO_LEVEL)))
    .where(and('id' in by ? eq(people.id, by.id) : eq(people.keyHash, by.keyHash), isNull(people.endedAt)))
  return row ?? null
}

/** Of no level. */
const NO_LEVEL = '00000000-0000-0000-0000-000000000000'

/** Levels that are not there for somebody. */
export async function levelsHidden(db: Database, personId: string): Promise<Set<string>> {
  const rows = await db
    .select({ id: levelRoles.levelId })
    .from(levelRoles)
    .where(and(eq(levelRoles.personId, personId), eq(levelRoles.role, 'none')))
  return new Set(rows.map(({ id }) => id))
}

/** Writes down what a keeper did, within what does it. */
export async function note(tx: Transaction, by: Doer, did: KeptDeed, to: string, now: string): Promise<void> {
  await tx.insert(keeperLog).values({ by: by?.name ?? 'a keeper', personId: by?.id ?? null, did, to, now })
}

/** What keepers did, the last first. @param before only what is older than this entry */
export async function readKeeperLog(db: Database, before?: number): Promise<KeeperLog> {
  const rows = await db
    .select()
    .from(keeperLog)
    .where(before === undefined ? undefined : lt(keeperLog.id, before))
    .orderBy(desc(keeperLog.id))
    .limit(LOG_PAGE)
  return {
    entries: rows.map(({ personId, at, ...row }) => ({ ...row, at: at.toISOString(), proven: personId !== null })),
  }
}

/**
 * Somebody whom the identity provider has let in: known by its subject, and called and allowed what it says now.
 *
 * @throws ApiError 403 if they were ended here
 */
export async function takeFromProvider(
  db: Database,
  { subject, name, role }: { subject: string; name: string; role: Role },
): Promise<{ id: string; name: string }> {
  return asOneOfMany(db, async tx => {
    const [known] = await tx.select().from(people).where(eq(people.subject, subject))
    if (known?.endedAt) throw new ApiError(403, 'ended', 'You are not let in here any more.')
    const id = known?.id ?? v7()
    const free = await freeName(tx, name, id)
    if (!known) {
      await tx.insert(people).values({ id, name: free, role, subject })
      await note(tx, null, 'let in', free, ROLE_WORDS[role])
    } else if (known.role !== role || known.name !== free) {
      await tx.update(people).set({ name: free, role }).where(eq(people.id, id))
      await announce(tx, { ended: id })
    }
    return { id, name: free }
  })
}

/** Characters kept for the number behind a name. */
const ROOM = 8

/** A name, with a number where others have it already. */
async function freeName(tx: Transaction, name: string, id: string): Promise<string> {
  let free = name
  for (let i = 2; await isTaken(tx, free, id); i++) free = `${name.slice(0, LONGEST_NAME - ROOM)} ${i}`
  return free
}

/** The routes for people, as somebody asks them who has the database itself, and is not known by name. */
const ASKED = {
  listPeople: async db => ({ people: await listPeople(db) }),
  letIn: (db, _, body) => letIn(db, null, newPersonSchema.parse(body)),
  patchPerson: (db, id, body) => patchPerson(db, null, idSchema.parse(id), personPatchSchema.parse(body)),
  renewKey: (db, id) => renewKey(db, null, idSchema.parse(id)),
  endPerson: (db, id) => endPerson(db, null, idSchema.parse(id)),
  keeperLog: db => readKeeperLog(db),
} satisfies Record<string, (db: Database, id: unknown, body: unknown) => Promise<unknown>>

/** The same for who asks without a server. @throws ApiError as the routes do */
export async function peopleAskedJob(
  db: Database,
  { route, id, body }: { route: keyof typeof ASKED; id?: string; body?: unknown },
): Promise<unknown> {
  try {
    return await ASKED[route](db, id, body)
  } catch (error) {
    if (error instanceof ZodError) throw ApiError.invalid(error)
    throw error
  }
}
