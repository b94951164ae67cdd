import { isMarkKind } from '~~/core/level/kinds'
import { Matrix4 } from 'three'
import { copyId, copyOf } from '~~/core/scene/copy-id'
import { definitionOf } from '~~/core/arrange/rules'
import type { Dealt } from '~~/core/arrange/scatter/deal'
import type { Arranged, ShapeCopies, ShownAs } from '~~/core/scene/expand'
import { expandMarks, expandShapes, onlyCopy } from '~~/core/scene/expand'
import { shiningOf } from '~~/core/scene/level-lamps'
import type { LevelView } from '~~/core/scene/level-view'
import type { DrawableOf } from './batches'
import { CopyBatches } from './copy-batches'
import type { LevelLights } from './level-lights'
import type { Marks } from './marks'

/** Marks and lights of one arrangement beyond this number are left out. */
const MOST_MARKED = 2000

/** What an arrangement shows: its copies' shapes, and the cameras, lights and markers among them. */
type Expanded = { shapes: readonly ShapeCopies[]; marks: readonly ShapeCopies[] }

/**
 * Shows the copies of arrangements: as the level has worked them out, or as they would be while something is dragged.
 */
export class Arrangements {
  readonly copies: CopyBatches
  /** The names of the marks and lights shown for each. */
  private readonly marked = new Map<string, string[]>()
  /**
   * Those that are shown otherwise than the level has them: in themselves, or because of what is in them or under them.
   */
  private other: ReadonlySet<string> = new Set()
  private previewed: ReadonlyMap<string, Arranged> = new Map()
  private dealt: ReadonlyMap<string, Dealt> = new Map()
  private readonly expanded = new Map<string, Expanded>()
  private readonly as: ShownAs

  /** @param matrixOf where a placement is shown at present, @param shapeOf and as what */
  constructor(
    private readonly level: LevelView,
    drawableOf: DrawableOf,
    private readonly marks: Marks,
    private readonly lights: LevelLights,
    private readonly matrixOf: (id: string) => Matrix4,
    shapeOf: (id: string) => string | null,
  ) {
    this.copies = new CopyBatches(drawableOf, { shadows: true })
    this.as = {
      level,
      worldMatrix: matrixOf,
      shapeOf,
      arranged: id => this.arrangedOf(id),
      copies: id => {
        if (!this.other.has(id)) return level.copies(id)
        return level.place(id, this.arrangedOf(id), matrixOf(id), this.dealt.get(id))
      },
      groundBelow: toWorld => level.groundBelow(toWorld),
      lampsOf: partId => level.lampsOf(partId),
      shapes: id => this.expand(id).shapes,
      marks: id => this.expand(id).marks,
    }
  }

  /**
   * Shows arrangements otherwise than the level has them, or some that it does not have yet, until the next call.
   *
   * @param dealt what scatters would have dealt
   * @param other further ones whose copies have to be worked out anew
   */
  preview(
    arranged: ReadonlyMap<string, Arranged>,
    dealt: ReadonlyMap<string, Dealt>,
    other: ReadonlySet<string>,
  ): void {
    for (const id of this.previewed.keys()) if (!arranged.has(id) && !this.level.has(id)) this.remove(id)
    this.previewed = arranged
    this.dealt = dealt
    this.other = new Set([...arranged.keys(), ...other])
    this.expanded.clear()
  }

  show(id: string): void {
    const { shapes, marks } = this.expand(id)
    const matrix = this.matrixOf(id)
    this.copies.set(id, shapes, matrix)
    const marked = this.markedBy(id, marks, matrix)
    // Those that are gone make room for others first: only a few lights shine at a time.
    const names = new Set(marked.map(({ name }) => name))
    this.dropMarks((this.marked.get(id) ?? []).filter(name => !names.has(name)))
    this.marked.set(id, [...names])
    for (const { name, copy, source, place } of marked) {
      const { kind, own } = this.level.need(source)
      if (isMarkKind(kind)) this.marks.set(name, kind, own, place, copy)
      this.lights.set(name, shiningOf(this.level, source, place))
    }
  }

  remove(id: string): void {
    this.copies.remove(id)
    this.dropMarks(this.marked.get(id) ?? [])
    this.marked.delete(id)
  }

  /** Parts look otherwise now: nothing of them is shown until what they are in is shown anew. */
  forget(parts: ReadonlySet<string>): void {
    this.copies.forget(parts)
    this.expanded.clear()
  }

  shapesOf(id: string): readonly ShapeCopies[] {
    return this.expand(id).shapes
  }

  /** What one copy shows, by its id. */
  shapesOfCopy(id: string): ShapeCopies[] {
    const { arrangementId, key } = copyOf(id)!
    const index = this.as.copies(arrangementId)?.keys.indexOf(key) ?? null
    return index === null ? [] : onlyCopy(this.shapesOf(arrangementId), index)
  }

  private expand(id: string): Expanded {
    if (!this.other.has(id)) return { shapes: this.level.shapes(id), marks: this.level.marks(id) }
    let found = this.expanded.get(id)
    if (!found) this.expanded.set(id, (found = { shapes: expandShapes(this.as, id), marks: expandMarks(this.as, id) }))
    return found
  }

  private arrangedOf(id: string): Arranged {
    return this.previewed.get(id) ?? this.level.arranged(id)
  }

  /**
   * What is shown by marks and lights: the name of each, the copy it belongs to, what it is of and where it is in the
   * world.
   */
  private markedBy(
    id: string,
    marks: readonly ShapeCopies[],
    matrix: Matrix4,
  ): { name: string; copy: string; source: string; place: Matrix4 }[] {
    if (marks.length === 0) return []
    const { rule } = this.arrangedOf(id).own
    const keys = definitionOf(rule).keepsSources ? null : this.as.copies(id)?.keys
    const found: { name: string; copy: string; source: string; place: Matrix4 }[] = []
    for (const { shape: source, matrices, indices } of marks) {
      for (let i = 0; i < indices.length && found.length < MOST_MARKED; i++) {
        const copy = keys ? copyId(id, keys.keyAt(indices[i]!)) : id
        found.push({
          name: `${copy} ${source} ${i}`,
          copy,
          source,
          place: new Matrix4().fromArray(matrices, i * 16).premultiply(matrix),
        })
      }
    }
    return found
  }

  private dropMarks(names: readonly string[]): void {
    for (const name of names) {
      this.marks.remove(name)
      this.lights.remove(name)
    }
  }
}
