import type { Mesh as GltfMesh, mat4, Node } from '@gltf-transform/core'
import { Document, WebIO } from '@gltf-transform/core'
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions'
import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Mesh } from '../geometry/mesh'
import { isBlockKey, meshOfBlockKey } from '../kit/block-key'
import { isArrangement } from '../arrange/arrangement'
import { isBentKey, meshOfBentKey } from '../arrange/bent-key'
import type { ShapeCopies } from '../arrange/expand'
import { arrangedOf, expand } from '../arrange/expand'
import { isBent } from '../arrange/path-bend'
import { placeCopies, placedMatrices } from '../arrange/placed'
import { groundBelow } from '../arrange/settle'
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
 * sources below them; with `instanced` they are instances of one node for each shape (EXT_mesh_gpu_instancing), without names.
 *
 * @param parts the parts by id
 * @throws RangeError if a placement shows a part that is not among them
 */
export async function writeLevelGlb(name: string, level: LevelDocument, parts: ReadonlyMap<string, PartToHandOver>, instanced = false): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'Handy Grid'
  const scene = document.createScene(name)
  document.getRoot().setDefaultScene(scene)
  const materials = new MaterialWriter(document)
  const meshes = new Map<string, GltfMesh>()

  const partOf = (shape: string): PartToHandOver | undefined => {
    if (isBlockKey(shape)) return { name: 'Block', mesh: meshOfBlockKey(shape) }
    if (!isBentKey(shape)) return parts.get(shape)
    const mesh = meshOfBentKey(shape, other => partOf(other)?.mesh ?? null)
    return mesh ? { name: 'Bent', mesh } : undefined
  }
  const meshOf = (shape: string): GltfMesh => {
    let mesh = meshes.get(shape)
    if (!mesh) {
      const part = partOf(shape)
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
    const { own, sources } = arrangedOf(level, id)
    if (sources.length === 0) return
    if (instanced || isBent(own.rule)) return writeShapes(expand(level, id), parent)
    const copies = placeCopies(own, sources.length, groundBelow(level, level.worldMatrix(id)))
    const matrices = placedMatrices(copies, sources.map(source => level.need(source)))
    for (let i = 0; i < copies.places.count; i++) {
      const source = copies.sourceOf(i)
      if (source < 0) continue
      const node = document.createNode(copies.places.keyAt(i)).setMatrix([...matrices.subarray(i * 16, i * 16 + 16)] as mat4)
      parent.addChild(node)
      for (const each of own.rule.rule === 'mirror' ? sources : [sources[source]!]) write(each, node)
    }
  }
  /** What is shown alone, without the tree below it. */
  const writeShapes = (shapes: readonly ShapeCopies[], parent: Parent) => {
    for (const { shape, matrices, indices } of shapes) {
      const matrixAt = (i: number) => matrices.subarray(i * 16, i * 16 + 16)
      // A mirrored instance would wind the wrong way in readers that look at its node alone.
      if (instanced && indices.length > 1 && isProper(matrixAt(0))) {
        const node = document.createNode(partOf(shape)?.name ?? '').setMesh(meshOf(shape))
        node.setExtension('EXT_mesh_gpu_instancing', writeInstances(document, matrices))
        parent.addChild(node)
      }
      else indices.forEach((index, i) => parent.addChild(document.createNode(String(index)).setMatrix([...matrixAt(i)] as mat4).setMesh(meshOf(shape))))
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
    if (!isArrangement(placement.own) || placement.own.rule.rule === 'mirror') writeBelow(id, node)
  }
  writeBelow(null, scene)
  return new WebIO().registerExtensions([EXTMeshGPUInstancing]).writeBinary(document)
}

const isProper = (matrix: Float64Array) => new Matrix4().fromArray(matrix).determinant() > 0

/** Translation, rotation and scale of each copy: forty bytes. */
function writeInstances(document: Document, matrices: Float64Array) {
  const count = matrices.length / 16
  const [translations, rotations, scales] = [new Float32Array(count * 3), new Float32Array(count * 4), new Float32Array(count * 3)]
  const [matrix, translation, rotation, scale] = [new Matrix4(), new Vector3(), new Quaternion(), new Vector3()]
  for (let i = 0; i < count; i++) {
    matrix.fromArray(matrices, i * 16).decompose(translation, rotation, scale)
    translation.toArray(translations, i * 3)
    rotation.normalize().toArray(rotations, i * 4)
    scale.toArray(scales, i * 3)
  }
  const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer()
  const accessor = (type: 'VEC3' | 'VEC4', array: Float32Array<ArrayBuffer>) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  return document.createExtension(EXTMeshGPUInstancing).setRequired(true).createInstancedMesh()
    .setAttribute('TRANSLATION', accessor('VEC3', translations))
    .setAttribute('ROTATION', accessor('VEC4', rotations))
    .setAttribute('SCALE', accessor('VEC3', scales))
}
