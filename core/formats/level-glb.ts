import type { Mesh as GltfMesh, mat4, Node } from '@gltf-transform/core'
import { Document, WebIO } from '@gltf-transform/core'
import type { Mesh } from '../geometry/mesh'
import { isBlockKey, meshOfBlockKey } from '../kit/block-key'
import { ruleOf } from '../arrange/expand'
import { copiesOf } from '../arrange/evaluate'
import { keyOf } from '../arrange/rule'
import type { LevelDocument } from '../level/document'
import { nodeTranslation } from '../level/transform'
import { MaterialWriter, writeMesh } from './gltf-mesh'

type Parent = { addChild(node: Node): unknown }

/** What is needed of a part to hand it over. */
export type PartToHandOver = { name: string, mesh: Mesh }

/**
 * Writes a level as a binary glTF file (ISO/IEC 12113:2022).
 *
 * Every placement becomes a node in the same tree, with its name, its id in `extras.placement` and a pivot-free TRS that
 * gives it the same world matrix; every part or block used becomes one mesh that its nodes share; equal materials are written once.
 * Hidden placements are handed over like all others. The copies of an arrangement are nodes named by their keys, with their
 * sources below them.
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

  const writeBelow = (parentId: string | null, parent: Parent) => {
    for (const id of level.children(parentId)) write(id, parent)
  }
  const writeCopies = (id: string, parent: Parent) => {
    const rule = ruleOf(level, id)
    const [children, copies] = [level.children(id), copiesOf(rule)]
    if (children.length === 0) return
    for (let i = 0; i < copies.length / 16; i++) {
      const node = document.createNode(keyOf(rule, i)).setMatrix([...copies.subarray(i * 16, i * 16 + 16)] as mat4)
      parent.addChild(node)
      write(children[i % children.length]!, node)
    }
  }
  const write = (id: string, parent: Parent) => {
    const placement = level.need(id)
    const node = document.createNode(placement.name)
      .setTranslation(nodeTranslation(placement))
      .setRotation([...placement.rotation])
      .setScale([...placement.scale])
      .setExtras({ placement: id })
    const shape = level.shapeOf(id)
    if (shape !== null) node.setMesh(meshOf(shape))
    parent.addChild(node)
    if (placement.kind === 'arrangement') writeCopies(id, node)
    else writeBelow(id, node)
  }
  writeBelow(null, scene)
  return new WebIO().writeBinary(document)
}
