import { afterAll, beforeAll } from 'vitest'
import type { ChangesAnswer, Level, LevelSummary } from '../../core/api/schema'
import { RULES } from '../../core/arrange/rules'
import { demoId } from '../../demo/kit'
import { apiErrorSchema, changesAnswerSchema, levelSchema, levelSummarySchema } from '../../core/api/schema'
import { createPlacement } from '../../core/level/create'
import type { Change, Operation, Placement } from '../../core/level/schema'
import type { TestServer } from '../server'
import { makeServer } from '../server'

let counter = 0
const salt = Math.floor(Math.random() * 2 ** 32)
  .toString(16)
  .padStart(8, '0')

/** A UUIDv7-shaped id that nobody else has. */
export function freshId(): string {
  return `${salt}-0000-7000-8000-${(++counter).toString(16).padStart(12, '0')}`
}

/** A server for all tests of a file; `call` asks it for JSON. */
export function useServer(options: Parameters<typeof makeServer>[0] = {}) {
  let server: TestServer
  beforeAll(async () => {
    server = await makeServer(options)
  })
  afterAll(() => server.dispose())

  const call = async (method: string, path: string, body?: unknown) => {
    const raw = typeof body === 'string' || body instanceof Uint8Array
    const type = path.split('?')[0]!.endsWith('/picture')
      ? 'image/png'
      : path.startsWith('/api/parts?')
        ? 'model/gltf-binary'
        : 'application/json'
    const headers = body === undefined ? undefined : { 'content-type': type }
    const response = await fetch(server.url + path, {
      method,
      headers,
      body: body === undefined ? undefined : raw ? (body as BodyInit) : JSON.stringify(body),
    })
    const text = await response.text()
    return {
      status: response.status,
      headers: response.headers,
      text,
      json: text.startsWith('{') ? (JSON.parse(text) as unknown) : null,
    }
  }

  return {
    get: () => server,
    call,
    /** The error of an answer that must be one. */
    error: async (method: string, path: string, body?: unknown) => {
      const { status, json } = await call(method, path, body)
      return { status, ...apiErrorSchema.parse(json).error }
    },
    newLevel: async (from = 'empty'): Promise<LevelSummary> =>
      levelSummarySchema.parse((await call('POST', '/api/levels', { name: 'Test level', from })).json),
    level: async (id: string): Promise<Level> => levelSchema.parse((await call('GET', `/api/levels/${id}`)).json),
    save: async (id: string, baseRevision: number, ...changes: Change[]): Promise<ChangesAnswer> =>
      changesAnswerSchema.parse((await call('POST', `/api/levels/${id}/changes`, { baseRevision, changes })).json),
  }
}

export function change(...operations: Operation[]): Change {
  return { id: freshId(), label: 'Test change', author: 'Test', operations }
}

export function put(id: string, fields: Partial<Placement>): Operation {
  return { do: 'put', id, fields }
}

/** A new group and the operation that makes it. */
export function newGroup(fields: Partial<Placement> = {}): { placement: Placement; make: Operation } {
  const placement = createPlacement({ id: freshId(), name: 'Group', kind: 'group', ...fields })
  const { id, ...rest } = placement
  return { placement, make: put(id, rest) }
}

/** A line of crates, each a thing of its own in a scene of nodes. */
export function lineOfCrates(count: number): Change {
  const { id: line, ...fields } = createPlacement({
    id: freshId(),
    name: 'Line',
    kind: 'arrangement',
    own: { rule: { ...RULES.line.first, count } },
  })
  const { id: crate, ...own } = createPlacement({
    id: freshId(),
    name: 'Crate',
    kind: 'part',
    partId: demoId('part/Crate'),
    parentId: line,
  })
  return change(put(line, fields), put(crate, own))
}
