import { mkdtemp, rm, stat, writeFile } from 'node:fs/promises'
import { createReadStream, createWriteStream } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { HandOverError, writeLevelGlb } from '../../core/formats/level-glb'
import type { Database } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { ApiError } from '../utils/api-error'
import { getTexture } from './textures'
import { readWholeLevel, TooLongToDeal } from './whole-level'

/** A file made for one answer, in a folder of its own that is to be removed afterwards. */
export type HandedOver = { folder: string, path: string, bytes: number, leftOut: number }

/**
 * The level as a binary glTF file, as of one moment. For a thread of its own. The binary data goes to the disk as it is made; what
 * is held in memory is the description and the parts' meshes.
 *
 * @throws ApiError 404; 422 if it does not fit into a file like this
 */
export async function exportLevelJob(db: Database, { id, instanced }: { id: string, instanced: boolean }): Promise<HandedOver> {
  const { name, level, loaded } = await inTransaction(db, tx => readWholeLevel(tx, id), { ...ONE_MOMENT, accessMode: 'read only' })
  const folder = await mkdtemp(join(tmpdir(), 'handy-grid-hand-over-'))
  try {
    const [path, binaryPath] = [join(folder, 'level.glb'), join(folder, 'binary')]
    const binary = createWriteStream(binaryPath)
    const { head, leftOut } = await writeLevelGlb(name, level, part => loaded.get(part), {
      instanced,
      pictureOf: picture => getTexture(db, picture),
      sink: bytes => binary.write(bytes) ? undefined : new Promise(resolve => binary.once('drain', resolve)),
    })
    await new Promise<void>((resolve, reject) => binary.once('error', reject).end(resolve))
    await writeFile(path, head)
    await pipeline(createReadStream(binaryPath), createWriteStream(path, { flags: 'a' }))
    await rm(binaryPath)
    const { size } = await stat(path)
    return { folder, path, bytes: size, leftOut }
  }
  catch (error) {
    await rm(folder, { recursive: true, force: true })
    if (error instanceof HandOverError || error instanceof TooLongToDeal) throw new ApiError(422, 'too-much', error.message, { field: 'instanced' })
    throw error
  }
}
