import { Box3, Matrix4, Ray, Vector3 } from 'three'
import { copyId, copyOf } from '../arrange/copy'
import { CopyPlaces } from '../arrange/count'
import { arrangedOf, expand } from '../arrange/expand'
import type { LevelDocument } from '../level/document'
import type { Vec3 } from '../level/schema'
import { BoxTree } from './box-tree'
import type { Frame, FrameRule, PlaneEquation } from './frame'
import { boxAgainstPlanes, framePlanes, solidInFrame } from './frame'
import type { Solid } from './solid'

/** Something shown: a placement with a mesh, or one copy of an arrangement, with its id. Treat its matrix as read-only. */
export type Shown = { id: string, copy?: string, solid: Solid, readonly matrix: Matrix4 }

/** Copies of an arrangement beyond this number are drawn, but not found. */
const MOST_INDEXED = 50_000

/** How far above a path the ground is looked for, in metres. */
const GROUND_ABOVE = 10
const DOWN = new Vector3(0, -1, 0)

/** `copy` is the id of the copy that was hit, if it is one of an arrangement. */
export type LevelHit = { id: string, copy?: string, point: Vector3, normal: Vector3, distance: number }

/**
 * Finds what is where in a level: one tree over the placements' boxes, one BVH per mesh.
 * Call `update` with what a change touched; nothing here ever loops over the whole level after the start.
 */
export class LevelIndex {
  private readonly tree = new BoxTree()
  private readonly leaves = new Map<string, number[]>()
  private readonly shown = new Map<number, Shown>()
  private readonly box = new Box3()

  /**
   * @param solidOf the mesh a shape names; undefined while it is not there
   * @param isGround what copies that hug the ground stand on
   */
  constructor(private readonly document: LevelDocument, private readonly solidOf: (shape: string) => Solid | undefined, isGround: (id: string) => boolean = () => false) {
    for (const { id } of document.placements()) if (!document.arrangementIds.has(id)) this.place(id)
    // An arrangement is never ground for another, or it might be for itself.
    document.ground = point => this.raycast(new Ray(point.clone().setY(point.y + GROUND_ABOVE), DOWN), id => !document.arrangementIds.has(id) && isGround(id))
    for (const id of document.arrangementIds) this.place(id)
  }

  /** Brings the index up to date for some placements and everything below them. */
  update(touched: Iterable<string>): void {
    for (const id of touched) {
      // What was touched may be a layer or a station, which is nowhere.
      if (!this.document.has(id)) this.drop(id)
      else for (const below of this.document.subtree(id)) this.place(below)
    }
  }

  /**
   * The nearest thing on a ray of unit direction.
   *
   * @param accept leaves out what it answers false for
   */
  raycast(ray: Ray, accept: (id: string) => boolean = () => true): LevelHit | null {
    let best: LevelHit | null = null
    this.tree.raycast(ray, (leaf, farthest) => {
      const { id, copy, solid, matrix } = this.shown.get(leaf)!
      if (!accept(id)) return farthest
      const hit = solid.raycast(ray, matrix)
      if (!hit || hit.distance >= farthest) return farthest
      best = { id, copy, ...hit }
      return hit.distance
    })
    return best
  }

  /**
   * Every thing on a ray of unit direction, each where the ray first meets it, the nearest first.
   *
   * @param accept leaves out what it answers false for
   */
  raycastAll(ray: Ray, accept: (id: string) => boolean = () => true): LevelHit[] {
    const hits = new Map<string, LevelHit>()
    this.tree.raycast(ray, (leaf, farthest) => {
      const { id, copy, solid, matrix } = this.shown.get(leaf)!
      const hit = accept(id) ? solid.raycast(ray, matrix) : null
      const key = copy ?? id
      if (hit && hit.distance < (hits.get(key)?.distance ?? Infinity)) hits.set(key, { id, copy, ...hit })
      return farthest
    })
    return [...hits.values()].sort((a, b) => a.distance - b.distance || (a.id < b.id ? -1 : 1))
  }

  /**
   * The things a frame on the screen takes, by their real outlines.
   *
   * @param frame in the picture's own coordinates
   * @param rule `touch`: what reaches into the frame anywhere; `inside`: only what is wholly in it
   * @param accept leaves out what it answers false for
   */
  pickInFrame(projection: Matrix4, frame: Frame, rule: FrameRule, accept: (id: string) => boolean = () => true): string[] {
    const taken = new Map<string, number>()
    const planes = framePlanes(projection, frame)
    const local = new Matrix4()
    this.tree.query((...box) => boxAgainstPlanes(planes, box), (leaf, inside) => {
      const { id, solid, matrix } = this.shown.get(leaf)!
      if (!accept(id)) return
      if (!inside) local.multiplyMatrices(projection, matrix)
      if (inside || solidInFrame(solid, framePlanes(local, frame), rule)) taken.set(id, (taken.get(id) ?? 0) + 1)
    })
    // An arrangement is wholly inside only with all of its copies.
    return [...taken].filter(([id, count]) => rule === 'touch' || count === this.leaves.get(id)!.length).map(([id]) => id)
  }

  /** The box around everything that shows something, in the world; empty if nothing does. */
  bounds(target = new Box3()): Box3 {
    return this.tree.boundsOfAll(target)
  }

  /** The box around some placements, in the world; empty if none of them shows something. */
  boundsOf(ids: Iterable<string>, target = new Box3()): Box3 {
    target.makeEmpty()
    for (const id of ids) for (const { solid, matrix } of this.shownBy(id)) target.union(this.box.copy(solid.bounds).applyMatrix4(matrix))
    return target
  }

  /** Width, height and depth of the box around some placements and all below them, along the world's axes; null if they show nothing. */
  sizeOf(ids: Iterable<string>): Vec3 | null {
    const box = this.boundsOf([...ids].flatMap(id => this.document.subtree(id)), new Box3())
    return box.isEmpty() ? null : box.getSize(new Vector3()).toArray()
  }

  /**
   * Width, height and depth in the thing's own axes, as large as it is in the world, together with what hangs below it; null if
   * it shows nothing.
   */
  localSizeOf(id: string): Vec3 | null {
    const box = this.ownBox(id)
    if (box.isEmpty()) return null
    const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
    this.document.worldMatrix(id).extractBasis(x, y, z)
    return box.getSize(new Vector3()).multiply(new Vector3(x.length(), y.length(), z.length())).toArray()
  }

  /** The box around a thing and all below it, in the thing's own axes; empty if they show nothing. */
  ownBox(id: string): Box3 {
    const toOwn = this.document.worldMatrix(id).clone().invert()
    const [box, part, matrix] = [new Box3(), new Box3(), new Matrix4()]
    for (const below of this.document.subtree(id)) {
      for (const { solid, matrix: world } of this.shownBy(below)) {
        if (below === id && world === this.document.worldMatrix(id)) box.union(solid.bounds)
        else box.union(part.copy(solid.bounds).applyMatrix4(matrix.multiplyMatrices(toOwn, world)))
      }
    }
    return box
  }

  /** The box around the shapes of a placement and all below it, also of a source, in the axes that `toAxes` leads to from the world. */
  boxIn(id: string, toAxes: Matrix4): Box3 {
    const [box, part, matrix] = [new Box3(), new Box3(), new Matrix4()]
    for (const below of this.document.subtree(id)) {
      const shape = this.document.shapeOf(below)
      const solid = shape === null ? undefined : this.solidOf(shape)
      if (solid) box.union(part.copy(solid.bounds).applyMatrix4(matrix.multiplyMatrices(toAxes, this.document.worldMatrix(below))))
    }
    return box
  }

  /**
   * How far some placements reach in a direction of the world, by their real points, and where they do.
   * @param direction of unit length
   * @returns `reach` in metres from the world's origin; null if they show nothing
   */
  extreme(ids: Iterable<string>, direction: Vector3): { reach: number, middle: Vector3 } | null {
    let best: { reach: number, middle: Vector3 } | null = null
    const local = new Vector3()
    const { x, y, z } = direction
    for (const id of ids) {
      for (const { solid, matrix } of this.shownBy(id)) {
        const e = matrix.elements
        local.set(e[0]! * x + e[1]! * y + e[2]! * z, e[4]! * x + e[5]! * y + e[6]! * z, e[8]! * x + e[9]! * y + e[10]! * z)
        const found = solid.extreme(local)
        const reach = found.reach + e[12]! * x + e[13]! * y + e[14]! * z
        if (!best || reach > best.reach) best = { reach, middle: found.middle.applyMatrix4(matrix) }
      }
    }
    return best
  }

  /** The things whose boxes reach into a box of the world. */
  near(box: Box3, visit: (shown: Shown) => void): void {
    const { min, max } = box
    this.tree.query((x0, y0, z0, x1, y1, z1) => {
      if (x0 > max.x || x1 < min.x || y0 > max.y || y1 < min.y || z0 > max.z || z1 < min.z) return 'outside'
      return x0 >= min.x && x1 <= max.x && y0 >= min.y && y1 <= max.y && z0 >= min.z && z1 <= max.z ? 'inside' : 'across'
    }, leaf => visit(this.shown.get(leaf)!))
  }

  /** The things whose boxes are not wholly outside of the planes, with what is asked of their triangles left to the caller. */
  across(planes: readonly PlaneEquation[], visit: (shown: Shown) => void): void {
    this.tree.query((...box) => boxAgainstPlanes(planes, box), leaf => visit(this.shown.get(leaf)!))
  }

  /** What a placement shows by itself: its mesh, or its copies if it is an arrangement. A source shows nothing; its copies do. */
  shownBy(id: string): readonly Shown[] {
    if (this.document.arrangementIds.size > 0) {
      const copy = copyOf(id)
      if (copy) return this.placed(copy.arrangementId).filter(shown => shown.copy === id)
      if (this.document.isSource(id)) return []
      if (this.document.arrangementIds.has(id)) return this.copiesShownBy(id)
    }
    const shape = this.document.shapeOf(id)
    const solid = shape === null ? undefined : this.solidOf(shape)
    const { document } = this
    return solid ? [{ id, solid, get matrix() { return document.worldMatrix(id) } }] : []
  }

  /** The corners of the boxes of some placements, each along its own axes, in the world. */
  cornersOf(ids: Iterable<string>): Vector3[] {
    const corners: Vector3[] = []
    for (const id of ids) for (const shown of this.shownBy(id)) corners.push(...cornersOf(shown))
    return corners
  }

  private copiesShownBy(id: string): Shown[] {
    const own = this.document.worldMatrix(id)
    const found: Shown[] = []
    const { rule } = arrangedOf(this.document, id).own
    const places = rule.rule === 'mirror' ? null : new CopyPlaces(rule)
    for (const { shape, matrices, indices } of expand(this.document, id)) {
      const solid = this.solidOf(shape)
      if (!solid) continue
      for (let i = 0; i < indices.length && found.length < MOST_INDEXED; i++) {
        const copy = places ? copyId(id, places.keyAt(indices[i]!)) : undefined
        found.push({ id, copy, solid, matrix: new Matrix4().fromArray(matrices, i * 16).premultiply(own) })
      }
    }
    return found
  }

  /** What of a placement is in the tree. */
  private placed(id: string): Shown[] {
    return (this.leaves.get(id) ?? []).map(leaf => this.shown.get(leaf)!)
  }

  private place(id: string): void {
    const shown = this.document.isHidden(id) ? [] : this.shownBy(id)
    const leaves = this.leaves.get(id) ?? []
    if (shown.length !== leaves.length) this.drop(id)
    if (shown.length === 0) return
    if (shown.length !== leaves.length) this.leaves.set(id, shown.map(each => this.tree.insert(this.boxOf(each))))
    else leaves.forEach((leaf, i) => this.tree.update(leaf, this.boxOf(shown[i]!)))
    this.leaves.get(id)!.forEach((leaf, i) => this.shown.set(leaf, shown[i]!))
  }

  private boxOf({ solid, matrix }: Shown): Box3 {
    return this.box.copy(solid.bounds).applyMatrix4(matrix)
  }

  private drop(id: string): void {
    for (const leaf of this.leaves.get(id) ?? []) {
      this.tree.remove(leaf)
      this.shown.delete(leaf)
    }
    this.leaves.delete(id)
  }
}

/** The corners of the box of something shown, along its own axes, in the world. */
export function cornersOf({ solid, matrix }: Shown): Vector3[] {
  return boxCorners(solid.bounds).map(corner => corner.applyMatrix4(matrix))
}

/** The eight corners of a box. */
export function boxCorners({ min, max }: Box3): Vector3[] {
  return [min.x, max.x].flatMap(x => [min.y, max.y].flatMap(y => [min.z, max.z].map(z => new Vector3(x, y, z))))
}
