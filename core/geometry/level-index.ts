import { Box3, Matrix4, Ray, Vector3 } from 'three'
import { copyId, copyOf } from '../arrange/copy'
import { CopyPlaces } from '../arrange/count'
import { arrangedOf, expand } from '../arrange/expand'
import type { LevelDocument } from '../level/document'
import type { Vec3 } from '../level/schema'
import { BoxTree } from './box-tree'
import { CopyRun, CopySet } from './copy-run'
import type { Frame, FrameRule, PlaneEquation } from './frame'
import { boxAgainstPlanes, framePlanes, sidesOf, solidInFrame } from './frame'
import type { Solid } from './solid'

/** Something shown: a placement with a mesh, or one copy of an arrangement, with its id. Treat its matrix as read-only. */
export type Shown = { id: string, copy?: string, solid: Solid, readonly matrix: Matrix4 }

/** Of an arrangement with more copies than this, so many neighbours are in the tree as one. */
const MANY_COPIES = 4096
const RUN = 64

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
  private readonly shown = new Map<number, Shown | CopyRun>()
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
      const entry = this.shown.get(leaf)!
      if (!accept(entry.id)) return farthest
      let nearest = farthest
      for (const { id, copy, solid, matrix } of onRay(entry, ray)) {
        const hit = solid.raycast(ray, matrix)
        if (!hit || hit.distance >= nearest) continue
        best = { id, copy, ...hit }
        nearest = hit.distance
      }
      return nearest
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
      const entry = this.shown.get(leaf)!
      if (!accept(entry.id)) return farthest
      for (const { id, copy, solid, matrix } of onRay(entry, ray)) {
        const hit = solid.raycast(ray, matrix)
        const key = copy ?? id
        if (hit && hit.distance < (hits.get(key)?.distance ?? Infinity)) hits.set(key, { id, copy, ...hit })
      }
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
      const entry = this.shown.get(leaf)!
      if (!accept(entry.id)) return
      const isTaken = ({ solid, matrix }: Shown) => solidInFrame(solid, framePlanes(local.multiplyMatrices(projection, matrix), frame), rule)
      let count = 0
      if (inside) count = countIn(entry)
      else for (const shown of within(entry, reachesInto(planes))) if (isTaken(shown)) count++
      if (count > 0) taken.set(entry.id, (taken.get(entry.id) ?? 0) + count)
    })
    // An arrangement is wholly inside only with all of its copies.
    return [...taken].filter(([id, count]) => rule === 'touch' || count === this.placed(id).reduce((sum, entry) => sum + countIn(entry), 0)).map(([id]) => id)
  }

  /** The box around everything that shows something, in the world; empty if nothing does. */
  bounds(target = new Box3()): Box3 {
    return this.tree.boundsOfAll(target)
  }

  /** The box around some placements, in the world; empty if none of them shows something. */
  boundsOf(ids: Iterable<string>, target = new Box3()): Box3 {
    target.makeEmpty()
    for (const id of ids) for (const entry of this.entriesOf(id)) target.union(this.boxOf(entry))
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
      for (const entry of this.entriesOf(below)) {
        if (entry instanceof CopyRun) box.union(entry.box(part, toOwn))
        else if (below === id && entry.matrix === this.document.worldMatrix(id)) box.union(entry.solid.bounds)
        else box.union(part.copy(entry.solid.bounds).applyMatrix4(matrix.multiplyMatrices(toOwn, entry.matrix)))
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
    const reaches = (box: Box3) => best === null || Math.max(box.min.x * x, box.max.x * x) + Math.max(box.min.y * y, box.max.y * y) + Math.max(box.min.z * z, box.max.z * z) > best.reach
    for (const id of ids) {
      for (const entry of this.entriesOf(id)) for (const { solid, matrix } of within(entry, reaches)) {
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
    }, (leaf) => {
      for (const shown of within(this.shown.get(leaf)!, other => other.intersectsBox(box))) visit(shown)
    })
  }

  /** The things whose boxes are not wholly outside of the planes, with what is asked of their triangles left to the caller. */
  across(planes: readonly PlaneEquation[], visit: (shown: Shown) => void): void {
    this.tree.query((...box) => boxAgainstPlanes(planes, box), (leaf) => {
      for (const shown of within(this.shown.get(leaf)!, reachesInto(planes))) visit(shown)
    })
  }

  /** What a placement shows by itself: its mesh, or its copies if it is an arrangement. A source shows nothing; its copies do. */
  shownBy(id: string): readonly Shown[] {
    return this.entriesOf(id).flatMap(entry => [...within(entry, () => true)])
  }

  /** The same with the copies of large arrangements together. */
  private entriesOf(id: string): (Shown | CopyRun)[] {
    const known = this.document.arrangementIds.has(id) ? this.placed(id) : []
    return known.length > 0 ? known : this.freshEntriesOf(id)
  }

  private freshEntriesOf(id: string): (Shown | CopyRun)[] {
    if (this.document.arrangementIds.size > 0) {
      const copy = copyOf(id)
      if (copy) return this.shownByCopy(id, copy)
      if (this.document.isSource(id)) return []
      if (this.document.arrangementIds.has(id)) return this.copiesShownBy(id)
    }
    const shape = this.document.shapeOf(id)
    const solid = shape === null ? undefined : this.solidOf(shape)
    const { document } = this
    return solid ? [{ id, solid, get matrix() { return document.worldMatrix(id) } }] : []
  }

  /** The corners of the boxes of some placements, each along its own axes, in the world; of large arrangements along the world's. */
  cornersOf(ids: Iterable<string>): Vector3[] {
    const corners: Vector3[] = []
    for (const id of ids) for (const entry of this.entriesOf(id)) corners.push(...entry instanceof CopyRun ? boxCorners(entry.box(this.box)) : cornersOf(entry))
    return corners
  }

  private copiesShownBy(id: string): (Shown | CopyRun)[] {
    const own = this.document.worldMatrix(id).clone()
    const found: (Shown | CopyRun)[] = []
    const { rule } = arrangedOf(this.document, id).own
    const places = rule.rule === 'mirror' ? null : new CopyPlaces(rule)
    const idOf = (index: number) => places ? copyId(id, places.keyAt(index)) : undefined
    for (const { shape, matrices, indices } of expand(this.document, id)) {
      const solid = this.solidOf(shape)
      if (!solid) continue
      if (indices.length > MANY_COPIES) {
        const set = new CopySet(id, solid, own, matrices, indices, idOf)
        for (let i = 0; i < indices.length; i += RUN) found.push(new CopyRun(set, i, Math.min(i + RUN, indices.length)))
      }
      else for (let i = 0; i < indices.length; i++) found.push({ id, copy: idOf(indices[i]!), solid, matrix: new Matrix4().fromArray(matrices, i * 16).premultiply(own) })
    }
    return found
  }

  private shownByCopy(id: string, { arrangementId, key }: { arrangementId: string, key: string }): Shown[] {
    const index = new CopyPlaces(arrangedOf(this.document, arrangementId).own.rule).indexOf(key)
    return index === null ? [] : this.placed(arrangementId).flatMap(entry => entry instanceof CopyRun ? [...entry.ofCopy(index)] : entry.copy === id ? [entry] : [])
  }

  /** What of a placement is in the tree. */
  private placed(id: string): (Shown | CopyRun)[] {
    return (this.leaves.get(id) ?? []).map(leaf => this.shown.get(leaf)!)
  }

  private place(id: string): void {
    const shown = this.document.isHidden(id) ? [] : this.freshEntriesOf(id)
    const leaves = this.leaves.get(id) ?? []
    if (shown.length !== leaves.length) this.drop(id)
    if (shown.length === 0) return
    if (shown.length !== leaves.length) this.leaves.set(id, shown.map(each => this.tree.insert(this.boxOf(each))))
    else leaves.forEach((leaf, i) => this.tree.update(leaf, this.boxOf(shown[i]!)))
    this.leaves.get(id)!.forEach((leaf, i) => this.shown.set(leaf, shown[i]!))
  }

  private boxOf(entry: Shown | CopyRun): Box3 {
    return entry instanceof CopyRun ? entry.box(this.box) : this.box.copy(entry.solid.bounds).applyMatrix4(entry.matrix)
  }

  private drop(id: string): void {
    for (const leaf of this.leaves.get(id) ?? []) {
      this.tree.remove(leaf)
      this.shown.delete(leaf)
    }
    this.leaves.delete(id)
  }
}

const countIn = (entry: Shown | CopyRun) => entry instanceof CopyRun ? entry.count : 1

/** What is in an entry of the tree; of many copies those whose boxes are accepted. */
function within(entry: Shown | CopyRun, accept: (box: Box3) => boolean): Iterable<Shown> {
  return entry instanceof CopyRun ? entry.where(accept) : [entry]
}

const reachesInto = (planes: readonly PlaneEquation[]) => (box: Box3) => boxAgainstPlanes(planes, sidesOf(box)) !== 'outside'
const onRay = (entry: Shown | CopyRun, ray: Ray) => within(entry, box => ray.intersectsBox(box))

/** The corners of the box of something shown, along its own axes, in the world. */
export function cornersOf({ solid, matrix }: Shown): Vector3[] {
  return boxCorners(solid.bounds).map(corner => corner.applyMatrix4(matrix))
}

/** The eight corners of a box. */
export function boxCorners({ min, max }: Box3): Vector3[] {
  return [min.x, max.x].flatMap(x => [min.y, max.y].flatMap(y => [min.z, max.z].map(z => new Vector3(x, y, z))))
}
