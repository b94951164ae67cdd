import { z } from 'zod'
import type { NewPerson, PersonPatch } from '~~/core/api/accounts'
import type { KeptSettings } from '~~/core/api/person-settings'
import type { MilestonePatch, NewMilestone } from '~~/core/api/milestones'
import type { Conflict, LevelPatch, MadePart, NewLevel, PageError, PartCopy, PartPatch } from '~~/core/api/schema'
import { apiErrorSchema, kitSchema } from '~~/core/api/schema'
import type { RouteName, Routes, RouteSpec } from '~~/core/api/routes'
import { HAND_OVER_ROUTES, ROUTES } from '~~/core/api/routes'
import type { FormatName, HandOverReport } from '~~/core/formats/formats'
import { reportSchema } from '~~/core/formats/formats'
import type { Part, KitEntry } from '~~/core/level/part'
import { OWN_KIT, partSchema } from '~~/core/level/part'

/** The server answered with an error. */
export class ApiFailure extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly field?: string,
    readonly conflict?: Conflict,
  ) {
    super(message)
  }
}

/** Nobody answered, or it was said that it cannot be done now but can be later. The message says which. */
export class ServerAway extends Error {}

/** Said only when nobody answered. */
export const UNREACHABLE = 'The server cannot be reached.'

/** What to say of a failure where the person is looking. */
export function whatFailed(error: unknown): string {
  return error instanceof ApiFailure || error instanceof ServerAway ? error.message : String(error)
}

type Answer<N extends RouteName> = Routes[N] extends { answer: infer S extends z.ZodType } ? z.output<S> : undefined

type Given = {
  id?: string
  query?: Record<string, string>
  body?: unknown
  bytes?: Blob | Uint8Array
  type?: string
  /** Ends the waiting. */
  signal?: AbortSignal
}

/** Asks a route and leaves its answer as it comes. @throws ApiFailure, ServerAway */
async function ask(
  name: RouteName,
  { id = '', query, body, bytes, type = 'application/json', signal }: Given = {},
): Promise<Response> {
  const { method, path }: RouteSpec = ROUTES[name]
  const address = path.replace(/:\w+/, id) + (query ? `?${new URLSearchParams(query)}` : '')
  const content = bytes ?? (body === undefined ? undefined : JSON.stringify(body))
  let response: Response
  try {
    response = await fetch(address, {
      method,
      signal,
      body: content as BodyInit | undefined,
      headers: content === undefined ? undefined : { 'content-type': type },
    })
  } catch (error) {
    if (signal?.aborted) throw error
    throw new ServerAway(UNREACHABLE)
  }
  if (response.ok) return response
  const failure = apiErrorSchema.safeParse(await response.json().catch(() => null))
  // Something in between answered, or the server while it stops.
  if (!failure.success) throw new ServerAway(UNREACHABLE)
  const { code, message, field, conflict } = failure.data.error
  // Nothing is wrong with what was sent; it can go again later.
  if ([408, 429, 503].includes(response.status) || code === 'cut-off') throw new ServerAway(message)
  if (response.status === 401 && code === 'key-needed') keyNeeded()
  throw new ApiFailure(response.status, code, message, field, conflict)
}

/** Asks a route and reads its answer as the table says. @throws ApiFailure, ServerAway */
async function call<N extends RouteName>(name: N, given?: Given): Promise<Answer<N>> {
  const response = await ask(name, given)
  const { answer }: RouteSpec = ROUTES[name]
  return (answer ? answer.parse(await response.json()) : undefined) as Answer<N>
}

let keyNeeded = () => {}

/** What happens when the server asks for a key. */
export function onKeyNeeded(run: () => void): void {
  keyNeeded = run
}

/** As answered, with what is in it not read yet: one entry that makes no sense does not keep the others away. */
const looseKitSchema = kitSchema.extend({ parts: z.array(z.unknown()) })

/** What is given of a part that comes as a mesh. */
export type NewPart = Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit'>
  & Partial<Pick<Part, 'kit' | 'sockets' | 'lamps'>>

/** The server's routes; each throws `ApiFailure` or `ServerAway`. */
export const api = {
  personSettings: () => call('personSettings'),
  keepSettings: (kept: KeptSettings) => call('keepSettings', { body: kept }),
  session: (level?: string) => call('session', { query: level === undefined ? {} : { level } }),
  ways: () => call('ways'),
  endSession: () => call('endSession'),
  people: async () => (await call('listPeople')).people,
  letIn: (person: NewPerson) => call('letIn', { body: person }),
  patchPerson: (id: string, patch: PersonPatch) => call('patchPerson', { id, body: patch }),
  renewKey: (id: string) => call('renewKey', { id, body: {} }),
  endPerson: (id: string) => call('endPerson', { id }),
  keeperLog: async (before?: number) =>
    (await call('keeperLog', { query: before === undefined ? {} : { before: String(before) } })).entries,
  startSession: (key: string) => call('startSession', { body: { key } }),
  tellError: (error: PageError) => call('tellError', { body: error }),
  levels: async () => (await call('listLevels')).levels,
  /** As `core/level/packed` describes it. */
  packedLevel: async (id: string) => new Uint8Array(await (await ask('getPacked', { id })).arrayBuffer()),
  milestones: async (level: string) => (await call('listMilestones', { id: level })).milestones,
  makeMilestone: (level: string, body: NewMilestone) => call('makeMilestone', { id: level, body }),
  patchMilestone: (id: string, body: MilestonePatch) => call('patchMilestone', { id, body }),
  deleteMilestone: (id: string) => call('deleteMilestone', { id }),
  packedMilestone: async (id: string) => new Uint8Array(await (await ask('packedMilestone', { id })).arrayBuffer()),
  putMilestonePicture: (id: string, picture: Blob) =>
    call('putMilestonePicture', { id, bytes: picture, type: picture.type }),
  createLevel: (level: NewLevel) => call('createLevel', { body: level }),
  patchLevel: (id: string, patch: LevelPatch) => call('patchLevel', { id, body: patch }),
  deleteLevel: (id: string) => call('deleteLevel', { id }),
  saveChanges: (id: string, body: unknown) => call('saveChanges', { id, body }),
  history: async (id: string, before?: number) =>
    (await call('history', { id, query: before === undefined ? {} : { before: String(before) } })).changes,
  journal: (id: string, after: number) => call('journal', { id, query: { after: String(after) } }),
  back: (id: string, to: number) => call('back', { id, query: { to: String(to) } }),
  /** @param revision of the level that it shows */
  savePicture: (id: string, picture: Blob, revision: number) =>
    call('putPicture', { id, query: { revision: String(revision) }, bytes: picture, type: picture.type }),
  /** With how many entries cannot be read. */
  kit: async () => {
    const { parts: given, entries } = looseKitSchema.parse(await (await ask('kit')).json())
    const parts = given.flatMap(each => partSchema.safeParse(each).data ?? [])
    return { parts, entries, unreadable: given.length - parts.length }
  },
  createPart: ({ id, name, kind, tags, inKit, kit = OWN_KIT, sockets = [], lamps = [] }: NewPart, glb: Uint8Array) =>
    call('createPart', {
      query: {
        id,
        name,
        kind,
        tags: tags.join(','),
        inKit: String(inKit),
        kit,
        sockets: JSON.stringify(sockets),
        lamps: JSON.stringify(lamps),
      },
      bytes: glb,
      type: 'model/gltf-binary',
    }),
  putPartPicture: (id: string, picture: Blob) => call('putPartPicture', { id, bytes: picture, type: picture.type }),
  putKitEntry: ({ id, ...body }: KitEntry) => call('putKitEntry', { id, body }),
  deleteKitEntry: (id: string) => call('deleteKitEntry', { id }),
  checkFile: (glb: Uint8Array) => call('checkFile', { bytes: glb, type: 'model/gltf-binary' }),
  makePart: (part: MadePart) => call('makePart', { body: part }),
  openPart: (id: string) => call('openPart', { id, body: {} }),
  remakePart: async (id: string) => (await call('remakePart', { id, body: {} })).parts,
  copyPart: (id: string, copy: PartCopy) => call('copyPart', { id, body: copy }),
  usesOfPart: (id: string) => call('usesOfPart', { id }),
  patchPart: (id: string, patch: PartPatch) => call('patchPart', { id, body: patch }),
  deletePart: (id: string) => call('deletePart', { id }),
  mesh: async (hash: string) => new Uint8Array(await (await ask('mesh', { id: hash })).arrayBuffer()),
  /** Nothing where there is nothing simpler. */
  meshSteps: async (hash: string) => {
    const response = await ask('meshSteps', { id: hash })
    return response.status === 204 ? null : new Uint8Array(await response.arrayBuffer())
  },
  texture: async (hash: string) => (await ask('texture', { id: hash })).blob(),
  /** A level as a file, and what became of it. */
  handOver: async (
    id: string,
    format: FormatName,
    query: Record<string, string>,
    signal: AbortSignal,
  ): Promise<{ file: Blob; report: HandOverReport }> => {
    const response = await ask(HAND_OVER_ROUTES[format], { id, query, signal })
    const report = reportSchema.parse(JSON.parse(decodeURIComponent(response.headers.get('x-report') ?? '')))
    return { file: await response.blob(), report }
  },
  progress: (ticket: string) => call('progress', { id: ticket }),
  importFile: (bytes: Blob, query: Record<string, string>) =>
    call('importFile', { bytes, query, type: 'application/octet-stream' }),
}
