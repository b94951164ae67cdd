import { asc, eq, inArray, notExists, and } from 'drizzle-orm'
import type { Picture, PictureType } from '../../core/mesh/texture'
import type { Database, Transaction } from '../db/client'
import { meshTextures, textures } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { pictureTypeOf, pixelsOf } from '../utils/picture'

/** Pixels of one picture, and of all that come with a mesh; a small file can claim many. */
const MOST_PIXELS = 8192 * 8192
const MOST_PIXELS_IN_ALL = 4 * MOST_PIXELS

/** A texture's picture by the SHA-256 of its bytes. @throws ApiError 404 */
export async function getTexture(db: Database | Transaction, hash: string): Promise<Picture> {
  const [row] = /^[0-9a-f]{64}$/.test(hash) ? await db.select().from(textures).where(eq(textures.hash, hash)) : []
  if (!row) throw ApiError.notFound('texture')
  return row
}

/**
 * Stores the pictures of a mesh that are not there yet, and that it uses them.
 *
 * @param used names of all that the mesh shows
 * @param given those that came with it
 * @throws ApiError 415 if one is no picture that the page can show; 422 if one neither came with it nor is there
 */
export async function storeTextures(
  tx: Transaction,
  meshHash: string,
  used: ReadonlySet<string>,
  given: ReadonlyMap<string, Picture>,
): Promise<void> {
  if (used.size === 0) return
  // Held until this is done, so that nobody takes them away.
  const known = new Set(
    (
      await tx
        .select({ hash: textures.hash })
        .from(textures)
        .where(inArray(textures.hash, [...used]))
        .orderBy(asc(textures.hash))
        .for('key share')
    ).map(({ hash }) => hash),
  )
  const fresh = [...used].filter(hash => !known.has(hash)).map(hash => [hash, given.get(hash)] as const)
  let pixels = 0
  for (const [, picture] of fresh) pixels += picture ? await pixelsOf(picture.bytes) : 0
  if (pixels > MOST_PIXELS_IN_ALL)
    throw new ApiError(
      415,
      'not-a-picture',
      `body: its pictures have ${Math.round(pixels / 1e6).toLocaleString('en')} million pixels in all, and ${Math.round(MOST_PIXELS_IN_ALL / 1e6)} million are taken in.`,
      { field: 'body' },
    )
  for (const [hash, picture] of fresh) {
    if (!picture)
      throw new ApiError(422, 'unknown-texture', 'body: names a picture that is not stored here.', { field: 'body' })
    if ((await pictureTypeOf(picture.bytes, MOST_PIXELS)) !== picture.type)
      throw new ApiError(415, 'not-a-picture', 'body: a picture in it cannot be read, or is too large.', {
        field: 'body',
      })
    await tx
      .insert(textures)
      .values({ hash, ...picture })
      .onConflictDoUpdate({ target: textures.hash, set: { hash } })
  }
  await tx
    .insert(meshTextures)
    .values([...used].map(textureHash => ({ meshHash, textureHash })))
    .onConflictDoNothing()
}

/** Takes away those of some pictures that no mesh shows any more. */
export async function dropUnusedTextures(tx: Transaction, hashes: readonly string[]): Promise<void> {
  if (hashes.length === 0) return
  await tx
    .select({ hash: textures.hash })
    .from(textures)
    .where(inArray(textures.hash, [...hashes]))
    .orderBy(asc(textures.hash))
    .for('update')
  await tx
    .delete(textures)
    .where(
      and(
        inArray(textures.hash, [...hashes]),
        notExists(tx.select().from(meshTextures).where(eq(meshTextures.textureHash, textures.hash))),
      ),
    )
}

/** The pictures of a mesh. */
export async function texturesOfMesh(db: Database | Transaction, meshHash: string): Promise<string[]> {
  return (
    await db.select({ hash: meshTextures.textureHash }).from(meshTextures).where(eq(meshTextures.meshHash, meshHash))
  ).map(({ hash }) => hash)
}

/** The pictures of a mesh with what they are, in the order of their names. */
export async function typesOfMesh(
  db: Database | Transaction,
  meshHash: string,
): Promise<{ picture: string; type: PictureType }[]> {
  return db
    .select({ picture: textures.hash, type: textures.type })
    .from(textures)
    .innerJoin(meshTextures, eq(meshTextures.textureHash, textures.hash))
    .where(eq(meshTextures.meshHash, meshHash))
    .orderBy(asc(textures.hash))
}
