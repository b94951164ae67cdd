import { Document, WebIO } from '@gltf-transform/core'
import type { Mesh } from '../geometry/mesh'
import { MaterialWriter, readMesh, writeMesh } from './gltf-mesh'

/**
 * Writes one part's mesh as a binary glTF file (ISO/IEC 12113:2022): one scene, one node, one mesh.
 * The same mesh always gives the same bytes.
 */
export async function writePartGlb(name: string, mesh: Mesh): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'Handy Grid'
  const node = document.createNode(name).setMesh(writeMesh(document, name, mesh, new MaterialWriter(document)))
  document.getRoot().setDefaultScene(document.createScene(name).addChild(node))
  return new WebIO().writeBinary(document)
}

/**
 * Reads a file that `writePartGlb` wrote.
 * @throws Error if it is no binary glTF or holds no mesh
 */
export async function readPartGlb(bytes: Uint8Array): Promise<Mesh> {
  const document = await new WebIO().readBinary(bytes as Uint8Array<ArrayBuffer>)
  const mesh = document.getRoot().listMeshes()[0]
  if (!mesh) throw new Error('the file holds no mesh')
  return readMesh(mesh)
}
