/// <reference path="../gltf-validator.d.ts" />
import { validateBytes } from 'gltf-validator'
import { GlbError } from '../../core/formats/glb-chunks'
import { STORED_PICTURE } from '../../core/formats/glb-intake'
import type { PartMesh } from '../../core/formats/part-glb'
import { readPartGlb } from '../../core/formats/part-glb'
import type { Part } from '../../core/level/part'
import type { Database } from '../db/client'
import { ApiError } from '../utils/api-error'
import type { NewPart } from './kit'
import { getPart, storePart } from './kit'
import { getTexture } from './textures'

/**
 * Adds a part that somebody made, behind all others. Sending the same one again is answered as done. For a thread of its own: a mesh
 * of the largest size taken takes seconds to look at.
 *
 * @throws ApiError 415 if the bytes are no valid binary glTF with a mesh of triangles
 */
export async function createPartJob(db: Database, { part, glb }: { part: NewPart, glb: Uint8Array }): Promise<Part> {
  await storePart(db, part, await readForeign(db, glb))
  return getPart(db, part.id)
}

async function readForeign(db: Database, glb: Uint8Array): Promise<PartMesh> {
  const refused = (why: string) => new ApiError(415, 'not-a-mesh', `body: is no binary glTF with a mesh of triangles: ${why.slice(0, 300)}.`, { field: 'body' })
  let made: PartMesh
  try {
    made = await readPartGlb(glb)
  }
  catch (error) {
    throw refused(error instanceof GlbError ? error.message : 'it cannot be read')
  }
  const { issues } = await validateBytes(glb, { maxIssues: 20, writeTimestamp: false, externalResourceFunction: uri => storedPicture(db, uri) })
  const [first] = issues.messages.filter(({ severity }) => severity === 0)
  if (first) throw refused(`${first.pointer ? `${first.pointer}: ` : ''}${first.message}`)
  return made
}

/** The picture that an address in a file means. @throws ApiError if it is not stored here */
async function storedPicture(db: Database, uri: string): Promise<Uint8Array> {
  return (await getTexture(db, STORED_PICTURE.exec(uri)?.[1] ?? '')).bytes
}
