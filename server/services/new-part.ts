/// <reference path="../gltf-validator.d.ts" />
import { validateBytes } from 'gltf-validator'
import { GlbError } from '../../core/formats/glb-intake'
import { readPartGlb } from '../../core/formats/part-glb'
import type { Mesh } from '../../core/mesh/mesh'
import type { Part } from '../../core/level/part'
import type { Database } from '../db/client'
import { ApiError } from '../utils/api-error'
import type { NewPart } from './kit'
import { getPart, storePart } from './kit'

/**
 * Adds a part that somebody made, behind all others. Sending the same one again is answered as done. For a thread of its own: a mesh
 * of the largest size taken takes seconds to look at.
 *
 * @throws ApiError 415 if the bytes are no valid binary glTF with a mesh of triangles
 */
export async function createPartJob(db: Database, { part, glb }: { part: NewPart, glb: Uint8Array }): Promise<Part> {
  const mesh = await readForeign(glb)
  await storePart(db, part, mesh)
  return getPart(db, part.id)
}

async function readForeign(glb: Uint8Array): Promise<Mesh> {
  const refused = (why: string) => new ApiError(415, 'not-a-mesh', `body: is no binary glTF with a mesh of triangles: ${why.slice(0, 300)}.`, { field: 'body' })
  let mesh: Mesh
  try {
    mesh = await readPartGlb(glb)
  }
  catch (error) {
    throw refused(error instanceof GlbError ? error.message : 'it cannot be read')
  }
  const { issues } = await validateBytes(glb, { maxIssues: 20, writeTimestamp: false })
  const [first] = issues.messages.filter(({ severity }) => severity === 0)
  if (first) throw refused(`${first.pointer ? `${first.pointer}: ` : ''}${first.message}`)
  return mesh
}
