import type { Matrix4 } from 'three'
import { Box3 } from 'three'
import type { Solid } from './solid'
import type { TriangleTree } from './triangle-tree'
import { triangleTreeOf } from './triangle-tree'

/** A mesh somewhere in the world, its boxes and triangles worked out there as far as they are asked for. */
export class Placed {
  readonly tree: TriangleTree
  // Of most things no more is asked than the box around all of them.
  private madeCorners: Float64Array | null = null
  private madeBoxes: Float64Array | null = null
  private readonly whole = new Float64Array(6)
  private hasBox: Uint8Array | null = null
  private hasLeaf: Uint8Array | null = null

  constructor(
    readonly solid: Solid,
    public matrix: Matrix4,
  ) {
    this.tree = triangleTreeOf(solid)
    this.writeBox(0, this.whole, 0)
  }

  /** Places it elsewhere; all that was worked out is forgotten, the room for it is kept. */
  moveTo(matrix: Matrix4): this {
    this.matrix = matrix
    this.writeBox(0, this.whole, 0)
    this.hasBox?.fill(0)
    this.hasLeaf?.fill(0)
    return this
  }

  /** Nine numbers for each triangle, in the world; only those that `leaf` was called for. */
  get corners(): Float64Array {
    return (this.madeCorners ??= new Float64Array(this.tree.corners.length))
  }

  /** Six for each node: least x, y, z, most x, y, z, in the world; only those that `box` was called for. */
  get boxes(): Float64Array {
    return (this.madeBoxes ??= new Float64Array(this.tree.boxes.length))
  }

  /** Works out a node's box in the world, if it is not known (Arvo 1990). @returns where it begins in `boxes` */
  box(node: number): number {
    const at = node * 6
    const hasBox = (this.hasBox ??= new Uint8Array(this.tree.left.length))
    if (hasBox[node]) return at
    this.writeBox(node, this.boxes, at)
    hasBox[node] = 1
    return at
  }

  private writeBox(node: number, into: Float64Array, to: number): void {
    const { boxes } = this.tree
    const e = this.matrix.elements
    const at = node * 6
    const x = boxes[at]!,
      y = boxes[at + 1]!,
      z = boxes[at + 2]!,
      a = boxes[at + 3]!,
      b = boxes[at + 4]!,
      c = boxes[at + 5]!
    for (let axis = 0; axis < 3; axis++) {
      const place = e[axis]! * x + e[4 + axis]! * y + e[8 + axis]! * z + e[12 + axis]!
      const reach = Math.abs(e[axis]!) * a + Math.abs(e[4 + axis]!) * b + Math.abs(e[8 + axis]!) * c
      into[to + axis] = place - reach
      into[to + axis + 3] = place + reach
    }
  }

  /** Works out the triangles of a leaf in the world, if they are not known. */
  leaf(node: number): void {
    const hasLeaf = (this.hasLeaf ??= new Uint8Array(this.tree.left.length))
    if (hasLeaf[node]) return
    const {
      corners,
      tree,
      matrix: { elements: e },
    } = this
    const from = tree.first[node]! * 9
    for (let at = from; at < from + tree.count[node]! * 9; at += 3) {
      const x = tree.corners[at]!,
        y = tree.corners[at + 1]!,
        z = tree.corners[at + 2]!
      for (let axis = 0; axis < 3; axis++)
        corners[at + axis] = e[axis]! * x + e[4 + axis]! * y + e[8 + axis]! * z + e[12 + axis]!
    }
    hasLeaf[node] = 1
  }

  /** The box around all of it, in the world. */
  bounds(target = new Box3()): Box3 {
    const [x, y, z, a, b, c] = this.whole as unknown as [number, number, number, number, number, number]
    target.min.set(x, y, z)
    target.max.set(a, b, c)
    return target
  }
}

/** How far apart two boxes are, squared: six numbers each. */
export function boxesApart(a: Float64Array, i: number, b: Float64Array, j: number): number {
  let sum = 0
  for (let axis = 0; axis < 3; axis++) {
    const gap = Math.max(a[i + axis]! - b[j + axis + 3]!, b[j + axis]! - a[i + axis + 3]!, 0)
    sum += gap * gap
  }
  return sum
}

/**
 * Visits pairs of leaves of two placed meshes whose boxes are no farther apart than is of interest, roughly the nearest
 * first.
 *
 * @param farthest the square of the largest distance still of interest; asked again and again, as it may shrink
 * @param visit gets a leaf of each, whose triangles are worked out
 */
export function pairsOfLeaves(
  a: Placed,
  b: Placed,
  farthest: () => number,
  visit: (leafA: number, leafB: number) => void,
): void {
  const stack: number[] = [0, 0, boxesApart(a.boxes, a.box(0), b.boxes, b.box(0))]
  const size = (boxes: Float64Array, at: number) =>
    boxes[at + 3]! - boxes[at]! + boxes[at + 4]! - boxes[at + 1]! + boxes[at + 5]! - boxes[at + 2]!
  while (stack.length > 0) {
    const apart = stack.pop()!
    const nodeB = stack.pop()!
    const nodeA = stack.pop()!
    if (apart > farthest()) continue
    const [isLeafA, isLeafB] = [a.tree.left[nodeA]! < 0, b.tree.left[nodeB]! < 0]
    if (isLeafA && isLeafB) {
      a.leaf(nodeA)
      b.leaf(nodeB)
      visit(nodeA, nodeB)
      continue
    }
    // The larger of the two is opened; what is nearer is looked at first.
    const opensA = !isLeafA && (isLeafB || size(a.boxes, a.box(nodeA)) >= size(b.boxes, b.box(nodeB)))
    const [one, two] = opensA
      ? [a.tree.left[nodeA]!, a.tree.right[nodeA]!]
      : [b.tree.left[nodeB]!, b.tree.right[nodeB]!]
    const apartOne = opensA
      ? boxesApart(a.boxes, a.box(one), b.boxes, b.box(nodeB))
      : boxesApart(a.boxes, a.box(nodeA), b.boxes, b.box(one))
    const apartTwo = opensA
      ? boxesApart(a.boxes, a.box(two), b.boxes, b.box(nodeB))
      : boxesApart(a.boxes, a.box(nodeA), b.boxes, b.box(two))
    const most = farthest()
    const push = (child: number, far: number) => {
      if (far > most) return
      if (opensA) stack.push(child, nodeB, far)
      else stack.push(nodeA, child, far)
    }
    if (apartOne < apartTwo) {
      push(two, apartTwo)
      push(one, apartOne)
    } else {
      push(one, apartOne)
      push(two, apartTwo)
    }
  }
}
