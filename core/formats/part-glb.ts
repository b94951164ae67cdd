import { Document, WebIO } from '@gltf-transform/core'
import type { Mesh } from '../mesh/mesh'
import { checkGlb, GlbError } from './glb-intake'
import { MaterialWriter, readMesh, writeMesh } from './gltf-mesh'

/**
 * Writes one part's mesh as a binary glTF file (ISO/IEC 12113:2022): one scene, one node, one mesh.
 * The same mesh always gives the same bytes.
 */
export async function writePartGlb(name: string, mesh: Mesh): Promise<Uint8Array> {
  const level = new Document()
  level.getRoot().getAsset().generator = 'Handy Grid'
  const node = level.createNode(name).setMesh(writeMesh(level, name, mesh, new MaterialWriter(level)))
  level.getRoot().setDefaultScene(level.createScene(name).addChild(node))
  return new WebIO().writeBinary(level)
}

/**
 * Reads the first mesh of a binary glTF file, whoever wrote it.
 * @throws GlbError with what is wrong if it is none, or none of triangles
 */
export async function readPartGlb(bytes: Uint8Array): Promise<Mesh> {
  checkGlb(bytes)
  const level = await new WebIO().readBinary(bytes as Uint8Array<ArrayBuffer>)
  const mesh = level.getRoot().listMeshes()[0]
  if (!mesh) throw new GlbError('the file holds no mesh')
  return readMesh(mesh)
}
