import { Box3, Matrix4, Ray, Vector3 } from 'three'
import { isMarker } from '../level/kinds'
import { BoxTree } from '../math/box-tree'
import type { Frame, FrameRule, PlaneEquation } from '../mesh/frame'
import { boxAgainstPlanes, framePlanes, sidesOf, solidInFrame } from '../mesh/frame'
import type { Solid, SolidHit } from '../mesh/solid'
import { copyOf } from './copy-id'
import type { Entry } from './entries'
import { allIn, boxOf, countIn, entriesOf, entriesOfCopy, someIn, within } from './entries'
import type { Elsewhere } from './elsewhere'
import { aroundId } from './elsewhere'
import { Extents } from './extents'
import type { LevelView } from './level-view'
import type { Shown } from './shown'
import { volumeSolid } from './volume-solid'

/** How far above a path the ground is looked for, in metres. */
const GROUND_ABOVE = 10
const DOWN = new Vector3(0, -1, 0)

/** `copy` is the id of the copy that was hit, if it is one of an arrangement. */
export type LevelHit = SolidHit & { id: string; copy?: string }

/**
 * Finds what is where in a level: one tree over the placements' boxes, one BVH per mesh.
 * Call `update` with what a change touched; nothing here ever loops over the whole level after the start.
 */
export class LevelIndex {
  readonly extents: Extents
  private readonly tree = new BoxTree()
  /** What is in the tree of each placement that shows something, and the leaves of the tree that it is at. */
  private readonly inTree = new Map<string, { entries: readonly Entry[]; leaves: readonly number[] }>()
  private readonly shown: (Entry | undefined)[] = []
  private readonly box = new Box3()

  /**
   * @param solidOf the mesh a shape names; undefined while it is not there
   * @param isEmpty whether it is filled afterwards, by `fill`
   * @param elsewhere where the level lies, if it is seen from another one that is worked on
   */
  constructor(
    private readonly level: LevelView,
    private readonly solidOf: (shape: string) => Solid | undefined,
    isEmpty = false,
    private readonly elsewhere?: Elsewhere,
  ) {
    this.extents = new Extents(level, solidOf, id => this.reachOf(id))
    if (!isEmpty) for (const _ of this.fill());
  }

  /**
   * Looks at all of the level; gives way before each placement.
   *
   * @param lends is called once the ground can be found, before the first arrangement is looked at
   */
  *fill(lends: () => void = () => {}): Generator<void> {
    const { level } = this
    for (const { id } of level.placements()) {
      yield
      if (this.isLeftOut(id)) continue
      if (!level.arrangementIds.has(id)) this.place(id)
    }
    yield* this.tree.settling()
    lends()
    for (const id of level.arrangementIds) {
      yield
      if (!this.isLeftOut(id)) this.place(id)
    }
    yield* this.tree.settling()
  }

  /**
   * What copies that hug the ground find below a point. An arrangement is never ground for another, or it might be for
   * itself.
   */
  groundAt(point: Vector3, isGround: (id: string) => boolean): LevelHit | null {
    return this.raycast(
      new Ray(point.clone().setY(point.y + GROUND_ABOVE), DOWN),
      id => !this.level.arrangementIds.has(id) && isGround(id),
    )
  }

  /** Brings the index up to date for some placements and everything below them. */
  update(touched: Iterable<string>): void {
    for (const id of touched) {
      // What was touched may be a layer or a station, which is nowhere.
      if (!this.level.has(id)) this.drop(id)
      else for (const below of this.level.subtree(id)) this.place(below)
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
      const entry = this.shown[leaf]!
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
      const entry = this.shown[leaf]!
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
  pickInFrame(
    projection: Matrix4,
    frame: Frame,
    rule: FrameRule,
    accept: (id: string) => boolean = () => true,
  ): string[] {
    const taken = new Map<string, number>()
    const planes = framePlanes(projection, frame)
    const local = new Matrix4()
    this.tree.query(
      (...box) => boxAgainstPlanes(planes, box),
      (leaf, inside) => {
        const entry = this.shown[leaf]!
        if (!accept(entry.id)) return
        const isTaken = ({ solid, matrix }: Shown) =>
          solidInFrame(solid, framePlanes(local.multiplyMatrices(projection, matrix), frame), rule)
        let count = 0
        if (inside) count = countIn(entry)
        else for (const shown of within(entry, reachesInto(planes))) if (isTaken(shown)) count++
        if (count > 0) taken.set(entry.id, (taken.get(entry.id) ?? 0) + count)
      },
    )
    // An arrangement is wholly inside only with all of its copies.
    return [...taken]
      .filter(
        ([id, count]) => rule === 'touch' || count === this.placed(id).reduce((sum, entry) => sum + countIn(entry), 0),
      )
      .map(([id]) => id)
  }

  /** The copies of one arrangement that a frame takes, as if they were placements. */
  pickCopiesInFrame(arrangementId: string, projection: Matrix4, frame: Frame, rule: FrameRule): string[] {
    const planes = framePlanes(projection, frame)
    const local = new Matrix4()
    const isTaken = ({ solid, matrix }: Shown) =>
      solidInFrame(solid, framePlanes(local.multiplyMatrices(projection, matrix), frame), rule)
    const taken = new Set<string>()
    for (const entry of this.placed(arrangementId)) {
      for (const shown of within(entry, reachesInto(planes))) if (shown.copy && isTaken(shown)) taken.add(shown.copy)
    }
    // Of several shapes all have to be inside.
    return rule === 'touch' ? [...taken] : [...taken].filter(id => this.shownBy(id).every(isTaken))
  }

  /** The box around everything that shows something, in the world; empty if nothing does. */
  bounds(target = new Box3()): Box3 {
    return this.tree.boundsOfAll(target)
  }

  /** The things whose boxes reach into a box of the world. @param accept leaves out what it answers false for */
  near(box: Box3, visit: (shown: Shown) => void, accept: (id: string) => boolean = () => true): void {
    const { min, max } = box
    this.tree.query(
      (x0, y0, z0, x1, y1, z1) => {
        if (x0 > max.x || x1 < min.x || y0 > max.y || y1 < min.y || z0 > max.z || z1 < min.z) return 'outside'
        return x0 >= min.x && x1 <= max.x && y0 >= min.y && y1 <= max.y && z0 >= min.z && z1 <= max.z
          ? 'inside'
          : 'across'
      },
      leaf => {
        const entry = this.shown[leaf]!
        if (accept(entry.id)) for (const shown of within(entry, other => other.intersectsBox(box))) visit(shown)
      },
    )
  }

  /**
   * The things whose boxes are not wholly outside of the planes, with what is asked of their triangles left to the
   * caller.
   */
  across(planes: readonly PlaneEquation[], visit: (shown: Shown) => void): void {
    this.tree.query(
      (...box) => boxAgainstPlanes(planes, box),
      leaf => {
        for (const shown of within(this.shown[leaf]!, reachesInto(planes))) visit(shown)
      },
    )
  }

  /** What a placement or a copy shows by itself. */
  shownBy(id: string): readonly Shown[] {
    return allIn(this.entriesOf(id))
  }

  /** The same, or of very much so many pieces that are spread evenly over all. */
  someShownBy(id: string, most: number): readonly Shown[] {
    return someIn(this.entriesOf(id), most)
  }

  /** The same with the copies of large arrangements together. */
  private entriesOf(id: string): readonly Entry[] {
    const copy = copyOf(id)
    if (copy) return entriesOfCopy(this.level, id, this.placed(copy.arrangementId), this.elsewhere ? aroundId(id) : id)
    const known = this.placed(id)
    return known.length > 0 ? known : entriesOf(this.level, this.solidOf, id)
  }

  /** The same, and volumes, which have a size but no shape that is met. */
  private reachOf(id: string): readonly Entry[] {
    const { own } = this.level.need(id)
    return isMarker(own) && own.marker === 'volume'
      ? [{ id, solid: volumeSolid(), matrix: this.level.worldMatrix(id) }]
      : this.entriesOf(id)
  }

  /** What of a placement is in the tree. */
  private placed(id: string): readonly Entry[] {
    return this.inTree.get(id)?.entries ?? NOTHING
  }

  private isLeftOut(id: string): boolean {
    return this.elsewhere !== undefined && this.level.isWithin(id, this.elsewhere.without)
  }

  private place(id: string): void {
    const entries = this.level.isHidden(id) ? NOTHING : entriesOf(this.level, this.solidOf, id, this.elsewhere)
    const before = this.inTree.get(id)?.leaves ?? []
    if (entries.length !== before.length) this.drop(id)
    if (entries.length === 0) return
    const isThere = entries.length === before.length
    if (isThere) before.forEach((leaf, i) => this.tree.update(leaf, boxOf(entries[i]!, this.box)))
    const leaves = isThere ? before : entries.map(each => this.tree.insert(boxOf(each, this.box)))
    this.inTree.set(id, { entries, leaves })
    leaves.forEach((leaf, i) => (this.shown[leaf] = entries[i]!))
  }

  private drop(id: string): void {
    for (const leaf of this.inTree.get(id)?.leaves ?? []) {
      this.tree.remove(leaf)
      this.shown[leaf] = undefined
    }
    this.inTree.delete(id)
  }
}

const NOTHING: readonly Entry[] = []
const reachesInto = (planes: readonly PlaneEquation[]) => (box: Box3) =>
  boxAgainstPlanes(planes, sidesOf(box)) !== 'outside'
const onRay = (entry: Entry, ray: Ray) => within(entry, box => ray.intersectsBox(box))
