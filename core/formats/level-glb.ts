import type { Mesh as GltfMesh, Node } from '@gltf-transform/core'
import { Document, WebIO } from '@gltf-transform/core'
import type { Mesh } from '../geometry/mesh'
import { isBlockKey, meshOfBlockKey } from '../kit/block-key'
import type { LevelDocument } from '../level/document'
import { nodeTranslation } from '../level/transform'
import { MaterialWriter, writeMesh } from './gltf-mesh'

/** What is needed of a part to hand it over. */
export type PartToHandOver = { name: string, mesh: Mesh }

/**
 * Writes a level as a binary glTF file (ISO/IEC 12113:2022).
 *
 * Every placement becomes a node in the same tree, with its name, its id in `extras.placement` and a pivot-free TRS that
 * gives it the same world matrix; every part or block used becomes one mesh that its nodes share; equal materials are written once.
 * Hidden placements are handed over like all others.
 *
 * @param parts the parts by id
 * @throws RangeError if a placement shows a part that is not among them
 */
export async function writeLevelGlb(name: string, level: LevelDocument, parts: ReadonlyMap<string, PartToHandOver>): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'Handy Grid'
  const scene = document.createScene(name)
  document.getRoot().setDefaultScene(scene)
  const materials = new MaterialWriter(document)
  const meshes = new Map<string, GltfMesh>()

  const meshOf = (shape: string): GltfMesh => {
    let mesh = meshes.get(shape)
    if (!mesh) {
      const part = isBlockKey(shape) ? { name: 'Block', mesh: meshOfBlockKey(shape) } : parts.get(shape)
      if (!part) throw new RangeError(`there is no part ${shape}`)
      mesh = writeMesh(document, part.name, part.mesh, materials)
      meshes.set(shape, mesh)
    }
    return mesh
  }

  const writeBelow = (parentId: string | null, parent: { addChild(node: Node): unknown }) => {
    for (const id of level.children(parentId)) {
      const placement = level.need(id)
      const node = document.createNode(placement.name)
        .setTranslation(nodeTranslation(placement))
        .setRotation([...placement.rotation])
        .setScale([...placement.scale])
        .setExtras({ placement: id })
      const shape = level.shapeOf(id)
      if (shape !== null) node.setMesh(meshOf(shape))
      parent.addChild(node)
      writeBelow(id, node)
    }
  }
  writeBelow(null, scene)
  return new WebIO().writeBinary(document)
}
