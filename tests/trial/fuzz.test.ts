import { once } from 'node:events'
import { readdirSync } from 'node:fs'
import { sql } from 'drizzle-orm'
import fc from 'fast-check'
import { validateBytes } from 'gltf-validator'
import { BoxGeometry } from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { expect, it } from 'vitest'
import { WebSocket } from 'ws'
import type { z } from 'zod'
import type { RouteSpec } from '../../core/api/routes'
import { SOCKET_PATHS } from '../../core/api/live'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import { apiErrorSchema, levelSchema } from '../../core/api/schema'
import { writePartGlb } from '../../core/formats/part-glb'
import { arrangementSchema } from '../../core/arrange/arrangement'
import { RULES } from '../../core/arrange/rules'
import { LevelIndex } from '../../core/scene/level-index'
import { KINDS } from '../../core/level/kinds'
import { bareView } from '../../core/scene/level-view'
import { cameraOwn, createPlacement, lightOwn } from '../../core/level/create'
import type { Placement } from '../../core/level/schema'
import { placementFieldsSchema } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { change, freshId, put, useServer } from '../api/support'
import { anyQuat, testSolid } from '../support'
import { fitting, spoilt } from './from-schema'
import { idSchema, quatSchema } from '../../core/level/fields'

// Every route is asked with what its schemas make, as it should be and spoilt in one place. TRIAL=long asks many times
// more, TRIAL_SECONDS says for how long at most, SEED with what.
const ROUNDS = process.env.TRIAL === 'long' ? 40_000 : 900
const SECONDS = Number(process.env.TRIAL_SECONDS ?? (process.env.TRIAL === 'long' ? 3600 : 240))
/** After so many accepted changes the levels are opened, shown and handed over. */
const LOOK_EVERY = 25
/** Milliseconds, looked at in the long form only: a test says nothing of how busy its machine is. */
const SLOWEST = 2000
/**
 * A file is made in a process of its own, where nobody waits for it: of nearly a million copies, which are dealt first.
 */
const SLOWEST_FILE = 15_000
const SLOW_ROUTES = new Set<RouteSpec>([
  ROUTES.checkLevel,
  ROUTES.importFile,
  ...Object.values(HAND_OVER_ROUTES).map(name => ROUTES[name]),
])

const server = useServer()

it('has a file for each route of the table, and a place in the table for each file', () => {
  const files = readdirSync('server/api', { recursive: true, encoding: 'utf8' }).filter(
    name => name.endsWith('.ts') && !name.startsWith('[...]'),
  )
  const fromFiles = files.map(name =>
    name
      .replace(/\.ts$/, '')
      .replace(/(^|\/)index(?=\.)/, '')
      .replace(/\[(\w+)\]/g, ':$1')
      // What takes sockets has no method.
      .replace(/^([^.]+)$/, '$1.socket')
      .replace(/^(.*)\.(\w+)$/, (_, path: string, method: string) => `${method.toUpperCase()} /api/${path}`),
  )
  expect(fromFiles.toSorted()).toEqual(
    [
      ...Object.values(ROUTES).map(({ method, path }) => `${method} ${path}`),
      ...SOCKET_PATHS.map(path => `SOCKET ${path}`),
    ].toSorted(),
  )
})

/** What is answered; of what goes on for as long as somebody listens, the beginning. */
async function textOf(response: Response): Promise<string> {
  if (response.headers.get('content-type') !== 'text/event-stream') return response.text()
  const reader = response.body!.getReader()
  const { value } = await reader.read()
  await reader.cancel()
  return new TextDecoder().decode(value)
}

it('closes on whoever says anything by a socket, whatever it is', async () => {
  const { id } = await server.newLevel()
  for (const path of SOCKET_PATHS) {
    const address = server.get().url.replace('http', 'ws') + path.replace(':id', id)
    await fc.assert(
      fc.asyncProperty(fc.oneof(fc.string(), fc.json(), fc.uint8Array()), async said => {
        const socket = new WebSocket(address)
        await once(socket, 'open')
        socket.send(said)
        expect((await once(socket, 'close'))[0]).toBe(1008)
      }),
      { numRuns: 20 },
    )
  }
  expect((await server.call('GET', '/api/health')).status).toBe(200)
})

it(
  'answers whatever it is asked: no failure, no change by what is refused, and what is accepted can be opened, shown and handed over',
  async () => {
    const levels = [(await server.newLevel('demo')).id, (await server.newLevel()).id, (await server.newLevel()).id]
    const ids = Array.from({ length: 8 }, () => freshId())
    for (const id of levels) await fill(id, ids)
    const named = levels.map(() => freshId())
    for (const [i, level] of levels.entries())
      await server.call('POST', `/api/levels/${level}/milestones`, { id: named[i], name: 'Named', by: 'Somebody' })
    const glb = await writePartGlb('Made', testSolid(new BoxGeometry(1, 1, 1)).mesh)
    const known = new Map<Parameters<typeof fitting>[0], fc.Arbitrary<unknown>>([
      [
        idSchema,
        fc.oneof(
          {
            arbitrary: fc.constantFrom(...ids, ...levels, ...named, demoId('part/Crate'), demoId('part/Barrel')),
            weight: 12,
          },
          { arbitrary: fc.constantFrom(...ids).map(id => id.toUpperCase()), weight: 1 },
          { arbitrary: fc.uuid(), weight: 1 },
        ),
      ],
      [quatSchema, anyQuat],
      // Of all kinds' own fields those of rules have most to go wrong.
      [
        placementFieldsSchema.shape.own,
        fc
          .oneof(
            { arbitrary: fc.constant(arrangementSchema as z.ZodType), weight: 6 },
            ...Object.values(KINDS).map(({ own }) => ({ arbitrary: fc.constant(own as z.ZodType), weight: 1 })),
          )
          .chain(own => fitting(own, new Map())),
      ],
    ])
    const anyRoute = fc.oneof(
      { arbitrary: fc.constant(ROUTES.saveChanges as RouteSpec), weight: Object.keys(ROUTES).length * 2 },
      ...Object.values(ROUTES).map(route => ({ arbitrary: fc.constant(route as RouteSpec), weight: 1 })),
    )
    const asked = anyRoute.chain(route => {
      const value = (schema: Parameters<typeof fitting>[0]) =>
        fc.oneof(
          { arbitrary: fitting(schema, known), weight: 3 },
          { arbitrary: spoilt(fitting(schema, known)), weight: 2 },
        )
      return fc.record({
        route: fc.constant(route),
        id: fc.oneof(
          {
            arbitrary: route.path.startsWith('/api/milestones')
              ? fc.constantFrom(...named)
              : fc.constantFrom(...levels, demoId('part/Crate')),
            weight: 8,
          },
          { arbitrary: fc.constantFrom('x', '%00', '..%2f', 'é', freshId()), weight: 1 },
        ),
        query: route.query ? value(route.query) : fc.constant({}),
        body:
          route.body?.as === 'json'
            ? value(route.body.schema)
            : fc.tuple(fc.nat(), fc.nat({ max: 255 })).map(([at, byte]) => {
                const bytes = glb.slice()
                if (at % 2) bytes[at % bytes.length] = byte
                return bytes
              }),
      })
    })

    const before = async () =>
      (
        await server.get().db.execute(sql`select md5(concat(
    (select string_agg(t::text, ',' order by id) from (select id, name, revision, placement_count, deleted_at, picture_type, length(picture) from levels) t),
    (select string_agg(t::text, ',' order by level_id, id) from placements t), (select string_agg(t::text, ',' order by level_id, id) from blocks t),
    (select string_agg(t::text, ',' order by level_id, id) from layers t), (select string_agg(t::text, ',' order by level_id, id) from stations t), (select string_agg(t::text, ',' order by level_id, id) from measures t),
    (select string_agg(t::text, ',' order by level_id, id) from limits t), (select string_agg(t::text, ',' order by level_id, id) from exemptions t), (select string_agg(t::text, ',' order by level_id, id) from presets t), (select string_agg(t::text, ',' order by level_id, id) from recipes t),
    (select string_agg(t::text, ',' order by id) from parts t), (select string_agg(hash, ',' order by hash) from meshes), (select string_agg(hash, ',' order by hash) from textures), (select string_agg(t::text, ',' order by id) from variants t), (select string_agg(t::text, ',' order by id) from (select id, name, about, revision, deleted_at, picture_type from milestones) t), (select string_agg(t::text, ',' order by level_id, revision) from changes t))) as digest`)
      ).rows[0]!.digest

    const failures: string[] = []
    let [accepted, refused, lookedAt] = [0, 0, 0]
    const ends = Date.now() + SECONDS * 1000
    for (const { route, id, query, body } of fc.sample(asked, {
      numRuns: ROUNDS,
      seed: Number(process.env.SEED ?? 20261125),
    })) {
      if (Date.now() > ends || failures.length > 5) break
      const address =
        route.path.replace(/:\w+/, id)
        + (route.query
          ? `?${new URLSearchParams(Object.entries(query ?? {}).map(([key, value]): [string, string] => [key, String(value)])).toString()}`
          : '')
      const type = route.body?.as === 'bytes' ? route.body.types[0]! : 'application/json'
      // Mostly on the level as it is, or all would meet what was done before.
      if (route === ROUTES.saveChanges && isRecord(body) && Number(body.baseRevision) % 4 > 0)
        body.baseRevision =
          (await server.get().db.execute(sql`select revision from levels where id::text = ${id}`)).rows[0]?.revision
          ?? 0
      const raw =
        route.body?.as === 'bytes' ? (body as Uint8Array<ArrayBuffer>) : route.body ? JSON.stringify(body) : undefined
      const digest = await before()
      const started = Date.now()
      const response = await fetch(server.get().url + address, {
        method: route.method,
        headers: raw === undefined ? {} : { 'content-type': type },
        body: raw,
      })
      const text = await textOf(response)
      const what = () =>
        `${route.method} ${address} ${typeof raw === 'string' ? raw.slice(0, 3000) : ''} → ${response.status} ${text.slice(0, 300)}`
      if (response.status >= 500) failures.push(`failed: ${what()}`)
      if (process.env.TRIAL === 'long' && Date.now() - started > (SLOW_ROUTES.has(route) ? SLOWEST_FILE : SLOWEST))
        failures.push(`took ${Date.now() - started} ms: ${what()}`)
      if (response.status < 400) {
        // Whatever was deleted is there again for what comes next.
        if (route.method === 'DELETE' && levels.includes(id))
          await server.call('PATCH', `/api/levels/${id}`, { deleted: false })
        if (route.method === 'DELETE' && named.includes(id))
          await server.call('PATCH', `/api/milestones/${id}`, { deleted: false })
        if (route.method !== 'GET' && ++accepted % LOOK_EVERY === 0) {
          failures.push(...(await lookAt(levels)))
          lookedAt++
        }
        continue
      }
      refused++
      if ((await before()) !== digest) failures.push(`refused but changed something: ${what()}`)
      // An address longer than Node.js reads; it answers that by itself.
      if (response.status === 431) continue
      const error = apiErrorSchema.safeParse(JSON.parse(text)).data?.error
      if (!error || ([400, 413, 415, 422].includes(response.status) && !error.field))
        failures.push(`names no field: ${what()}`)
      if (/node_modules|\.mjs|select |insert |drizzle/i.test(text)) failures.push(`tells about the inside: ${what()}`)
    }
    failures.push(...(await lookAt(levels)))
    expect(failures).toEqual([])
    // Otherwise little was tried.
    expect(Math.min(accepted, refused)).toBeGreaterThan(20)
    expect(lookedAt).toBeGreaterThan(0)
  },
  (SECONDS + 120) * 1000,
)

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Puts something of every kind into a level, the arrangements with sources below them. */
async function fill(levelId: string, ids: readonly string[]): Promise<void> {
  const [block, layer] = [ids[0]!, ids[1]!]
  const kinds = ['group', 'arrangement', 'arrangement', 'arrangement', 'block', 'part', 'camera', 'light'] as const
  const puts = ids.map((id, i) => {
    const kind = kinds[i]!
    const own: Placement['own'] =
      kind === 'arrangement'
        ? { rule: Object.values(RULES).map(({ first }) => first)[i]! }
        : kind === 'camera'
          ? cameraOwn()
          : kind === 'light'
            ? lightOwn({ light: 'point' })
            : {}
    const { id: _id, ...fields } = createPlacement({
      id,
      name: `Thing ${i}`,
      kind,
      own,
      order: i,
      partId: kind === 'part' ? demoId('part/Crate') : null,
      blockId: kind === 'block' ? block : null,
      parentId: i > 3 ? ids[1 + (i % 3)]! : null,
    })
    return put(id, fields)
  })
  const { revision } = await server.level(levelId)
  await server.save(
    levelId,
    revision,
    change(
      {
        do: 'put-block',
        id: block,
        fields: { shape: { type: 'box', width: 1, height: 1, depth: 1 }, color: '#b9a58b' },
      },
      {
        do: 'put-layer',
        id: layer,
        fields: { name: 'Layer', color: '#b9a58b', visible: true, locked: false, order: 0 },
      },
      ...puts,
    ),
  )
}

/** Opens each level as the page does, builds what the stage shows of it, and hands it over both ways. */
async function lookAt(levels: readonly string[]): Promise<string[]> {
  const wrong: string[] = []
  const box = testSolid(new BoxGeometry(1, 1, 1))
  for (const id of levels) {
    const read = levelSchema.safeParse((await server.call('GET', `/api/levels/${id}`)).json)
    if (!read.success) {
      wrong.push(`cannot be opened: ${read.error.message.slice(0, 500)}`)
      continue
    }
    const { placements, ...records } = read.data
    try {
      const level = bareView(placements, records)
      const bounds = new LevelIndex(level, () => box).bounds()
      for (const { id: each } of level.placements()) level.worldMatrix(each)
      if (!bounds.isEmpty() && [...bounds.min.toArray(), ...bounds.max.toArray()].some(Number.isNaN))
        wrong.push('is nowhere')
    } catch (error) {
      wrong.push(`cannot be shown: ${String(error)}`)
    }
    for (const instanced of [false, true]) {
      const response = await fetch(`${server.get().url}/api/levels/${id}/export.glb?instanced=${instanced}`)
      const bytes = new Uint8Array(await response.arrayBuffer())
      // Too many copies for nodes is an answer as well.
      if (response.status === 422) continue
      if (response.status !== 200) {
        wrong.push(`cannot be handed over: ${response.status} ${new TextDecoder().decode(bytes).slice(0, 300)}`)
        continue
      }
      const { issues } = await validateBytes(bytes)
      if (issues.numErrors > 0) wrong.push(`is handed over wrong: ${JSON.stringify(issues.messages.slice(0, 3))}`)
      await new GLTFLoader()
        .parseAsync(bytes.slice().buffer, '')
        .catch((error: unknown) => wrong.push(`cannot be read by others: ${String(error)}`))
    }
  }
  return wrong
}
