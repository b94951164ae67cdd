import type { Document, Node as GltfNode } from '@gltf-transform/core'
import { Matrix4 } from 'three'
import { z } from 'zod'
import { isSheared } from '../../math/transform'

// A node of glTF may have any matrix without perspective, also one that is skewed; the package that reads files knows
// position, turn and size alone, and takes the rest of it off without a word.

const nodesSchema = z.looseObject({
  nodes: z.array(z.looseObject({ matrix: z.array(z.number()).length(16).optional().catch(undefined) })).catch([]),
})
const skewed = new WeakMap<GltfNode, Matrix4>()

/** Remembers the matrices of a file's nodes that no position, turn and size describe. Call once it has been read. */
export function keepSkewed(gltf: Document, json: unknown): void {
  const nodes = gltf.getRoot().listNodes()
  for (const [i, { matrix }] of (nodesSchema.safeParse(json).data?.nodes ?? []).entries()) {
    if (!matrix || !nodes[i]) continue
    const given = new Matrix4().fromArray(matrix)
    if (isSheared(given)) skewed.set(nodes[i], given)
  }
}

/** From a node's axes to those of what it hangs from, as the file has it. */
export function localOf(node: GltfNode): Matrix4 {
  return skewed.get(node)?.clone() ?? new Matrix4().fromArray(node.getMatrix())
}

/** Nodes of a file that was read stay where they are; in a deep tree each way up would be gone again and again. */
const worlds = new WeakMap<GltfNode, Matrix4>()

/** From a node's axes to the scene's. */
export function worldOf(node: GltfNode): Matrix4 {
  const unknown: GltfNode[] = []
  for (let at: GltfNode | null = node; at && !worlds.has(at); at = at.getParentNode()) unknown.push(at)
  for (const at of unknown.reverse()) {
    const above = at.getParentNode()
    const matrix = localOf(at)
    worlds.set(at, above ? matrix.premultiply(worlds.get(above)!) : matrix)
  }
  return worlds.get(node)!.clone()
}

/** A node and all below it, each before what hangs from it. However deep they hang. */
export function withBelow(node: GltfNode): GltfNode[] {
  const found: GltfNode[] = []
  const waiting = [node]
  for (let at = waiting.pop(); at; at = waiting.pop()) {
    found.push(at)
    for (const child of at.listChildren().reverse()) waiting.push(child)
  }
  return found
}
