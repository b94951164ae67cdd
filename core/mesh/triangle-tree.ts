import type { Solid } from './solid'

/** A mesh's triangles in a tree of boxes, in plain numbers, for looking at pairs of meshes. */
export type TriangleTree = {
  /** Nine numbers for each triangle: its corners, in the mesh's own axes. */
  corners: Float64Array
  /** Six numbers for each node: the middle of its box and half its sides. */
  boxes: Float64Array
  /** Of an inner node its two children; of a leaf -1 and 0. */
  left: Int32Array
  right: Int32Array
  /** Of a leaf its first triangle and how many. */
  first: Int32Array
  count: Int32Array
}

const known = new WeakMap<Solid, TriangleTree>()

/**
 * The tree of a mesh, over all of its materials; made once, from the trees that rays go through. Its root is node 0.
 */
export function triangleTreeOf(solid: Solid): TriangleTree {
  let tree = known.get(solid)
  if (!tree) known.set(solid, (tree = build(solid)))
  return tree
}

type Leaf = { first: number; count: number }
type Node = Leaf | { left: Node; right: Node }

function build(solid: Solid): TriangleTree {
  const corners = new Float64Array(solid.triangles * 9)
  let triangles = 0
  const roots = solid.trees.map((tree, i): Node => {
    const { positions, indices } = solid.mesh.primitives[i]!
    // The nodes come parents first, the left before the right: those that wait for a child are stacked.
    const waiting: { left: Node | null }[] = []
    let root: Node | null = null
    const done = (node: Node) => {
      let at = node
      for (;;) {
        const above = waiting.at(-1)
        if (!above) {
          root = at
          return
        }
        if (above.left === null) {
          above.left = at
          return
        }
        waiting.pop()
        at = { left: above.left, right: at }
      }
    }
    tree.traverse((_depth, isLeaf, _box, offset, count) => {
      if (!isLeaf) {
        waiting.push({ left: null })
        return
      }
      const first = triangles
      for (let k = offset; k < offset + count; k++) {
        const triangle = tree.resolveTriangleIndex(k)
        for (let corner = 0; corner < 3; corner++) {
          const vertex = indices[triangle * 3 + corner]! * 3
          for (let axis = 0; axis < 3; axis++) corners[triangles * 9 + corner * 3 + axis] = positions[vertex + axis]!
        }
        triangles++
      }
      done({ first, count })
    })
    return root!
  })
  return flatten(
    roots.reduce((left, right) => ({ left, right })),
    corners,
  )
}

function flatten(root: Node, corners: Float64Array): TriangleTree {
  const nodes: Node[] = [root]
  const [left, right, first, count]: number[][] = [[], [], [], []]
  // The list grows while it is walked; children come after their parents.
  for (const node of nodes) {
    if ('count' in node) {
      left!.push(-1)
      right!.push(0)
      first!.push(node.first)
      count!.push(node.count)
      continue
    }
    left!.push(nodes.push(node.left) - 1)
    right!.push(nodes.push(node.right) - 1)
    first!.push(0)
    count!.push(0)
  }
  const tree = {
    corners,
    boxes: new Float64Array(nodes.length * 6),
    left: Int32Array.from(left!),
    right: Int32Array.from(right!),
    first: Int32Array.from(first!),
    count: Int32Array.from(count!),
  }
  fitBoxes(tree)
  return tree
}

function fitBoxes({ corners, boxes, left, right, first, count }: TriangleTree): void {
  const sides = new Float64Array(boxes.length)
  for (let node = left.length - 1; node >= 0; node--) {
    for (let axis = 0; axis < 3; axis++) {
      let [low, high] = [Infinity, -Infinity]
      if (left[node]! < 0) {
        for (let at = first[node]! * 9 + axis; at < (first[node]! + count[node]!) * 9; at += 3) {
          low = Math.min(low, corners[at]!)
          high = Math.max(high, corners[at]!)
        }
      } else {
        low = Math.min(sides[left[node]! * 6 + axis]!, sides[right[node]! * 6 + axis]!)
        high = Math.max(sides[left[node]! * 6 + axis + 3]!, sides[right[node]! * 6 + axis + 3]!)
      }
      sides[node * 6 + axis] = low
      sides[node * 6 + axis + 3] = high
      boxes[node * 6 + axis] = (low + high) / 2
      boxes[node * 6 + axis + 3] = (high - low) / 2
    }
  }
}
