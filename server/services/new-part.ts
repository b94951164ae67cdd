/// <reference path="../gltf-validator.d.ts" />
import { validateBytes } from 'gltf-validator'
import { plainWords } from '../../core/formats/import/plain-words'
import { GlbError, isGlb, readChunks } from '../../core/formats/glb-chunks'
import { STORED_PICTURE } from '../../core/formats/check-glb'
import { MOST_DESCRIPTION } from '../../core/formats/import/gltf-file'
import type { PartMesh } from '../../core/formats/part-glb'
import { readPartGlb } from '../../core/formats/part-glb'
import type { CheckedFile } from '../../core/api/schema'
import type { Part } from '../../core/level/part'
import type { Database } from '../db/client'
import { ApiError } from '../utils/api-error'
import type { NewPart } from './kit'
import { getPart, storePart } from './kit'
import { getTexture } from './textures'

/**
 * Adds a part that somebody made, behind all others. Sending the same one again is answered as done. For a process of
 * its own: a mesh of the largest size taken takes seconds to look at.
 *
 * @throws ApiError 415 if the bytes are no valid binary glTF with a mesh of triangles
 */
export async function createPartJob(db: Database, { part, glb }: { part: NewPart; glb: Uint8Array }): Promise<Part> {
  await storePart(db, part, await readForeign(db, glb))
  return getPart(db, part.id)
}

/** What the Khronos validator says of a file, whoever made it. For a process of its own. */
export async function checkFileJob(_db: Database, { glb }: { glb: Uint8Array }): Promise<CheckedFile> {
  // The validator goes down into what is nested by calls, and does not come back from too deep.
  const problem = problemOpening(glb)
  if (problem) return { errors: [{ message: problem }], warnings: [], errorCount: 1, warningCount: 0 }
  const told = await validateBytes(glb, { maxIssues: 200, writeTimestamp: false }).catch((error: unknown) =>
    String(error),
  )
  if (typeof told === 'string')
    return { errors: [{ message: told.slice(0, 300) }], warnings: [], errorCount: 1, warningCount: 0 }
  const some = (severity: number) =>
    told.issues.messages
      .filter(each => each.severity === severity)
      .slice(0, MOST_SAID)
      .map(({ code, message, pointer }) => ({
        message: plainWords(code, message).slice(0, 500),
        ...(pointer ? { pointer } : {}),
      }))
  return {
    errors: some(0),
    warnings: some(1),
    errorCount: told.issues.numErrors,
    warningCount: told.issues.numWarnings,
  }
}

/** Why a binary glTF file is not opened here; null for one that is, and for what is none. */
function problemOpening(glb: Uint8Array): string | null {
  if (!isGlb(glb)) return null
  try {
    readChunks(glb, MOST_DESCRIPTION)
    return null
  } catch (error) {
    if (error instanceof GlbError) return error.message
    throw error
  }
}

/** Errors, and warnings, that are told of. */
const MOST_SAID = 20

async function readForeign(db: Database, glb: Uint8Array): Promise<PartMesh> {
  const refused = (why: string) =>
    new ApiError(415, 'not-a-mesh', `body: is no binary glTF with a mesh of triangles: ${why.slice(0, 300)}.`, {
      field: 'body',
    })
  let made: PartMesh
  try {
    made = await readPartGlb(glb)
  } catch (error) {
    throw refused(error instanceof GlbError ? error.message : 'it cannot be read')
  }
  const { issues } = await validateBytes(glb, {
    maxIssues: 20,
    writeTimestamp: false,
    externalResourceFunction: uri => storedPicture(db, uri),
  })
  const [first] = issues.messages.filter(({ severity }) => severity === 0)
  if (first) throw refused(`${first.pointer ? `${first.pointer}: ` : ''}${first.message}`)
  return made
}

/** The picture that an address in a file means. @throws ApiError if it is not stored here */
async function storedPicture(db: Database, uri: string): Promise<Uint8Array> {
  return (await getTexture(db, STORED_PICTURE.exec(uri)?.[1] ?? '')).bytes
}
