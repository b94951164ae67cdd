import { Matrix4 } from 'three'
import { copyId, copyOf } from '~~/core/arrange/copy'
import { CopyPlaces } from '~~/core/arrange/count'
import type { Arranged, ShapeCopies, ShownAs } from '~~/core/arrange/expand'
import { arrangedOf, expand, expandBare, onlyCopy } from '~~/core/arrange/expand'
import type { LevelDocument } from '~~/core/level/document'
import type { DrawableOf } from './batches'
import { CopyBatches } from './copy-batches'
import type { LevelLights } from './level-lights'
import { isLight } from './level-lights'
import type { Marks } from './marks'
import { isMarkKind } from './marks'

/** Marks and lights of one arrangement beyond this number are left out. */
const MOST_BARE = 500

/** What an arrangement shows: its copies' shapes, and the cameras, lights and markers among them. */
type Expanded = { shapes: readonly ShapeCopies[], bare: readonly ShapeCopies[] }

/** Shows the copies of arrangements. What they are is worked out once and kept until it changes, not when one is only moved. */
export class Arrangements {
  readonly copies: CopyBatches
  private readonly expanded = new Map<string, Expanded>()
  /** The marks and lights shown for each. */
  private readonly bare = new Map<string, string[]>()
  private previewed: ReadonlyMap<string, Arranged> = new Map()
  private readonly as: ShownAs

  /** @param matrixOf where a placement is shown at present */
  constructor(
    private readonly document: LevelDocument, drawableOf: DrawableOf, boxOf: DrawableOf,
    private readonly marks: Marks, private readonly lights: LevelLights, private readonly matrixOf: (id: string) => Matrix4,
  ) {
    this.copies = new CopyBatches(drawableOf, boxOf, true)
    this.as = { worldMatrix: matrixOf, arranged: id => this.arrangedOf(id) }
  }

  /** Shows arrangements otherwise than the document has them, or some that it does not have yet, until the next call. */
  preview(arranged: ReadonlyMap<string, Arranged>): void {
    for (const id of this.previewed.keys()) if (!arranged.has(id) && !this.document.has(id)) this.remove(id)
    this.previewed = arranged
  }

  /** What an arrangement shows has to be worked out anew. */
  forget(id: string): void {
    this.expanded.delete(id)
  }

  show(id: string): void {
    const { shapes, bare } = this.expand(id)
    const matrix = this.matrixOf(id)
    this.copies.set(id, shapes, matrix)
    const marked = this.markedBy(id, bare, matrix)
    // Those that are gone make room for others first: only a few lights shine at a time.
    const names = new Set(marked.map(({ name }) => name))
    this.dropBare((this.bare.get(id) ?? []).filter(name => !names.has(name)))
    this.bare.set(id, [...names])
    for (const { name, copy, source, place } of marked) {
      const { kind, own } = this.document.need(source)
      if (isMarkKind(kind)) this.marks.set(name, kind, place, copy)
      if (isLight(own)) this.lights.set(name, own, place)
    }
  }

  remove(id: string): void {
    this.copies.remove(id)
    this.dropBare(this.bare.get(id) ?? [])
    this.bare.delete(id)
  }

  shapesOf(id: string): readonly ShapeCopies[] {
    return this.expand(id).shapes
  }

  /** What one copy shows, by its id. */
  shapesOfCopy(id: string): ShapeCopies[] {
    const { arrangementId, key } = copyOf(id)!
    const index = new CopyPlaces(this.arrangedOf(arrangementId).own.rule).indexOf(key)
    return index === null ? [] : onlyCopy(this.shapesOf(arrangementId), index)
  }

  private expand(id: string): Expanded {
    let found = this.expanded.get(id)
    if (!found) this.expanded.set(id, found = { shapes: expand(this.document, id, this.as), bare: expandBare(this.document, id, this.as) })
    return found
  }

  private arrangedOf(id: string): Arranged {
    return this.previewed.get(id) ?? arrangedOf(this.document, id)
  }

  /** What is shown by marks and lights: the name of each, the copy it belongs to, what it is of and where it is in the world. */
  private markedBy(id: string, bare: readonly ShapeCopies[], matrix: Matrix4): { name: string, copy: string, source: string, place: Matrix4 }[] {
    if (bare.length === 0) return []
    const { rule } = this.arrangedOf(id).own
    const places = rule.rule === 'mirror' ? null : new CopyPlaces(rule)
    const found: { name: string, copy: string, source: string, place: Matrix4 }[] = []
    for (const { shape: source, matrices, indices } of bare) {
      for (let i = 0; i < indices.length && found.length < MOST_BARE; i++) {
        const copy = places ? copyId(id, places.keyAt(indices[i]!)) : id
        found.push({ name: `${copy} ${source} ${i}`, copy, source, place: new Matrix4().fromArray(matrices, i * 16).premultiply(matrix) })
      }
    }
    return found
  }

  private dropBare(names: readonly string[]): void {
    for (const name of names) {
      this.marks.remove(name)
      this.lights.remove(name)
    }
  }
}
