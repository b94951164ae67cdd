import type { Matrix4 } from 'three'
import { Box3, Ray, Vector3 } from 'three'
import type { Part } from '../level/part'
import type { Placement, Relation } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import { isNear } from '../mesh/clearance'
import type { Overlap } from '../mesh/overlap'
import { overlapOf } from '../mesh/overlap'
import { Placed } from '../mesh/placed'
import type { Solid } from '../mesh/solid'
import { isGround } from '../scene/ground'
import type { LevelIndex, LevelHit } from '../scene/level-index'
import type { LevelView } from '../scene/level-view'

/** What has to be known of the kit. */
export type KitKnown = {
  part: (id: string) => Pick<Part, 'name' | 'kind' | 'tags' | 'inKit'> | undefined
  ids: () => Iterable<string>
  solidOf: (shape: string) => Solid | undefined
}

/** Something around what is looked at: `thing` is its id, or its copy's. */
export type Neighbour = { id: string; thing: string; placed: Placed; box: Box3 }

/** Metres by which something is in another that is let into it: less only touches. */
export const LET_IN = 0.001

/** Around a thing others are looked for as far as this, in metres. */
export const AROUND = 1
const DOWN = new Vector3(0, -1, 0)

/** Things of one name, and the least of their ids, which is the one that keeps it. */
export class Namesakes {
  readonly ids = new Set<string>()
  private least: string | null = null

  add(id: string): void {
    this.ids.add(id)
    if (this.least !== null && id < this.least) this.least = id
  }

  delete(id: string): void {
    this.ids.delete(id)
    if (this.least === id) this.least = null
  }

  get first(): string {
    if (this.least === null) for (const id of this.ids) if (this.least === null || id < this.least) this.least = id
    return this.least!
  }
}

/**
 * A level as its check sees it: what stands around what, what touches what. What is worked out is kept until `forget`.
 */
export class CheckSite {
  /** Placements by their names. */
  readonly namesakes = new Map<string, Namesakes>()
  /** How many placements show each part. */
  readonly uses = new Map<string, number>()
  /** Metres apart that count as touching; what touches what is looked for anew after it was set. */
  gap = 0.001
  private readonly counted = new Map<string, Pick<Placement, 'name' | 'partId'>>()
  /** The ones used last at the end. */
  private readonly placedBy = new Map<Matrix4, Placed>()
  private triangles = 0
  private readonly touching = new Map<string, ReadonlySet<string>>()
  /** By the matrices of two things, of which each that is moved has another; a part that is made anew keeps them. */
  private readonly overlaps = new WeakMap<Matrix4, WeakMap<Matrix4, { of: [Solid, Solid]; overlap: Overlap | null }>>()
  private watched: Box3[] = []
  private kept: ReadonlyMap<string, Relation>
  private keptAt: number

  constructor(
    readonly level: LevelView,
    readonly index: LevelIndex,
    readonly kit: KitKnown,
  ) {
    for (const placement of level.placements()) this.count(placement.id)
    this.kept = new Map(level.relations)
    this.keptAt = level.relationsWritten
  }

  /** Things of which something else is kept than when this was asked last. */
  keptOtherwise(): ReadonlySet<string> {
    const { relations, relationsWritten } = this.level
    if (relationsWritten === this.keptAt) return NOTHING
    const before = this.kept
    const gone = [...before.values()].filter(({ id }) => !relations.has(id))
    const written = [...relations.values()].filter(relation => before.get(relation.id) !== relation)
    this.kept = new Map(relations)
    this.keptAt = relationsWritten
    return new Set([...gone, ...written].map(({ held }) => held).filter(id => this.level.has(id)))
  }

  /**
   * Counts a placement as it is now, also if it is gone.
   *
   * @returns those whose names are told apart otherwise by it, in one or two sets
   */
  count(id: string): ReadonlySet<string>[] {
    const [before, now] = [this.counted.get(id), this.level.get(id)]
    if (before && now && before.name === now.name && before.partId === now.partId) return []
    const others: ReadonlySet<string>[] = []
    if (before) {
      const same = this.namesakes.get(before.name)!
      same.delete(id)
      others.push(same.ids)
      if (same.ids.size === 0) this.namesakes.delete(before.name)
      if (before.partId !== null) this.uses.set(before.partId, this.uses.get(before.partId)! - 1)
      this.counted.delete(id)
    }
    if (now) {
      const same = this.namesakes.get(now.name) ?? new Namesakes()
      same.add(id)
      others.push(same.ids)
      this.namesakes.set(now.name, same)
      if (now.partId !== null) this.uses.set(now.partId, (this.uses.get(now.partId) ?? 0) + 1)
      this.counted.set(id, { name: now.name, partId: now.partId })
    }
    return others
  }

  /** What the kit knows of the part that a placement shows. */
  partOf(id: string): ReturnType<KitKnown['part']> {
    const partId = this.level.get(id)?.partId ?? null
    return partId === null ? undefined : this.kit.part(partId)
  }

  /** Whether it is a modular piece. */
  isPiece(id: string): boolean {
    return this.partOf(id)?.kind === 'piece'
  }

  isGround(id: string): boolean {
    return isGround(this.level, partId => this.kit.part(partId)?.tags ?? [], id)
  }

  /** What a thing or a copy shows by itself, placed; nothing while it is hidden. */
  own(id: string): Placed[] {
    return this.level.isHidden(id) ? [] : this.index.shownBy(id).map(shown => this.place(shown.solid, shown.matrix))
  }

  /** The box around what a thing shows by itself, in the world; empty if that is nothing. */
  boxOf(id: string): Box3 {
    return this.level.isHidden(id) ? new Box3() : this.index.extents.boundsOf([id], new Box3())
  }

  /** What else shows something within a box. */
  within(box: Box3, except: string, accept: (id: string) => boolean = () => true): Neighbour[] {
    const found: Neighbour[] = []
    this.index.near(
      box,
      ({ id, copy, solid, matrix }) => {
        const placed = this.place(solid, matrix)
        found.push({ id, thing: copy ?? id, placed, box: placed.bounds() })
      },
      id => id !== except && accept(id),
    )
    return found
  }

  /**
   * The things that touch a thing, are no farther away than that counts as touching, or are one with it; arrangements
   * are named as wholes.
   */
  touchedBy(id: string): ReadonlySet<string> {
    const known = this.touching.get(id)
    if (known) return known
    const own = this.own(id)
    const whole = this.wholeOf(id)
    const found = new Set<string>()
    const isSingle = !this.level.arrangementIds.has(id)
    for (const other of this.within(this.boxOf(id).expandByScalar(this.gap), id)) {
      if (found.has(other.id)) continue
      // What was asked from the other side is known.
      const asked = isSingle && !this.level.arrangementIds.has(other.id) ? this.touching.get(other.id) : undefined
      if (asked ? asked.has(id) : own.some(placed => isNear(placed, other.placed, this.gap))) found.add(other.id)
    }
    // What is one thing holds together, whether it touches or not; last, since mostly it need not be asked. What hangs
    // from a thing is one with it from either side: else it would matter which of them was asked first.
    if (whole !== id || this.level.hasChildren(id))
      for (const below of this.level.subtree(whole)) if (below !== id && this.own(below).length > 0) found.add(below)
    this.touching.set(id, found)
    return found
  }

  /**
   * How deep two things are in each other; null if by no more than `LET_IN`. It is worked out once for each two,
   * however many kinds of findings ask for it.
   */
  overlap(a: Placed, b: Placed): Overlap | null {
    let known = this.overlaps.get(a.matrix)
    if (!known) this.overlaps.set(a.matrix, (known = new WeakMap()))
    let found = known.get(b.matrix)
    if (found?.of[0] !== a.solid || found.of[1] !== b.solid)
      known.set(b.matrix, (found = { of: [a.solid, b.solid], overlap: overlapOf(a, b, LET_IN) }))
    return found.overlap
  }

  /** What touched it when it was last asked; nothing if it was not. */
  touchedBefore(id: string): ReadonlySet<string> {
    return this.touching.get(id) ?? NOTHING
  }

  /** What a thing touches is looked for anew. */
  forget(id: string): void {
    this.touching.delete(id)
  }

  /** The first surface straight below a point, or in another direction. */
  hit(from: Vector3, direction = DOWN, accept: (id: string) => boolean = () => true): LevelHit | null {
    return this.index.raycast(new Ray(from, direction), accept)
  }

  /** A change within this box means that what is being looked at has to be looked at again. */
  watch(box: Box3): void {
    this.watched.push(box.clone())
  }

  /** What was watched since this was asked last. */
  takeWatched(): Box3[] {
    const taken = this.watched
    this.watched = []
    return taken
  }

  /** Where to look at a thing: the middle of what it shows, or where it stands. */
  middleOf(id: string): Vec3 {
    const box = this.boxOf(id)
    return (
      box.isEmpty() ? new Vector3().setFromMatrixPosition(this.level.worldMatrix(id)) : box.getCenter(new Vector3())
    ).toArray()
  }

  /** The outermost closed group that a thing is in, which counts as one thing; the thing itself if it is in none. */
  wholeOf(id: string): string {
    let whole = id
    for (let at = this.level.get(id)?.parentId; at; at = this.level.need(at).parentId) {
      const { kind, own } = this.level.need(at)
      if (kind !== 'group' || !('open' in own && own.open)) whole = at
    }
    return whole
  }

  private place(solid: Solid, matrix: Matrix4): Placed {
    let placed = this.placedBy.get(matrix)
    this.placedBy.delete(matrix)
    if (placed?.solid !== solid) {
      if (placed) this.triangles -= placed.solid.triangles
      placed = new Placed(solid, matrix)
      this.triangles += solid.triangles
    }
    this.placedBy.set(matrix, placed)
    for (const [oldest, each] of this.placedBy) {
      if (this.triangles <= MOST_PLACED) break
      this.placedBy.delete(oldest)
      this.triangles -= each.solid.triangles
    }
    return placed
  }
}

/** Triangles whose places in the world are kept; about a hundred bytes each. */
const MOST_PLACED = 1_000_000
const NOTHING: ReadonlySet<string> = new Set()
