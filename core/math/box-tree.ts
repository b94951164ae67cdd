import type { Box3, Ray } from 'three'
import { alongCurve } from './along-curve'

const NONE = -1
/** Nodes that are put together between two times of giving way. */
const SOME = 4096
/** Levels by which one side of a node may be deeper before it is balanced. */
const LEAN = 2

/** Where a box lies as seen from a region. */
export type Where = 'outside' | 'across' | 'inside'

/**
 * Boxes in space that come, move and go one at a time, found again by ray or by region without looping over all of
 * them.
 *
 * A binary tree of axis-aligned boxes. Each insertion goes where it enlarges the tree's surface least, and the way back
 * up lifts what grew lopsided and exchanges what lies better elsewhere (the dynamic bounding volume hierarchy of game
 * physics; Catto, GDC 2019; tree rotations after Kopta and others, 2012). Many that come before anything is asked are
 * put together at once, by where they lie on a curve through space (Lauterbach and others, 2009). All from memory.
 * Insert, move and remove take time in the depth of the tree. Nodes live in flat arrays; no allocation while querying.
 */
export class BoxTree {
  /** Six doubles a node: min x, y, z, max x, y, z. */
  private bounds = new Float64Array(6 * 64)
  private parent = new Int32Array(64)
  private left = new Int32Array(64)
  private right = new Int32Array(64)
  private height = new Int32Array(64)
  private root = NONE
  private free = NONE
  private used = 0
  private leaves = 0
  /** Leaves that are not in the tree yet: they are put there when something is asked, or by `settling`. */
  private waiting: number[] = []
  /** What is being put together; until it is done the tree is not whole. */
  private building: Iterator<void> | null = null
  private readonly stack: number[] = []
  /** Where a ray enters each box that lies on the stack. */
  private readonly nearness: number[] = []

  get size(): number {
    return this.leaves
  }

  /** Adds a box and returns the handle it is known by until it is removed. */
  insert(box: Box3): number {
    const leaf = this.allocate()
    this.setBounds(leaf, box)
    this.leaves++
    this.waiting.push(leaf)
    return leaf
  }

  /** Moves a box. */
  update(leaf: number, box: Box3): void {
    this.settle()
    this.unlink(leaf)
    this.setBounds(leaf, box)
    this.link(leaf)
  }

  remove(leaf: number): void {
    this.settle()
    this.unlink(leaf)
    this.release(leaf)
    this.leaves--
  }

  /**
   * Visits the boxes a ray passes through, roughly from near to far.
   *
   * @param visit gets a handle and the largest distance still of interest; returns the new largest distance
   * @param farthest in multiples of the ray's direction
   */
  raycast(ray: Ray, visit: (leaf: number, farthest: number) => number, farthest = Infinity): void {
    this.settle()
    if (this.root === NONE) return
    const { stack, nearness } = this
    const base = stack.length
    const inverse = { x: 1 / ray.direction.x, y: 1 / ray.direction.y, z: 1 / ray.direction.z }
    const { origin } = ray
    const atRoot = this.entry(this.root, origin, inverse, farthest)
    if (atRoot <= farthest) this.push(this.root, atRoot)
    while (stack.length > base) {
      const node = stack.pop()!
      if (!(nearness[stack.length]! <= farthest)) continue
      const a = this.left[node]!
      if (a === NONE) {
        farthest = visit(node, farthest)
        continue
      }
      const b = this.right[node]!
      const nearA = this.entry(a, origin, inverse, farthest)
      const nearB = this.entry(b, origin, inverse, farthest)
      // Those that are missed are NaN, which compares as not near enough; the nearer one comes off the stack first.
      if (nearB <= nearA) {
        this.push(a, nearA)
        this.push(b, nearB)
      } else {
        if (nearB <= farthest) this.push(b, nearB)
        if (nearA <= farthest) this.push(a, nearA)
      }
    }
  }

  /**
   * Visits the boxes of a region.
   *
   * @param where tells where a box (min x, y, z, max x, y, z) lies; below one that is wholly inside nothing is asked
   *   any more
   * @param visit gets a handle, and whether its box is wholly inside
   */
  query(
    where: (x0: number, y0: number, z0: number, x1: number, y1: number, z1: number) => Where,
    visit: (leaf: number, inside: boolean) => void,
  ): void {
    this.settle()
    if (this.root === NONE) return
    const { stack, bounds } = this
    const base = stack.length
    stack.push(this.root)
    while (stack.length > base) {
      const node = stack.pop()!
      const i = node * 6
      const answer = where(bounds[i]!, bounds[i + 1]!, bounds[i + 2]!, bounds[i + 3]!, bounds[i + 4]!, bounds[i + 5]!)
      if (answer === 'outside') continue
      if (answer === 'inside') this.visitAll(node, visit)
      else if (this.left[node] === NONE) visit(node, false)
      else stack.push(this.left[node]!, this.right[node]!)
    }
  }

  private visitAll(top: number, visit: (leaf: number, inside: boolean) => void): void {
    const { stack } = this
    const base = stack.length
    stack.push(top)
    while (stack.length > base) {
      const node = stack.pop()!
      if (this.left[node] === NONE) visit(node, true)
      else stack.push(this.left[node]!, this.right[node]!)
    }
  }

  /** The box around everything, or undefined when empty. */
  boundsOfAll(target: Box3): Box3 {
    this.settle()
    if (this.root === NONE) return target.makeEmpty()
    const i = this.root * 6
    target.min.fromArray(this.bounds as unknown as number[], i)
    target.max.fromArray(this.bounds as unknown as number[], i + 3)
    return target
  }

  /** Levels from the root to the deepest leaf; 0 when empty. */
  depth(): number {
    this.settle()
    return this.root === NONE ? 0 : this.height[this.root]! + 1
  }

  /**
   * Puts what has come since something was asked last into the tree, and gives way now and then. Whoever asks something
   * meanwhile has the rest of it done first.
   */
  *settling(): Generator<void> {
    while (this.building !== null || this.waiting.length > 0) {
      this.building ??= this.place()
      if (this.building.next().done) this.building = null
      else yield
    }
  }

  private settle(): void {
    if (this.building !== null || this.waiting.length > 0) for (const _ of this.settling());
  }

  /** A few go each to its place; many, as against those that are there, are put together with them anew. */
  private *place(): Generator<void> {
    const { waiting } = this
    this.waiting = []
    if (waiting.length * 4 < this.leaves) for (const leaf of waiting) this.link(leaf)
    else yield* this.build([...this.takeApart(), ...waiting])
  }

  /** Lets go of all joints. @returns the leaves that they held */
  private takeApart(): number[] {
    const found: number[] = []
    const nodes = this.root === NONE ? [] : [this.root]
    for (let node = nodes.pop(); node !== undefined; node = nodes.pop()) {
      if (this.left[node] === NONE) found.push(node)
      else {
        nodes.push(this.left[node]!, this.right[node]!)
        this.release(node)
      }
    }
    return found
  }

  /** Puts leaves together from below: two neighbours at a time, then two of these, and so on. */
  private *build(leaves: readonly number[]): Generator<void> {
    let nodes: ArrayLike<number> = alongCurve(this.bounds, leaves)
    yield
    while (nodes.length > 1) {
      const above = new Int32Array(Math.ceil(nodes.length / 2))
      for (let i = 0; i < above.length; i++) {
        const [a, b] = [nodes[2 * i]!, nodes[2 * i + 1]]
        above[i] = b === undefined ? a : this.join(a, b)
        if (i % SOME === SOME - 1) yield
      }
      nodes = above
    }
    this.root = nodes[0]!
    this.parent[this.root] = NONE
  }

  private join(a: number, b: number): number {
    const joint = this.allocate()
    this.left[joint] = a
    this.right[joint] = b
    this.parent[a] = joint
    this.parent[b] = joint
    this.refit(joint)
    this.exchange(joint)
    return joint
  }

  private push(node: number, near: number): void {
    this.nearness[this.stack.length] = near
    this.stack.push(node)
  }

  /** Distance along the ray to where it enters the box; NaN if it misses, which compares as not near enough. */
  private entry(
    node: number,
    { x: ox, y: oy, z: oz }: Readonly<{ x: number; y: number; z: number }>,
    { x: ix, y: iy, z: iz }: Readonly<{ x: number; y: number; z: number }>,
    farthest: number,
  ): number {
    const { bounds } = this
    const i = node * 6
    let near = 0
    let far = farthest
    // A ray along a side of a box would be 0 times infinity there: where it has no way along an axis, it is asked
    // whether it is between the two sides.
    if (ix === Infinity || ix === -Infinity) {
      if (ox < bounds[i]! || ox > bounds[i + 3]!) return NaN
    } else {
      const a = (bounds[i]! - ox) * ix
      const b = (bounds[i + 3]! - ox) * ix
      near = Math.max(near, Math.min(a, b))
      far = Math.min(far, Math.max(a, b))
    }
    if (iz === Infinity || iz === -Infinity) {
      if (oz < bounds[i + 2]! || oz > bounds[i + 5]!) return NaN
    } else {
      const a = (bounds[i + 2]! - oz) * iz
      const b = (bounds[i + 5]! - oz) * iz
      near = Math.max(near, Math.min(a, b))
      far = Math.min(far, Math.max(a, b))
    }
    if (iy === Infinity || iy === -Infinity) {
      if (oy < bounds[i + 1]! || oy > bounds[i + 4]!) return NaN
    } else {
      const a = (bounds[i + 1]! - oy) * iy
      const b = (bounds[i + 4]! - oy) * iy
      near = Math.max(near, Math.min(a, b))
      far = Math.min(far, Math.max(a, b))
    }
    return near > far ? NaN : near
  }

  private allocate(): number {
    let node = this.free
    if (node !== NONE) {
      this.free = this.parent[node]!
    } else {
      node = this.used++
      if (node === this.parent.length) this.grow()
    }
    this.parent[node] = NONE
    this.left[node] = NONE
    this.right[node] = NONE
    this.height[node] = 0
    return node
  }

  private release(node: number): void {
    this.parent[node] = this.free
    this.free = node
  }

  private grow(): void {
    const length = this.parent.length * 2
    const copy = <T extends Int32Array | Float64Array>(from: T, to: T): T => {
      to.set(from)
      return to
    }
    this.bounds = copy(this.bounds, new Float64Array(length * 6))
    this.parent = copy(this.parent, new Int32Array(length))
    this.left = copy(this.left, new Int32Array(length))
    this.right = copy(this.right, new Int32Array(length))
    this.height = copy(this.height, new Int32Array(length))
  }

  private setBounds(node: number, { min, max }: Box3): void {
    this.bounds.set([min.x, min.y, min.z, max.x, max.y, max.z], node * 6)
  }

  private link(leaf: number): void {
    if (this.root === NONE) {
      this.root = leaf
      this.parent[leaf] = NONE
      return
    }
    const sibling = this.bestSibling(leaf)
    const above = this.parent[sibling]!
    const joint = this.allocate()
    this.parent[joint] = above
    this.left[joint] = sibling
    this.right[joint] = leaf
    this.parent[sibling] = joint
    this.parent[leaf] = joint
    if (above === NONE) this.root = joint
    else this.replaceChild(above, sibling, joint)
    this.refitUpwards(joint)
  }

  private unlink(leaf: number): void {
    const joint = this.parent[leaf]!
    if (joint === NONE) {
      this.root = NONE
      return
    }
    const sibling = this.left[joint] === leaf ? this.right[joint]! : this.left[joint]!
    const above = this.parent[joint]!
    this.parent[sibling] = above
    if (above === NONE) this.root = sibling
    else this.replaceChild(above, joint, sibling)
    this.release(joint)
    if (above !== NONE) this.refitUpwards(above)
  }

  private replaceChild(node: number, before: number, after: number): void {
    if (this.left[node] === before) this.left[node] = after
    else this.right[node] = after
  }

  /** Goes down to where a new joint costs least surface: here, or further into the child that grows less. */
  private bestSibling(leaf: number): number {
    let node = this.root
    while (this.left[node] !== NONE) {
      const area = this.area(node)
      const joined = this.joinedArea(node, leaf)
      const here = 2 * joined
      const inherited = 2 * (joined - area)
      const left = this.descentCost(this.left[node]!, leaf) + inherited
      const right = this.descentCost(this.right[node]!, leaf) + inherited
      if (here < left && here < right) break
      node = left < right ? this.left[node]! : this.right[node]!
    }
    return node
  }

  private descentCost(node: number, leaf: number): number {
    const joined = this.joinedArea(node, leaf)
    return this.left[node] === NONE ? joined : joined - this.area(node)
  }

  private refitUpwards(from: number): void {
    for (let node = from; node !== NONE; node = this.parent[node]!) {
      node = this.balance(node)
      this.refit(node)
      this.exchange(node)
    }
  }

  /**
   * Exchanges a child with one of the other side's, where that makes the box below smaller: what was put together in
   * the order it came is put together by where it is.
   */
  private exchange(node: number): void {
    let [gain, child, grandchild] = [0, NONE, NONE]
    for (let side = 0; side < 2; side++) {
      const one = (side === 0 ? this.left : this.right)[node]!
      const other = (side === 0 ? this.right : this.left)[node]!
      const first = this.left[other]!
      if (first === NONE) continue
      const second = this.right[other]!
      const now = this.area(other)
      const withoutFirst = this.joinedArea(one, second) - now
      if (withoutFirst < gain) [gain, child, grandchild] = [withoutFirst, one, first]
      const withoutSecond = this.joinedArea(one, first) - now
      if (withoutSecond < gain) [gain, child, grandchild] = [withoutSecond, one, second]
    }
    if (child === NONE) return
    const below = this.parent[grandchild]!
    this.replaceChild(node, child, grandchild)
    this.replaceChild(below, grandchild, child)
    this.parent[grandchild] = node
    this.parent[child] = below
    this.refit(below)
    this.refit(node)
  }

  private refit(node: number): void {
    const { bounds } = this
    const a = this.left[node]! * 6
    const b = this.right[node]! * 6
    const i = node * 6
    for (let k = 0; k < 3; k++) {
      bounds[i + k] = Math.min(bounds[a + k]!, bounds[b + k]!)
      bounds[i + k + 3] = Math.max(bounds[a + k + 3]!, bounds[b + k + 3]!)
    }
    this.height[node] = 1 + Math.max(this.height[this.left[node]!]!, this.height[this.right[node]!]!)
  }

  /** Lifts the taller grandchild when one side is much deeper; returns the node now on top. */
  private balance(node: number): number {
    const a = this.left[node]!
    const b = this.right[node]!
    const lean = this.height[b]! - this.height[a]!
    if (lean > LEAN) return this.lift(node, b)
    if (lean < -LEAN) return this.lift(node, a)
    return node
  }

  private lift(node: number, child: number): number {
    const above = this.parent[node]!
    const first = this.left[child]!
    const second = this.right[child]!
    const [stays, moves] = this.height[first]! > this.height[second]! ? [first, second] : [second, first]
    this.left[child] = node
    this.right[child] = stays
    this.parent[child] = above
    this.parent[node] = child
    if (above === NONE) this.root = child
    else this.replaceChild(above, node, child)
    this.replaceChild(node, child, moves)
    this.parent[moves] = node
    this.refit(node)
    this.refit(child)
    return child
  }

  private area(node: number): number {
    const { bounds } = this
    const i = node * 6
    return halfArea(bounds[i + 3]! - bounds[i]!, bounds[i + 4]! - bounds[i + 1]!, bounds[i + 5]! - bounds[i + 2]!)
  }

  private joinedArea(node: number, other: number): number {
    const { bounds } = this
    const i = node * 6
    const j = other * 6
    return halfArea(
      Math.max(bounds[i + 3]!, bounds[j + 3]!) - Math.min(bounds[i]!, bounds[j]!),
      Math.max(bounds[i + 4]!, bounds[j + 4]!) - Math.min(bounds[i + 1]!, bounds[j + 1]!),
      Math.max(bounds[i + 5]!, bounds[j + 5]!) - Math.min(bounds[i + 2]!, bounds[j + 2]!),
    )
  }
}

function halfArea(x: number, y: number, z: number): number {
  return x * y + y * z + z * x
}
