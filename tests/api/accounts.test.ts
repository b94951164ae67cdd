import { once } from 'node:events'
import { eq } from 'drizzle-orm'
import { beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import type { KeeperLog, PersonKey } from '../../core/api/accounts'
import { accountSchema, personKeySchema } from '../../core/api/accounts'
import { readLiveMessage } from '../../core/api/live'
import type { Role } from '../../core/api/roles'
import { mayDo, ROLES } from '../../core/api/roles'
import type { RouteSpec } from '../../core/api/routes'
import { ROUTES } from '../../core/api/routes'
import { apiErrorSchema, historySchema, levelSummarySchema } from '../../core/api/schema'
import { changes, people } from '../../server/db/schema'
import { makeServer } from '../server'
import { change, freshId, newGroup, useServer } from './support'

const KEY = 'the-writing-key-of-the-tests'
const READING = 'the-reading-key-of-the-tests'
const env = { HANDY_GRID_KEY: KEY, HANDY_GRID_READING_KEY: READING }
const server = useServer({ env })

type Answer = { status: number; json: unknown; code: string | undefined; cookie: string }

/** Asks as whoever has a key, or a cookie of a session. */
async function ask(by: string, method: string, path: string, body?: unknown, url = server.get().url): Promise<Answer> {
  const response = await fetch(url + path, {
    method,
    headers: {
      ...(by.includes('=') ? { cookie: by } : { authorization: `Bearer ${by}` }),
      ...(body === undefined ? {} : { 'content-type': 'application/json' }),
    },
    body: body === undefined ? undefined : JSON.stringify(body),
  })
  const text = await response.text()
  const json: unknown = text.startsWith('{') ? JSON.parse(text) : null
  const code = apiErrorSchema.safeParse(json).data?.error.code
  return { status: response.status, json, code, cookie: response.headers.getSetCookie()[0]?.split(';')[0] ?? '' }
}

const letIn = async (name: string, role: Role, by = KEY): Promise<PersonKey> =>
  personKeySchema.parse((await ask(by, 'POST', '/api/people', { name, role })).json)
const newLevel = async (name: string): Promise<string> =>
  levelSummarySchema.parse((await ask(KEY, 'POST', '/api/levels', { name })).json).id
const log = async () => ((await ask(KEY, 'GET', '/api/keeper-log')).json as KeeperLog).entries

function socketOf(level: string, key: string, url = server.get().url): WebSocket {
  return new WebSocket(`${url.replace('http', 'ws')}/api/levels/${level}/live`, {
    headers: { authorization: `Bearer ${key}` },
  })
}

describe('how somebody works', () => {
  const PATH = '/api/session/settings'
  const kept = async (key: string) => ((await ask(key, 'GET', PATH)).json as { kept: unknown }).kept
  const put = (key: string, settings: unknown, version: unknown = 2) => ask(key, 'PATCH', PATH, { version, settings })

  it('is kept with each by name, setting by setting, and nobody has that of another', async () => {
    const [ines, otto] = [await letIn('Ines', 'look'), await letIn('Otto', 'work')]
    expect(await kept(ines.key)).toBeNull()
    expect((await put(ines.key, { textSize: 120, keys: { Undo: ['F9'] } })).status).toBe(204)
    expect((await put(ines.key, { textSize: 90, height: 'z' })).status).toBe(204)
    expect(await kept(ines.key)).toEqual({
      version: 2,
      settings: { textSize: 90, height: 'z', keys: { Undo: ['F9'] } },
    })
    expect(await kept(otto.key)).toBeNull()
    // Of a newer version they are all there is, and an older page leaves them alone.
    expect((await put(ines.key, { textSize: 110 }, 3)).status).toBe(204)
    expect(await kept(ines.key)).toEqual({ version: 3, settings: { textSize: 110 } })
    expect(await put(ines.key, { textSize: 80 })).toMatchObject({ status: 409, code: 'newer' })
    expect(await kept(ines.key)).toEqual({ version: 3, settings: { textSize: 110 } })
  })

  it('loses nothing of what several devices send at once', async () => {
    const { key } = await letIn('Pia', 'note')
    const names = Array.from({ length: 40 }, (_, i) => `setting${i}`)
    const answers = await Promise.all(names.map((name, i) => put(key, { [name]: i })))
    expect(answers.every(({ status }) => status === 204)).toBe(true)
    expect(await kept(key)).toEqual({ version: 2, settings: Object.fromEntries(names.map((name, i) => [name, i])) })
  })

  it('is not kept for who has no name, nor beyond bounds; what is refused changes nothing', async () => {
    const { key } = await letIn('Quentin', 'work')
    await put(key, { textSize: 100 })
    expect(await put(READING, { textSize: 120 })).toMatchObject({ status: 409, code: 'no-name' })
    expect(await kept(READING)).toBeNull()
    let deep: unknown = 1
    for (let i = 0; i < 100; i++) deep = [deep]
    const many = Object.fromEntries(Array.from({ length: 201 }, (_, i) => [`s${i}`, i]))
    for (const settings of [
      { deep },
      many,
      { text: 'x'.repeat(6_000_001) },
      { text: '\u0000' },
      { ['x'.repeat(61)]: 1 },
      [],
    ])
      expect((await put(key, settings)).status).toBe(422)
    for (const version of [0, 1.5, '2', null]) expect((await put(key, {}, version)).status).toBe(422)
    // Each is small enough, and both together are not.
    expect((await put(key, { first: 'x'.repeat(3_500_000) })).status).toBe(204)
    expect((await put(key, { second: 'x'.repeat(3_500_000) })).status).toBe(422)
    expect(Object.keys(((await kept(key)) as { settings: object }).settings)).toEqual(['first', 'textSize'])
  })
})

describe('roles', () => {
  let keys: Record<Role, string>
  beforeAll(async () => {
    const made = await Promise.all(ROLES.map(async role => [role, (await letIn(`Of ${role}`, role)).key] as const))
    keys = Object.fromEntries(made) as typeof keys
  })

  it('open exactly those routes that the table says, to each role and to each shared key', async () => {
    const of = { ...keys, [READING]: READING, [KEY]: KEY }
    for (const [by, key] of Object.entries(of)) {
      const role: Role = by === READING ? 'look' : by === KEY ? 'keep' : (by as Role)
      for (const [name, { method, path, may }] of Object.entries(ROUTES) as [string, RouteSpec][]) {
        const { status } = await ask(key, method, path.replace(/:\w+/, freshId()))
        const isOpen = may === 'anyone' || mayDo(role, may)
        expect([by, name, status === 401, status === 403], `${status}`).toEqual([by, name, false, !isOpen])
      }
    }
    for (const [name, { method, path, may }] of Object.entries(ROUTES) as [string, RouteSpec][])
      if (may !== 'anyone')
        expect([name, (await fetch(server.get().url + path.replace(/:\w+/, freshId()), { method })).status]).toEqual([
          name,
          401,
        ])
  })

  it('are told to whoever asks, with the name', async () => {
    expect((await ask(keys.note, 'GET', '/api/session')).json).toMatchObject({
      role: 'note',
      person: { name: 'Of note' },
    })
    expect((await ask(READING, 'GET', '/api/session')).json).toMatchObject({ role: 'look', person: null })
  })

  it('are less in single levels, by requests, sockets, files and lists, and never more', async () => {
    const [quay, hall, rest] = [await newLevel('Quay'), await newLevel('Hall'), await newLevel('Rest')]
    const { key, person } = await letIn('Cleo', 'work')
    const levels = [
      { level: quay, role: 'look' },
      { level: hall, role: 'none' },
    ]
    expect((await ask(KEY, 'PATCH', `/api/people/${person.id}`, { levels })).status).toBe(200)
    const save = (level: string) =>
      ask(key, 'POST', `/api/levels/${level}/changes`, { baseRevision: 0, changes: [change(newGroup().make)] })
    expect([(await save(rest)).status, (await save(quay)).status, (await save(hall)).status]).toEqual([200, 403, 404])
    const roleIn = async (level: string) => (await ask(key, 'GET', `/api/session?level=${level}`)).json
    expect(await roleIn(quay)).toMatchObject({ role: 'look' })
    expect(await roleIn(rest)).toMatchObject({ role: 'work' })
    for (const path of ['', '/packed', '/changes', '/journal?after=0', '/export.glb', '/export.handygrid', '/check'])
      expect([path, (await ask(key, 'GET', `/api/levels/${hall}${path}`)).status]).toEqual([path, 404])
    expect((await ask(key, 'POST', '/api/levels', { name: 'Mine', from: hall })).status).toBe(404)
    expect((await ask(key, 'POST', '/api/levels', { name: 'Mine', from: quay })).status).toBe(201)
    for (const [level, status] of [
      [quay, 403],
      [hall, 404],
    ] as const)
      expect((await ask(key, 'POST', `/api/import?into=${level}&apply=true`)).status).toBe(status)
    // Milestones have addresses of their own, and are as open as their level.
    const milestone = async (level: string) => {
      const body = { id: freshId(), name: 'Named', by: 'Somebody' }
      return ((await ask(KEY, 'POST', `/api/levels/${level}/milestones`, body)).json as { id: string }).id
    }
    for (const [level, reading, writing] of [
      [quay, 200, 403],
      [hall, 404, 404],
    ] as const) {
      const id = await milestone(level)
      const mine = { id: freshId(), name: 'Mine', by: 'Somebody' }
      expect((await ask(key, 'POST', `/api/levels/${level}/milestones`, mine)).status).toBe(writing)
      expect((await ask(key, 'PATCH', `/api/milestones/${id}`, { name: 'Mine' })).status).toBe(writing)
      expect((await ask(key, 'DELETE', `/api/milestones/${id}`)).status).toBe(writing)
      expect((await ask(key, 'GET', `/api/levels/${level}/milestones`)).status).toBe(reading)
      expect((await ask(key, 'GET', `/api/milestones/${id}/packed`)).status).toBe(reading)
      expect((await ask(key, 'GET', `/api/levels/${rest}/compare?level=${level}`)).status).toBe(reading)
      expect((await ask(key, 'GET', `/api/levels/${rest}/compare?milestone=${id}`)).status).toBe(reading)
    }
    const listed = (await ask(key, 'GET', '/api/levels')).json as { levels: { id: string }[] }
    expect(listed.levels.map(({ id }) => id)).not.toContain(hall)
    expect(listed.levels.map(({ id }) => id)).toContain(quay)
    const [, refused] = (await once(socketOf(hall, key), 'unexpected-response')) as [unknown, { statusCode: number }]
    expect(refused.statusCode).toBe(404)
    // Who may only look cannot be made to work in one level.
    await ask(KEY, 'PATCH', `/api/people/${person.id}`, { role: 'look', levels: [{ level: rest, role: 'work' }] })
    expect((await save(rest)).status).toBe(403)
  })

  it('of keeping alone delete levels and bring them back, which is logged with who did it', async () => {
    const level = await newLevel('To be deleted')
    expect((await ask(keys.work, 'DELETE', `/api/levels/${level}`)).code).toBe('role')
    expect((await ask(keys.keep, 'DELETE', `/api/levels/${level}`)).status).toBe(204)
    expect((await ask(keys.work, 'PATCH', `/api/levels/${level}`, { deleted: false })).code).toBe('role')
    expect((await ask(keys.keep, 'PATCH', `/api/levels/${level}`, { deleted: false })).status).toBe(200)
    // What is there already is not brought back, and nothing is written down of it.
    expect((await ask(keys.keep, 'PATCH', `/api/levels/${level}`, { deleted: false })).status).toBe(200)
    expect((await log()).slice(0, 2)).toMatchObject([
      { did: 'level brought back', to: 'To be deleted', by: 'Of keep', proven: true },
      { did: 'level deleted', to: 'To be deleted', by: 'Of keep', proven: true },
    ])
  })
})

describe('people by name', () => {
  it('are kept without their keys', async () => {
    const { key, person } = await letIn('Dora', 'work')
    const [row] = await server.get().db.select().from(people).where(eq(people.id, person.id))
    expect(JSON.stringify(row)).not.toContain(key)
    expect(JSON.stringify((await ask(KEY, 'GET', '/api/people')).json)).not.toContain(row!.keyHash)
    expect(Buffer.from(key, 'base64url')).toHaveLength(32)
  })

  it('have names of their own, as long as they are let in', async () => {
    const { person } = await letIn('Ella', 'look')
    const again = await ask(KEY, 'POST', '/api/people', { name: 'eLLa', role: 'work' })
    expect([again.status, again.code]).toEqual([422, 'name-taken'])
    const both = await Promise.all(
      Array.from({ length: 6 }, () => ask(KEY, 'POST', '/api/people', { name: 'At once', role: 'look' })),
    )
    expect(both.map(({ status }) => status).toSorted()).toEqual([201, 422, 422, 422, 422, 422])
    await ask(KEY, 'DELETE', `/api/people/${person.id}`)
    await letIn('Ella', 'note')
    // The first may not come back beside the second.
    expect((await ask(KEY, 'POST', `/api/people/${person.id}/key`, {})).code).toBe('name-taken')
  })

  it('are the authors of what they do, whatever they say, also when it is sent again after they were renamed', async () => {
    const level = await newLevel('Authored')
    const { key, person } = await letIn('Finn', 'work')
    const mine = { ...change(newGroup().make), author: 'Somebody else' }
    const send = () => ask(key, 'POST', `/api/levels/${level}/changes`, { baseRevision: 0, changes: [mine] })
    expect((await send()).status).toBe(200)
    await ask(KEY, 'PATCH', `/api/people/${person.id}`, { name: 'Finn the second' })
    expect((await send()).json).toMatchObject({ revision: 1 })
    // Nobody else sends it as theirs.
    const other = await letIn('Gus', 'work')
    expect(
      (await ask(other.key, 'POST', `/api/levels/${level}/changes`, { baseRevision: 0, changes: [mine] })).code,
    ).toBe('id-taken')
    await ask(KEY, 'POST', `/api/levels/${level}/changes`, {
      baseRevision: 1,
      changes: [{ ...change(newGroup().make), author: 'Finn' }],
    })
    const history = historySchema.parse((await ask(KEY, 'GET', `/api/levels/${level}/changes`)).json).changes
    expect(history.map(({ author, proven }) => [author, proven])).toEqual([
      ['Finn', false],
      ['Finn', true],
    ])
    const [row] = await server.get().db.select().from(changes).where(eq(changes.id, mine.id))
    expect(row!.personId).toBe(person.id)
  })

  it('are seen by their own names, whatever their page says', async () => {
    const level = await newLevel('Seen')
    const [ada, ben] = [await letIn('Hana', 'work'), await letIn('Ivo', 'look')]
    const [seen, says] = [socketOf(level, ada.key), socketOf(level, ben.key)]
    const told: { name?: string; role?: string; proven?: boolean }[] = []
    seen.on('message', data => {
      const message = readLiveMessage(String(data))
      if (message && 'people' in message) told.push(...message.people)
    })
    await Promise.all([once(seen, 'open'), once(says, 'open')])
    says.send(JSON.stringify({ here: { name: 'Hana', mark: 2 } }))
    await expect.poll(() => told.map(({ name, role, proven }) => [name, role, proven])).toEqual([['Ivo', 'look', true]])
    seen.close()
    says.close()
  })

  it('are out within a second once they are ended, on all servers, and in again with a new key alone', async () => {
    const level = await newLevel('Ended')
    const { key, person } = await letIn('Jo', 'work')
    const other = await makeServer({ database: server.get().databaseUrl, env })
    try {
      const { cookie } = await ask(key, 'POST', '/api/session', { key })
      const sockets = [socketOf(level, key), socketOf(level, key, other.url)]
      await Promise.all(sockets.map(socket => once(socket, 'open')))
      const closed = Promise.all(sockets.map(socket => once(socket, 'close')))
      expect((await ask(KEY, 'DELETE', `/api/people/${person.id}`)).status).toBe(204)
      expect((await closed).map(([code]) => code as number)).toEqual([1008, 1008])
      for (const url of [server.get().url, other.url])
        for (const by of [key, cookie]) expect((await ask(by, 'GET', '/api/levels', undefined, url)).status).toBe(401)
      const again = personKeySchema.parse((await ask(KEY, 'POST', `/api/people/${person.id}/key`, {})).json)
      expect((await ask(again.key, 'GET', '/api/levels', undefined, other.url)).status).toBe(200)
      // What was begun with the old key stays over.
      for (const by of [key, cookie]) expect((await ask(by, 'GET', '/api/levels')).status).toBe(401)
      expect((await log()).filter(({ to }) => to === 'Jo').map(({ did }) => did)).toEqual([
        'new key',
        'ended',
        'let in',
      ])
    } finally {
      await other.dispose()
    }
  })

  it('with another role have it at once, and what they had open is opened anew', async () => {
    const level = await newLevel('Changed')
    const { key, person } = await letIn('Kim', 'work')
    const { cookie } = await ask(key, 'POST', '/api/session', { key })
    const socket = socketOf(level, key)
    await once(socket, 'open')
    const closed = once(socket, 'close')
    await ask(KEY, 'PATCH', `/api/people/${person.id}`, { role: 'look' })
    expect((await closed)[0]).toBe(1008)
    expect((await ask(cookie, 'POST', '/api/levels', { name: 'No' })).status).toBe(403)
    expect((await ask(cookie, 'GET', '/api/session')).json).toMatchObject({ role: 'look' })
  })

  it('who keep neither end themselves nor take their own role away', async () => {
    const { key, person } = await letIn('Lea', 'keep')
    expect((await ask(key, 'DELETE', `/api/people/${person.id}`)).code).toBe('oneself')
    expect((await ask(key, 'PATCH', `/api/people/${person.id}`, { role: 'work' })).code).toBe('oneself')
    expect((await ask(key, 'PATCH', `/api/people/${person.id}`, { name: 'Lea M' })).status).toBe(200)
  })

  it('come in as somebody else by coming in again, with one session', async () => {
    const { key } = await letIn('Max', 'look')
    const first = await ask(KEY, 'POST', '/api/session', { key })
    const second = await fetch(`${server.get().url}/api/session`, {
      method: 'POST',
      headers: { 'cookie': first.cookie, 'content-type': 'application/json' },
      body: JSON.stringify({ key: KEY }),
    })
    const cookie = second.headers.getSetCookie()[0]!.split(';')[0]!
    expect((await ask(cookie, 'GET', '/api/session')).json).toMatchObject({ role: 'keep', person: null })
    // Also with the cookie of a session that has ended, which stays over.
    await ask(first.cookie, 'DELETE', '/api/session')
    const third = await fetch(`${server.get().url}/api/session`, {
      method: 'POST',
      headers: { 'cookie': first.cookie, 'content-type': 'application/json' },
      body: JSON.stringify({ key }),
    })
    const again = third.headers.getSetCookie()[0]!.split(';')[0]!
    expect((await ask(again, 'GET', '/api/session')).json).toMatchObject({ role: 'look', person: { name: 'Max' } })
    expect((await ask(first.cookie, 'GET', '/api/session')).status).toBe(401)
  })

  it('are refused with what is wrong', async () => {
    const { person } = await letIn('Nia', 'look')
    for (const [method, path, body, status, field] of [
      ['POST', '/api/people', { name: '', role: 'look' }, 422, 'name'],
      ['POST', '/api/people', { name: '<i>', role: 'look' }, 422, 'name'],
      ['POST', '/api/people', { name: 'Ok', role: 'owner' }, 422, 'role'],
      ['POST', '/api/people', { name: 'Ok' }, 422, 'role'],
      ['PATCH', `/api/people/${person.id}`, {}, 422, 'body'],
      ['PATCH', `/api/people/${person.id}`, { levels: [{ level: freshId(), role: 'look' }] }, 422, 'levels'],
      ['PATCH', `/api/people/${person.id}`, { levels: [{ level: freshId(), role: 'keep' }] }, 422, 'levels.0.role'],
      ['PATCH', `/api/people/${freshId()}`, { name: 'Ok' }, 404, undefined],
      ['POST', `/api/people/${freshId()}/key`, {}, 404, undefined],
      ['DELETE', `/api/people/${freshId()}`, undefined, 404, undefined],
      ['GET', '/api/keeper-log?before=0', undefined, 422, 'before'],
    ] as const) {
      const answer = await ask(KEY, method, path, body)
      const error = apiErrorSchema.parse(answer.json).error
      expect([path, body, answer.status, error.field]).toEqual([path, body, status, field])
    }
    const all = (await ask(KEY, 'GET', '/api/people')).json as { people: unknown[] }
    for (const each of all.people) accountSchema.parse(each)
    expect(JSON.stringify(all)).not.toContain('"Ok"')
  })
})

describe('notes', () => {
  const AT = { at: [0, 0, 0], on: null, point: [0, 0, 0] }
  const FAR = '2999-01-01T00:00:00.000Z'
  const thread = (id: string, fields: object = {}) => ({
    do: 'put-thread',
    id,
    fields: { text: 'Here?', by: 'Somebody', when: '2026-11-01T10:00:00.000Z', done: false, at: AT, ...fields },
  })
  const answer = (id: string, threadId: string, fields: object = {}) => ({
    do: 'put-answer',
    id,
    fields: { text: 'There.', by: 'Somebody', when: FAR, threadId, ...fields },
  })

  it('are written by who may note, under their own names and not in the future; nothing else is changed by them', async () => {
    const level = await newLevel('Noted')
    const [note, other, looks] = [await letIn('Ola', 'note'), await letIn('Per', 'note'), await letIn('Quin', 'look')]
    let revision = 0
    const send = async (by: string, ...operations: object[]) => {
      const sent = { ...change(newGroup().make), operations }
      const answered = await ask(by, 'POST', `/api/levels/${level}/changes`, {
        baseRevision: revision,
        changes: [sent],
      })
      revision = (answered.json as { revision?: number }).revision ?? revision
      return {
        ...answered,
        again: () => ask(by, 'POST', `/api/levels/${level}/changes`, { baseRevision: revision, changes: [sent] }),
      }
    }
    const [ours, theirs, said] = [freshId(), freshId(), freshId()]
    expect((await send(note.key, thread(ours))).status).toBe(200)
    expect((await send(KEY, thread(theirs, { by: 'Keeper' }))).status).toBe(200)
    const answered = await send(note.key, answer(said, theirs))
    expect(answered.status).toBe(200)
    // Sent again, also under another name by now, it is the same.
    expect((await answered.again()).status).toBe(200)
    const { threads, answers } = (await ask(KEY, 'GET', `/api/levels/${level}`)).json as {
      threads: { id: string; by: string }[]
      answers: { by: string; when: string }[]
    }
    expect(new Map(threads.map(({ id, by }) => [id, by]))).toEqual(
      new Map([
        [ours, 'Ola'],
        [theirs, 'Keeper'],
      ]),
    )
    expect(answers).toMatchObject([{ by: 'Ola' }])
    expect(Date.parse(answers[0]!.when)).toBeLessThanOrEqual(Date.now() + 1000)
    const put = (id: string, fields: object) => ({ do: 'put-thread', id, fields })
    for (const [by, status, ...operations] of [
      [note.key, 200, put(ours, { text: 'Rather here?' })],
      [note.key, 200, put(theirs, { done: true })],
      [other.key, 200, put(ours, { done: true })],
      [other.key, 403, put(ours, { text: 'Mine now' })],
      [other.key, 403, { do: 'remove-answer', id: said }],
      [other.key, 403, { do: 'remove-thread', id: ours }],
      [note.key, 403, put(theirs, { done: false, text: 'And this' })],
      [note.key, 403, newGroup().make],
      [note.key, 403, thread(freshId()), newGroup().make],
      [looks.key, 403, thread(freshId())],
      [note.key, 200, { do: 'remove-answer', id: said }],
      [note.key, 200, { do: 'remove-thread', id: ours }],
      // Whoever works may tidy up.
      [KEY, 200, { do: 'remove-thread', id: theirs }],
    ] as const)
      expect([operations, (await send(by, ...operations)).status]).toEqual([operations, status])
  })
})
