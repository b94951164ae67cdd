import { Matrix4 } from 'three'
import type { ArrangementOwn } from '../arrange/arrangement'
import { isArrangement } from '../arrange/arrangement'
import type { GroundAt, GroundBelow } from '../arrange/path/ground'
import type { PlacedCopies } from '../arrange/place-copies'
import { placeCopies } from '../arrange/place-copies'
import { countOf, definitionOf } from '../arrange/rules'
import type { Dealt } from '../arrange/scatter/deal'
import type { LevelRecords } from '../level/level'
import { Level } from '../level/level'
import type { Lamp } from '../level/part'
import type { Placement } from '../level/schema'
import { decompose, localMatrix } from '../math/transform'
import { copyId, copyOf } from './copy-id'
import type { Arranged, ShapeCopies, ShownAs } from './expand'
import { expandMarks, expandShapes } from './expand'

/** One copy of an arrangement, as if it were a placement below that. */
export type Copy = { placement: Placement; own: ArrangementOwn; copies: PlacedCopies; index: number; source: Placement }

/** A copy, and where it stands in the world. */
type CopyAsked = { copy: Copy; matrix: Matrix4 }

/** What is known of an arrangement's copies, each worked out when it is first asked for. */
type Known = { copies?: PlacedCopies | null; shapes?: readonly ShapeCopies[]; marks?: readonly ShapeCopies[] }

/** What a level as it is seen needs beside the level. */
export type Lent = {
  /** What copies that hug the ground stand on; null where there is none. */
  ground: GroundAt | null
  /** What scatters have dealt; null where they have not yet. */
  dealt: (id: string) => Dealt | null
  /** The lights that a part brings. */
  lampsOf: (partId: string) => readonly Lamp[]
}

/** For a level that is only read: nothing is around it. */
const NOTHING_LENT: Lent = { ground: null, dealt: () => null, lampsOf: () => [] }

/** A level by itself: its scatters have no copies, its parts no lamps, and what hugs the ground keeps to its path. */
export const bareView = (placements: Iterable<Placement> = [], records: Partial<LevelRecords> = {}): LevelView =>
  new LevelView(placements, records, NOTHING_LENT)

/**
 * A level as it is seen: with the copies of arrangements, which are looked up like placements by ids of their own. What
 * an arrangement shows is worked out once and kept until it, something in it or the ground under it is written.
 */
export class LevelView extends Level {
  /**
   * Shows only these and what hangs below them, or all if null. A way of looking in one window, not part of the level:
   * it is neither saved nor undone.
   */
  showOnly: ReadonlySet<string> | null = null
  private readonly known = new Map<string, Known>()
  /** Those of the known that stand on the ground, whatever that is. */
  private readonly hugging = new Set<string>()
  /** Null until they are asked for after something was written. */
  private scattersFound: readonly string[] | null = null
  /** Copies that were asked for; until anything is written. */
  private readonly asked = new Map<string, CopyAsked>()

  private readonly asItIs: ShownAs = {
    level: this,
    worldMatrix: id => super.worldMatrix(id),
    shapeOf: id => this.shapeOf(id),
    arranged: id => this.arranged(id),
    copies: id => this.copies(id),
    groundBelow: toWorld => this.groundBelow(toWorld),
    lampsOf: partId => this.lampsOf(partId),
    shapes: id => this.shapes(id),
    marks: id => this.marks(id),
  }

  /** What a scatter has dealt; null if it has not yet. */
  readonly dealt: Lent['dealt']
  /** The lights that a part brings. */
  readonly lampsOf: Lent['lampsOf']
  private readonly ground: Lent['ground']

  constructor(placements: Iterable<Placement>, records: Partial<LevelRecords>, { ground, dealt, lampsOf }: Lent) {
    super(placements, records)
    this.ground = ground
    this.dealt = dealt
    this.lampsOf = lampsOf
  }

  /** A placement, or one copy of an arrangement as if it were one. */
  override get(id: string): Placement | undefined {
    return super.get(id) ?? this.copyAsked(id)?.copy.placement
  }

  override worldMatrix(id: string): Matrix4 {
    return this.copyAsked(id)?.matrix ?? super.worldMatrix(id)
  }

  /** Hidden itself, by its layer, by something above it, or because only others are shown. */
  override isHidden(id: string): boolean {
    return (
      (this.showOnly !== null && !this.someUpwards(id, placement => this.showOnly!.has(placement.id)))
      || super.isHidden(id)
    )
  }

  /** A copy by its id; undefined if there is none of that id, or it is hidden. */
  copy(id: string): Copy | undefined {
    return this.copyAsked(id)?.copy
  }

  /** What an arrangement is made of. @throws RangeError if the placement is none */
  arranged(id: string): Arranged {
    const { own } = this.need(id)
    if (!isArrangement(own)) throw new RangeError(`${id} is no arrangement`)
    return { own, sources: this.children(id) }
  }

  /** The copies of an arrangement; null if it has no sources. */
  copies(id: string): PlacedCopies | null {
    const known = this.knownOf(id)
    if (known.copies === undefined) {
      const { own, sources } = this.arranged(id)
      known.copies = this.place(id, { own, sources }, this.worldMatrix(id))
    }
    return known.copies
  }

  /**
   * The copies of an arrangement as it might be, standing so; null without sources, or while a scatter is not dealt
   * yet.
   *
   * @param dealt what a scatter dealt, if it is otherwise than the level knows
   */
  place(
    id: string,
    { own, sources }: Arranged,
    toWorld: Matrix4,
    dealt: Dealt | null = this.dealt(id),
  ): PlacedCopies | null {
    if (sources.length === 0) return null
    const isScatter = definitionOf(own.rule).scattered(own.rule) !== null
    return isScatter && !dealt
      ? null
      : placeCopies(own, sources.length, this.groundBelow(toWorld), isScatter ? dealt : null)
  }

  /** The arrangements that are scatters. */
  get scatters(): readonly string[] {
    return (this.scattersFound ??= [...this.arrangementIds].filter(id => {
      const { rule } = this.arranged(id).own
      return definitionOf(rule).scattered(rule) !== null
    }))
  }

  /** How many copies an arrangement makes. */
  countOf(id: string): number {
    const { rule } = this.arranged(id).own
    return definitionOf(rule).scattered(rule) ? (this.copies(id)?.keys.count ?? 0) : countOf(rule)
  }

  /** After a scatter was dealt anew. */
  redealt(id: string): void {
    this.afterWriting(id)
  }

  /** What an arrangement shows, by shape. */
  shapes(id: string): readonly ShapeCopies[] {
    return (this.knownOf(id).shapes ??= expandShapes(this.asItIs, id))
  }

  /**
   * The cameras, lights and markers that an arrangement repeats, and the parts that bring lamps: in place of a shape
   * stands the id of the one repeated.
   */
  marks(id: string): readonly ShapeCopies[] {
    return (this.knownOf(id).marks ??= expandMarks(this.asItIs, id))
  }

  /** What the copies of an arrangement that stands so would come to stand on. */
  groundBelow(toWorld: Matrix4): GroundBelow | null {
    return this.ground && { at: this.ground, toWorld }
  }

  /** Whether a placement is an arrangement whose copies stand wherever the ground is. */
  hugsGround(id: string): boolean {
    const { own } = this.need(id)
    return isArrangement(own) && definitionOf(own.rule).hugsGround(own.rule)
  }

  protected override afterWriting(id: string | null, parentBefore?: string | null): void {
    this.asked.clear()
    this.scattersFound = null
    if (this.known.size === 0) return
    // A block may be shown by any of them, and any may be on a layer.
    if (id === null) return this.known.clear()
    this.known.delete(id)
    for (const other of this.hugging) this.known.delete(other)
    this.hugging.clear()
    for (const from of [super.get(id)?.parentId, parentBefore]) {
      for (let at = from; at; at = super.get(at)?.parentId) this.known.delete(at)
    }
  }

  private knownOf(id: string): Known {
    let found = this.known.get(id)
    if (!found) {
      this.known.set(id, (found = {}))
      if (this.hugsGround(id)) this.hugging.add(id)
    }
    return found
  }

  /** All copies of an arrangement that stand by themselves and are not hidden, one after the other; none is kept. */
  *eachCopy(id: string): Generator<CopyAsked> {
    const { own } = this.arranged(id)
    const { keepsSources } = definitionOf(own.rule)
    const copies = keepsSources ? null : this.copies(id)
    for (let index = 0; index < (copies?.keys.count ?? 0); index++) {
      const found = this.copyAt(id, copyId(id, copies!.keys.keyAt(index)), copies!, index)
      if (found) yield found
    }
  }

  private copyAsked(id: string): CopyAsked | undefined {
    const named = copyOf(id)
    if (!named) return undefined
    let found = this.asked.get(id)
    if (!found && (found = this.find(id, named))) this.asked.set(id, found)
    return found
  }

  private find(id: string, { arrangementId, key }: { arrangementId: string; key: string }): CopyAsked | undefined {
    if (!this.arrangementIds.has(arrangementId)) return undefined
    const { own } = this.arranged(arrangementId)
    const copies = definitionOf(own.rule).keepsSources ? null : this.copies(arrangementId)
    const index = copies?.keys.indexOf(key) ?? null
    return !copies || index === null ? undefined : this.copyAt(arrangementId, id, copies, index)
  }

  private copyAt(arrangementId: string, id: string, copies: PlacedCopies, index: number): CopyAsked | undefined {
    const { own, sources } = this.arranged(arrangementId)
    const number = copies.sourceOf(index)
    if (number < 0) return undefined
    const source = this.need(sources[number]!)
    const matrix = new Matrix4()
      .fromArray(copies.ruled, index * 16)
      .multiply(localMatrix(copies.numbersOf(index, source), new Matrix4()))
    const placement = {
      ...source,
      ...decompose(matrix, source.pivot),
      id,
      parentId: arrangementId,
      order: index,
      hidden: false,
      locked: false,
      layerId: null,
      name: `${source.name}, ${definitionOf(own.rule).nameOf(own.rule, copies.keys.at(index))}`,
    }
    return {
      copy: { placement, own, copies, index, source },
      matrix: localMatrix(placement, new Matrix4()).premultiply(super.worldMatrix(arrangementId)),
    }
  }
}
