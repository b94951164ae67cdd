import type { Document } from '@gltf-transform/core'
import { WebIO } from '@gltf-transform/core'
import { EXTTextureWebP, KHRTextureTransform } from '@gltf-transform/extensions'
import type { Mesh } from '../mesh/mesh'
import type { MeshStep } from '../mesh/mesh-steps'
import type { Picture } from '../mesh/texture'
import type { PictureSource } from './glb-file'
import { GlbFile } from './glb-file'
import { GlbError } from './glb-chunks'
import { checkGlb, STORED_PICTURE } from './check-glb'
import { PrimitiveReader, readPlainMesh } from './gltf-primitives'
import { joinBytes } from './join-bytes'

/** A part's mesh, with the pictures that lie in its file. */
export type PartMesh = { mesh: Mesh; pictures: ReadonlyMap<string, Picture> }

/** Where a picture lies that is stored here, seen from a mesh. */
export const storedPicture = (picture: string) => `../textures/${picture}`

/**
 * Writes one part's mesh as a binary glTF file (ISO/IEC 12113:2022): one scene, one node, one mesh.
 * The same mesh always gives the same bytes.
 *
 * @param pictureOf the pictures of its textures; addresses of those that are stored when left out
 */
export async function writePartGlb(
  name: string,
  mesh: Mesh,
  pictureOf: PictureSource = storedPicture,
): Promise<Uint8Array> {
  return writeGlb(
    name,
    async file => void (await file.addNode(null, { name, mesh: await file.addMesh(name, mesh) })),
    pictureOf,
  )
}

/** @param fill adds what is in it @returns the whole file */
async function writeGlb(
  name: string,
  fill: (file: GlbFile) => Promise<void>,
  pictureOf: PictureSource = storedPicture,
): Promise<Uint8Array> {
  const pieces: Uint8Array[] = []
  const file = new GlbFile(bytes => void pieces.push(bytes.slice()), pictureOf)
  await fill(file)
  pieces.unshift(file.finish(name))
  return joinBytes(pieces)
}

/**
 * Writes the meshes that stand for one at a distance as a binary glTF file: a node each, with the error in its extras.
 */
export async function writeStepsGlb(steps: readonly MeshStep[]): Promise<Uint8Array> {
  return writeGlb('Steps', async file => {
    for (const [i, { mesh, error }] of steps.entries())
      await file.addNode(null, {
        name: `Step ${i + 1}`,
        mesh: await file.addMesh(`Step ${i + 1}`, mesh),
        extras: { error },
      })
  })
}

/** Reads them. @throws GlbError */
export async function readStepsGlb(bytes: Uint8Array): Promise<MeshStep[]> {
  const file = await readStored(bytes)
  const reader = new PrimitiveReader()
  return file
    .getRoot()
    .listNodes()
    .map(node => ({ mesh: readPlainMesh(node.getMesh()!, reader), error: Number(node.getExtras().error) }))
}

/**
 * Reads the first mesh of a binary glTF file as it is written here, whoever wrote it.
 * @throws GlbError with what is wrong if it is none, or none of triangles
 *
 * @example
 * import { blockMesh } from '../mesh/block-mesh'
 * const wood = { name: 'Wood', baseColor: [0.6, 0.4, 0.2], roughness: 1, metallic: 0, emissive: [0, 0, 0] }
 * const mesh = blockMesh({ type: 'box', width: 1, height: 1, depth: 1 }, wood)
 * (await readPartGlb(await writePartGlb('Box', mesh))).mesh.primitives.length // mesh.primitives.length
 */
export async function readPartGlb(bytes: Uint8Array): Promise<PartMesh> {
  const mesh = (await readStored(bytes)).getRoot().listMeshes()[0]
  if (!mesh) throw new GlbError('the file holds no mesh')
  const reader = new PrimitiveReader()
  return { mesh: readPlainMesh(mesh, reader), pictures: reader.materials.pictures }
}

async function readStored(bytes: Uint8Array): Promise<Document> {
  const { json, binary } = checkGlb(bytes)
  const stored = (json.images ?? []).flatMap(({ uri }) =>
    uri && STORED_PICTURE.test(uri) ? [[uri, new Uint8Array()] as const] : [],
  )
  const resources = { '@glb.bin': binary as Uint8Array<ArrayBuffer>, ...Object.fromEntries(stored) }
  return new WebIO().registerExtensions([KHRTextureTransform, EXTTextureWebP]).readJSON({ json, resources })
}
