import { Box3, Matrix4, Vector3 } from 'three'
import { clipped, polygonArea } from './faces-together'
import { Placed, pairsOfLeaves } from './placed'
import type { Solid } from './solid'
import { trianglesCross } from './triangles'

/**
 * How far a mesh has to be moved, and which way, so that it no longer overlaps another. `depth` in metres, `way` of
 * unit length.
 */
export type Overlap = { depth: number; way: Vector3 }

/**
 * Shapes that overlap by less only touch, in metres: single precision leaves as much between two faces of one height.
 */
export const TOUCHING = 1e-5
/** By so much less it is looked whether an overlap is worth calling one, in metres. */
const SHALLOW = 1e-3
/** Metres by which another way has to be shorter to be looked for. */
const WORTHWHILE = 1e-4
/** How often the place where it clears is halved before faces are looked at, and of these the most that are tried. */
const [HALVINGS, MOST_TRIED] = [7, 24]

/**
 * How deep two placed meshes overlap: the least way, along one of the axes of the two, by which the first would have to
 * be moved so that they do not. Of boxes that stand along the same axes that is the least translation that parts them
 * (the separating axes of Gottschalk, Lin and Manocha 1996, without the products of edges).
 *
 * @param enough no depth below this is of interest; then null is answered
 * @returns null if they do not overlap, or only touch
 */
export function overlapOf(a: Placed, b: Placed, enough = TOUCHING): Overlap | null {
  const [boxA, boxB] = [a.bounds(), b.bounds()]
  const common = boxA.clone().intersect(boxB)
  if (common.isEmpty() || Math.min(...common.getSize(new Vector3()).toArray()) <= enough) return null
  if (!overlapsAt(a, b, NOWHERE)) return null
  // What is clear a hair's breadth away, whichever way, only touches.
  if (!overlapsAt(a, b, NOWHERE, SHALLOW) && waysOut(a, b).some(way => !overlapsAt(a, b, way.multiplyScalar(TOUCHING))))
    return null
  const ways = waysOut(a, b)
    .map(way => ({ way, depth: reach(b, way) - -reach(a, way.clone().negate()) }))
    .sort((one, other) => one.depth - other.depth)
  // Along which extents part the two, they are parted.
  let [best] = ways
  if (best!.depth <= enough) return null
  for (const { way } of ways) {
    const depth = firstClear(a, b, way, best!.depth)
    if (depth !== null && depth < best!.depth) best = { way, depth }
  }
  return best!.depth <= enough ? null : best!
}

/** Whether a point lies within a closed mesh: a ray to either side goes through its surface an odd number of times. */
export function isInside({ x, y, z }: Vector3, of: Placed): boolean {
  const box = of.box(0)
  if (
    x < of.boxes[box]!
    || x > of.boxes[box + 3]!
    || y < of.boxes[box + 1]!
    || y > of.boxes[box + 4]!
    || z < of.boxes[box + 2]!
    || z > of.boxes[box + 5]!
  )
    return false
  return crossings(x, y, z, 1, of) % 2 === 1 && crossings(x, y, z, -1, of) % 2 === 1
}

const NOWHERE = new Vector3()
/** A direction that no edge or face of anything made by people runs along. */
const [RX, RY, RZ] = [0.5773138, 0.5893127, 0.5651709]

function crossings(x: number, y: number, z: number, sign: number, of: Placed): number {
  const [dx, dy, dz] = [RX * sign, RY * sign, RZ * sign]
  const stack = [0]
  let count = 0
  while (stack.length > 0) {
    const node = stack.pop()!
    const box = of.box(node)
    let [near, far] = [0, Infinity]
    for (let axis = 0; axis < 3; axis++) {
      const [o, d] = axis === 0 ? [x, dx] : axis === 1 ? [y, dy] : [z, dz]
      const [one, two] = [(of.boxes[box + axis]! - o) / d, (of.boxes[box + axis + 3]! - o) / d]
      near = Math.max(near, Math.min(one, two))
      far = Math.min(far, Math.max(one, two))
    }
    if (near > far) continue
    if (of.tree.left[node]! >= 0) {
      stack.push(of.tree.left[node]!, of.tree.right[node]!)
      continue
    }
    of.leaf(node)
    for (let k = of.tree.first[node]!; k < of.tree.first[node]! + of.tree.count[node]!; k++)
      if (isCrossed(of.corners, k * 9, x, y, z, dx, dy, dz)) count++
  }
  return count
}

/** Möller and Trumbore 1997. */
function isCrossed(
  t: Float64Array,
  i: number,
  x: number,
  y: number,
  z: number,
  dx: number,
  dy: number,
  dz: number,
): boolean {
  const ux = t[i + 3]! - t[i]!,
    uy = t[i + 4]! - t[i + 1]!,
    uz = t[i + 5]! - t[i + 2]!
  const vx = t[i + 6]! - t[i]!,
    vy = t[i + 7]! - t[i + 1]!,
    vz = t[i + 8]! - t[i + 2]!
  const hx = dy * vz - dz * vy,
    hy = dz * vx - dx * vz,
    hz = dx * vy - dy * vx
  const across = ux * hx + uy * hy + uz * hz
  if (across === 0) return false
  const sx = x - t[i]!,
    sy = y - t[i + 1]!,
    sz = z - t[i + 2]!
  const u = (sx * hx + sy * hy + sz * hz) / across
  if (u < 0 || u > 1) return false
  const kx = sy * uz - sz * uy,
    ky = sz * ux - sx * uz,
    kz = sx * uy - sy * ux
  const v = (dx * kx + dy * ky + dz * kz) / across
  return v >= 0 && u + v <= 1 && (vx * kx + vy * ky + vz * kz) / across > 0
}

/**
 * Whether the first, moved by so much, and the second take the same space. The smaller of the two is taken smaller
 * still, all around, so that faces that lie on each other do not decide.
 */
function overlapsAt(a: Placed, b: Placed, move: Vector3, inset = TOUCHING): boolean {
  const volume = (of: Placed) => of.bounds(scratchBox).getSize(scratchSize).x * scratchSize.y * scratchSize.z
  const isFirst = volume(a) <= volume(b)
  // That the first is moved is as if the second were, the other way.
  const smaller = isFirst ? shrunk(a, inset, move) : shrunk(b, inset, move.clone().negate())
  const other = isFirst ? b : a
  let crosses = false
  pairsOfLeaves(
    smaller,
    other,
    () => (crosses ? -1 : 0),
    (leafA, leafB) => {
      const [cornersA, cornersB] = [smaller.corners, other.corners]
      const [firstA, firstB] = [smaller.tree.first[leafA]!, other.tree.first[leafB]!]
      const [endA, endB] = [firstA + smaller.tree.count[leafA]!, firstB + other.tree.count[leafB]!]
      const box = other.box(leafB)
      for (let k = firstA; k < endA && !crosses; k++) {
        if (isOutside(cornersA, k * 9, other.boxes, box)) continue
        for (let l = firstB; l < endB && !crosses; l++) crosses = trianglesCross(cornersA, k * 9, cornersB, l * 9)
      }
    },
  )
  return crosses || isInside(cornerOf(smaller), other) || isInside(cornerOf(other), smaller)
}

/** Whether a triangle is outside of a box, of six numbers, along one of its axes. */
function isOutside(t: Float64Array, i: number, boxes: Float64Array, at: number): boolean {
  for (let axis = 0; axis < 3; axis++) {
    const [one, two, three] = [t[i + axis]!, t[i + 3 + axis]!, t[i + 6 + axis]!]
    const [least, most] = [boxes[at + axis]!, boxes[at + 3 + axis]!]
    if ((one < least && two < least && three < least) || (one > most && two > most && three > most)) return true
  }
  return false
}

/** By mesh, room for one of them that is tried in many places. */
const tried = new WeakMap<Solid, Placed>()

/** A mesh moved, and smaller all around by so much where it has room for that; until the next of the same mesh. */
function shrunk(of: Placed, inset: number, move: Vector3): Placed {
  const box = of.bounds(scratchBox)
  const [middle, size] = [box.getCenter(new Vector3()), box.getSize(new Vector3())]
  const less = size.toArray().map(side => (side > 4 * inset ? 1 - (2 * inset) / side : 1)) as [number, number, number]
  const matrix = new Matrix4()
    .makeTranslation(middle.x + move.x, middle.y + move.y, middle.z + move.z)
    .scale(new Vector3(...less))
    .multiply(new Matrix4().makeTranslation(-middle.x, -middle.y, -middle.z))
    .multiply(of.matrix)
  const known = tried.get(of.solid)
  if (known) return known.moveTo(matrix)
  const placed = new Placed(of.solid, matrix)
  tried.set(of.solid, placed)
  return placed
}

/** Some corner of a mesh. */
function cornerOf(of: Placed): Vector3 {
  return new Vector3().fromArray(of.tree.corners, 0).applyMatrix4(of.matrix)
}

/** How far a placed mesh would fall, straight down, until it lies on another; null if it does not meet it. */
export function dropOnto(a: Placed, b: Placed): number | null {
  const [seenA, seenB] = seenAlong(new Vector3(0, -1, 0), a, b)
  let least: number | null = null
  const [facesA, facesB] = [facing(seenA, 1, a.matrix.determinant() < 0), facing(seenB, -1, b.matrix.determinant() < 0)]
  columns(seenA, seenB, -TOUCHING, Infinity, (k, l) => {
    if (!facesA(k) || !facesB(l)) return
    const way = -pastEachOther(seenB.corners, l * 9, seenA.corners, k * 9)
    if (way >= -TOUCHING && way < (least ?? Infinity)) least = Math.max(0, way)
  })
  return least
}

/** Two meshes in axes whose z runs along a direction. */
function seenAlong(way: Vector3, a: Placed, b: Placed): [Placed, Placed] {
  const aside = new Vector3(Math.abs(way.x) < 0.9 ? 1 : 0, Math.abs(way.x) < 0.9 ? 0 : 1, 0)
  const across = new Vector3().crossVectors(way, aside).normalize()
  const toWay = new Matrix4().makeBasis(across, new Vector3().crossVectors(way, across), way).invert()
  return [new Placed(a.solid, toWay.clone().multiply(a.matrix)), new Placed(b.solid, toWay.clone().multiply(b.matrix))]
}

/** The directions along which it is tried to part two meshes: both ways along the axes of each. */
function waysOut(a: Placed, b: Placed): Vector3[] {
  const ways: Vector3[] = []
  for (const matrix of [a.matrix, b.matrix]) {
    for (let axis = 0; axis < 3; axis++) {
      const way = new Vector3().setFromMatrixColumn(matrix, axis).normalize()
      if (way.lengthSq() < 0.5 || ways.some(other => Math.abs(other.dot(way)) > 1 - 1e-9)) continue
      ways.push(way, way.clone().negate())
    }
  }
  return ways
}

/** How far a placed mesh reaches in a direction, from the world's origin. */
function reach({ solid, matrix }: Placed, { x, y, z }: Vector3): number {
  const e = matrix.elements
  const local = new Vector3(
    e[0]! * x + e[1]! * y + e[2]! * z,
    e[4]! * x + e[5]! * y + e[6]! * z,
    e[8]! * x + e[9]! * y + e[10]! * z,
  )
  return solid.extreme(local).reach + e[12]! * x + e[13]! * y + e[14]! * z
}

/**
 * The least move along a direction after which the first does not overlap the second: halved down to where it lies, and
 * there one that brings a face of the first that looks back just past one of the second that looks ahead.
 *
 * @param most no larger one is of interest
 * @returns null if there is none below `most`
 */
function firstClear(a: Placed, b: Placed, way: Vector3, most: number): number | null {
  const isClear = (move: number) => !overlapsAt(a, b, way.clone().multiplyScalar(move + TOUCHING))
  let [low, high] = [0, most - WORTHWHILE]
  if (high <= 0 || !isClear(high)) return null
  for (let round = 0; round < HALVINGS; round++) {
    const middle = (low + high) / 2
    if (isClear(middle)) high = middle
    else low = middle
  }
  return (
    movesPast(a, b, way, low - TOUCHING, high + TOUCHING)
      .slice(0, MOST_TRIED)
      .find(isClear) ?? high
  )
}

/** The moves between two that bring a face of the first past one of the second, the least first, each once. */
function movesPast(a: Placed, b: Placed, way: Vector3, least: number, most: number): number[] {
  const [seenA, seenB] = seenAlong(way, a, b)
  const found = new Set<number>()
  const [facesA, facesB] = [facing(seenA, -1, a.matrix.determinant() < 0), facing(seenB, 1, b.matrix.determinant() < 0)]
  columns(seenA, seenB, least, most, (k, l) => {
    if (!facesA(k) || !facesB(l)) return
    const past = pastEachOther(seenA.corners, k * 9, seenB.corners, l * 9)
    if (past > least && past < most) found.add(Math.round(past * 1e7) / 1e7)
  })
  return [...found].sort((one, other) => one - other)
}

/** Whether a triangle looks along z, or against it; those seen from their edge do neither. */
function facing(of: Placed, sign: number, isMirrored: boolean): (triangle: number) => boolean {
  const wound = isMirrored ? -sign : sign
  return triangle => {
    const [c, i] = [of.corners, triangle * 9]
    const [ux, uy, vx, vy] = [c[i + 3]! - c[i]!, c[i + 4]! - c[i + 1]!, c[i + 6]! - c[i]!, c[i + 7]! - c[i + 1]!]
    const area = ux * vy - uy * vx
    return area * wound > 1e-12
  }
}

/**
 * Pairs of triangles that may lie over each other along z, the second between `least` and `most` ahead of where the
 * first is.
 */
function columns(a: Placed, b: Placed, least: number, most: number, visit: (k: number, l: number) => void): void {
  const stack = [0, 0]
  while (stack.length > 0) {
    const nodeB = stack.pop()!
    const nodeA = stack.pop()!
    const [i, j] = [a.box(nodeA), b.box(nodeB)]
    if (
      a.boxes[i]! >= b.boxes[j + 3]!
      || b.boxes[j]! >= a.boxes[i + 3]!
      || a.boxes[i + 1]! >= b.boxes[j + 4]!
      || b.boxes[j + 1]! >= a.boxes[i + 4]!
    )
      continue
    if (b.boxes[j + 5]! - a.boxes[i + 2]! <= least || b.boxes[j + 2]! - a.boxes[i + 5]! > most) continue
    const [isLeafA, isLeafB] = [a.tree.left[nodeA]! < 0, b.tree.left[nodeB]! < 0]
    if (isLeafA && isLeafB) {
      a.leaf(nodeA)
      b.leaf(nodeB)
      for (let k = a.tree.first[nodeA]!; k < a.tree.first[nodeA]! + a.tree.count[nodeA]!; k++) {
        for (let l = b.tree.first[nodeB]!; l < b.tree.first[nodeB]! + b.tree.count[nodeB]!; l++) visit(k, l)
      }
    } else if (!isLeafA && (isLeafB || a.tree.left.length > b.tree.left.length))
      stack.push(a.tree.left[nodeA]!, nodeB, a.tree.right[nodeA]!, nodeB)
    else stack.push(nodeA, b.tree.left[nodeB]!, nodeA, b.tree.right[nodeB]!)
  }
}

/**
 * How far the first of two triangles has to go along z to be past the second wherever one is over the other; -Infinity
 * if nowhere.
 */
function pastEachOther(a: Float64Array, i: number, b: Float64Array, j: number): number {
  const polygon = clipped(
    [
      [a[i]!, a[i + 1]!],
      [a[i + 3]!, a[i + 4]!],
      [a[i + 6]!, a[i + 7]!],
    ],
    [
      [b[j]!, b[j + 1]!],
      [b[j + 3]!, b[j + 4]!],
      [b[j + 6]!, b[j + 7]!],
    ],
  )
  if (polygonArea(polygon) < 1e-10) return -Infinity
  let most = -Infinity
  for (const [x, y] of polygon) most = Math.max(most, heightAt(b, j, x, y) - heightAt(a, i, x, y))
  return most
}

function heightAt(t: Float64Array, i: number, x: number, y: number): number {
  const ux = t[i + 3]! - t[i]!,
    uy = t[i + 4]! - t[i + 1]!,
    vx = t[i + 6]! - t[i]!,
    vy = t[i + 7]! - t[i + 1]!
  const whole = ux * vy - uy * vx
  const [px, py] = [x - t[i]!, y - t[i + 1]!]
  const [u, v] = [(px * vy - py * vx) / whole, (ux * py - uy * px) / whole]
  return t[i + 2]! + u * (t[i + 5]! - t[i + 2]!) + v * (t[i + 8]! - t[i + 2]!)
}

const scratchBox = new Box3()
const scratchSize = new Vector3()
