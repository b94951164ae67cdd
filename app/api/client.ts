import { z } from 'zod'
import type { ChangesRequest, Conflict, LevelPatch, NewLevel, PartPatch } from '~~/core/api/schema'
import type { Part } from '~~/core/kit/part'
import { partSchema } from '~~/core/kit/part'
import { apiErrorSchema, changesAnswerSchema, kitSchema, levelSchema, levelSummarySchema } from '~~/core/api/schema'

/** The server answered with an error. */
export class ApiFailure extends Error {
  constructor(readonly status: number, readonly code: string, message: string, readonly field?: string, readonly conflict?: Conflict) {
    super(message)
  }
}

/** The server did not answer, or something in between answered for it. */
export class ServerAway extends Error {}

async function call(path: string, init?: RequestInit): Promise<Response> {
  let response: Response
  try {
    response = await fetch(path, init)
  }
  catch {
    throw new ServerAway('The server cannot be reached.')
  }
  if (response.ok) return response
  const body = apiErrorSchema.safeParse(await response.json().catch(() => null))
  if (!body.success || response.status >= 500) throw new ServerAway('The server is not working at the moment.')
  const { code, message, field, conflict } = body.data.error
  throw new ApiFailure(response.status, code, message, field, conflict)
}

async function callJson<T extends z.ZodType>(schema: T, path: string, method = 'GET', body?: unknown): Promise<z.output<T>> {
  const response = await call(path, body === undefined
    ? { method }
    : { method, body: JSON.stringify(body), headers: { 'content-type': 'application/json' } })
  return schema.parse(await response.json())
}

const levelListSchema = z.strictObject({ levels: z.array(levelSummarySchema) })

/** The server's routes; each throws `ApiFailure` or `ServerAway`. */
export const api = {
  levels: async () => (await callJson(levelListSchema, '/api/levels')).levels,
  level: (id: string) => callJson(levelSchema, `/api/levels/${id}`),
  createLevel: (level: NewLevel) => callJson(levelSummarySchema, '/api/levels', 'POST', level),
  patchLevel: (id: string, patch: LevelPatch) => callJson(levelSummarySchema, `/api/levels/${id}`, 'PATCH', patch),
  deleteLevel: async (id: string) => void await call(`/api/levels/${id}`, { method: 'DELETE' }),
  saveChanges: (id: string, request: ChangesRequest) => callJson(changesAnswerSchema, `/api/levels/${id}/changes`, 'POST', request),
  savePicture: async (id: string, picture: Blob) => void await call(`/api/levels/${id}/picture`, { method: 'PUT', body: picture }),
  kit: async () => (await callJson(kitSchema, '/api/kit')).parts,
  createPart: async ({ id, name, kind, tags, inKit }: Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit'>, glb: Uint8Array): Promise<Part> => {
    const query = new URLSearchParams({ id, name, kind, tags: tags.join(','), inKit: String(inKit) })
    const response = await call(`/api/parts?${query}`, { method: 'POST', body: glb as Uint8Array<ArrayBuffer>, headers: { 'content-type': 'model/gltf-binary' } })
    return partSchema.parse(await response.json())
  },
  patchPart: (id: string, patch: PartPatch) => callJson(partSchema, `/api/parts/${id}`, 'PATCH', patch),
  mesh: async (hash: string) => new Uint8Array(await (await call(`/api/meshes/${hash}`)).arrayBuffer()),
}
