import { isMarkKind } from '~~/core/level/kinds'
import type { Box3, Matrix4 } from 'three'
import { Group } from 'three'
import { definitionOf } from '~~/core/arrange/rules'
import type { Dealt } from '~~/core/arrange/scatter/deal'
import type { Placement } from '~~/core/level/schema'
import { reachOfCopies } from '~~/core/scene/copies-reach'
import { copyOf } from '~~/core/scene/copy-id'
import type { Arranged } from '~~/core/scene/expand'
import { shiningOf } from '~~/core/scene/level-lamps'
import type { LevelView } from '~~/core/scene/level-view'
import { Arrangements } from './arrangements'
import type { FartherOf } from './batches'
import type { Pass } from './far-meshes'
import { PartBatches } from './batches'
import type { Choice, Chosen, ChunkSource } from './choose-chunks'
import { chooseChunks } from './choose-chunks'
import type { Drawables } from './drawables'
import type { LampGrid } from './lamp-grid'
import { LevelLights } from './level-lights'
import { Marks } from './marks'
import { chunkView } from './chunk-view'
import type { Look, View } from './view'

/** What is shown elsewhere than in the level. */
export type Preview = {
  matrices: ReadonlyMap<string, Matrix4>
  /** The shapes of those that the level does not have yet, or has otherwise. */
  fresh: ReadonlyMap<string, string>
  /** Arrangements that are other than in the level, or not there yet. */
  arranged: ReadonlyMap<string, Arranged>
  /** What scatters would have dealt whose surfaces are moved apart from each other. */
  dealt: ReadonlyMap<string, Dealt>
  /** The own fields of those that have others. */
  own: ReadonlyMap<string, Placement['own']>
  /** Which are themselves other, not only moved along with what they hang from. */
  written: ReadonlySet<string>
}

const NOTHING: Preview = {
  matrices: new Map(),
  fresh: new Map(),
  arranged: new Map(),
  dealt: new Map(),
  own: new Map(),
  written: new Set(),
}

/** What is shown, in numbers. */
export type ShownNumbers = {
  placed: number
  triangles: number
  /** Bytes of meshes and matrices as they are, and what full copies of the meshes would take. */
  memory: { instanced: number; copied: number }
}

/** What a scene shows of a level, and of a preview of what it would be: its shapes, copies, marks and lights. */
export class ShownLevel {
  readonly object = new Group()
  readonly marks: Marks
  readonly lights: LevelLights
  readonly arrangements: Arrangements
  private readonly batches: PartBatches
  private previewed = NOTHING
  private isBackdrop = false
  /** What is drawn, if not all is. */
  private chosen: Choice | null = null
  /** What can be drawn of placements; copies come after them. */
  private singles: readonly ChunkSource[] = []

  constructor(
    private readonly level: LevelView,
    private readonly drawables: Drawables,
    lamps: LampGrid,
  ) {
    this.marks = new Marks(level)
    this.lights = new LevelLights(lamps)
    this.batches = new PartBatches(drawables.whole, true)
    this.arrangements = new Arrangements(level, drawables.whole, this.marks, this.lights, this.matrixOf, this.shapeOf)
    this.object.add(this.batches.object, this.arrangements.copies.object, this.marks.object, this.lights.object)
  }

  /** Shows all of the level; gives way before each placement. */
  *fill(): Generator<void> {
    for (const { id } of this.level.placements()) {
      yield
      this.showThing(id)
    }
  }

  /** Where a placement is shown at present, in the world. */
  readonly matrixOf = (id: string): Matrix4 => this.previewed.matrices.get(id) ?? this.level.worldMatrix(id)

  /** What names the shape a placement shows at present. */
  readonly shapeOf = (id: string): string | null => this.previewed.fresh.get(id) ?? this.level.shapeOf(id)

  /** Parts look otherwise now: nothing of them is shown until it is updated. */
  forget(parts: ReadonlySet<string>): void {
    this.batches.forget(parts)
    this.arrangements.forget(parts)
  }

  /** Shows what a change touched, and everything below it, as it is in the level now. */
  update(touched: Iterable<string>): void {
    for (const id of touched) {
      if (!this.level.has(id)) this.hide(id)
      else for (const below of this.level.subtree(id)) this.showThing(below)
    }
    this.batches.prune()
  }

  /**
   * Shows placements somewhere else, and some that are not there yet, without touching the level; until the next call.
   */
  preview(preview = NOTHING): void {
    const before = this.previewed
    this.previewed = preview
    this.marks.shapes.setMoved(preview.matrices)
    const now = this.otherArrangements(preview)
    this.arrangements.preview(preview.arranged, preview.dealt, now)
    for (const id of new Set([...this.otherArrangements(before), ...now])) if (this.level.has(id)) this.showThing(id)
    for (const id of before.fresh.keys()) if (!preview.fresh.has(id) && !this.level.has(id)) this.batches.remove(id)
    for (const id of before.matrices.keys()) if (!preview.matrices.has(id) && this.level.has(id)) this.showThing(id)
    for (const [id, matrix] of preview.matrices) {
      const shape = preview.fresh.get(id)
      if (this.level.has(id)) this.showThing(id)
      else if (shape !== undefined) this.batches.set(id, shape, matrix)
    }
    for (const [id, { own, sources }] of preview.arranged) {
      // Those that are there are shown already.
      if (this.level.has(id)) continue
      this.arrangements.show(id)
      if (!definitionOf(own.rule).keepsSources)
        for (const source of sources) for (const below of this.level.subtree(source)) this.hide(below)
    }
  }

  /** Adds to a box what is shown by a preview alone. @param boxOf the box of a shape in its own axes */
  reachOfPreview(boxOf: (shape: string) => Box3 | undefined, box: Box3): void {
    for (const [id, matrix] of this.previewed.matrices) {
      const own = this.previewed.fresh.get(id) ?? (this.level.has(id) ? this.level.shapeOf(id) : null)
      const bounds = own === null ? undefined : boxOf(own)
      if (bounds && !(this.level.has(id) && this.level.isSource(id))) box.union(bounds.clone().applyMatrix4(matrix))
    }
    for (const id of this.previewed.arranged.keys())
      reachOfCopies(this.arrangements.shapesOf(id), this.matrixOf(id), boxOf, box)
  }

  /** Dresses everything for the look of the pane that is drawn next. */
  dress(look: Look): void {
    this.batches.dress(plain => this.drawables.materials.forLook(plain, look))
    this.arrangements.copies.dress(plain => this.drawables.materials.forLook(plain, look))
  }

  /**
   * Becomes what is only around what is worked on: without marks and lights, pale, and standing so.
   *
   * @param leaveOut one that is not shown
   */
  becomeBackdrop(matrix: Matrix4, leaveOut: string): void {
    this.object.remove(this.marks.object, this.lights.object)
    for (const below of this.level.has(leaveOut) ? this.level.subtree(leaveOut) : []) this.hide(below)
    this.isBackdrop = true
    this.paleAll()
    this.object.matrixAutoUpdate = false
    this.object.matrix.copy(matrix)
  }

  private paleAll(): void {
    this.batches.dress(plain => this.drawables.materials.forBackdrop(plain))
    this.arrangements.copies.dress(plain => this.drawables.materials.forBackdrop(plain))
  }

  /** Triangles of all placements, without copies. */
  get triangles(): number {
    return this.batches.count().triangles
  }

  /** Triangles of all placements and copies. */
  allTriangles(): number {
    return this.triangles + this.arrangements.copies.count().triangles
  }

  /** Draws everything whole, or no more triangles than a number as a view sees it. */
  drawWithin(view: View, triangles: number): void {
    const { copies } = this.arrangements
    if (this.allTriangles() <= triangles) {
      this.batches.drawAll()
      copies.drawAll()
      this.chosen = null
      return
    }
    const sources = this.sources()
    const choice = chooseChunks(sources, chunkView(view, this.object.matrix), triangles)
    this.show(sources, choice.chosen)
    this.chosen = choice
    if (this.isBackdrop) this.paleAll()
  }

  /** What can be drawn of each shape; from now on only what is chosen is. They hold until the level changes. */
  sources(): ChunkSource[] {
    const farther: FartherOf = (shape, mirrored) => this.drawables.farther(shape, mirrored)
    this.singles = this.batches.sources(farther)
    return [...this.singles, ...this.arrangements.copies.sources(farther)]
  }

  /** Draws what was chosen of sources. @param pass of which materials; all when left out */
  show(sources: readonly ChunkSource[], chosen: readonly Chosen[], pass?: Pass): void {
    const bySource: Chosen[][] = sources.map(() => [])
    for (const each of chosen) bySource[each.source]!.push(each)
    const { length } = this.singles
    this.batches.show(bySource.slice(0, length), pass)
    this.arrangements.copies.show(bySource.slice(length), pass)
  }

  /** Of all in sight, what was chosen last. */
  get drawnShare(): number {
    return this.chosen?.share ?? 1
  }

  /** Triangles that are drawn. */
  drawnTriangles(): number {
    return this.chosen?.triangles ?? this.allTriangles()
  }

  numbers(): ShownNumbers {
    const [single, copies] = [this.batches.count(), this.arrangements.copies.count()]
    // Pictures are there once either way.
    const pictures = this.drawables.materials.textureBytes()
    let [instanced, copied] = [this.batches.matrixBytes() + copies.placed * 64 + pictures, pictures]
    const counted = new Set<string>()
    for (const [shape, count] of [...this.batches.uses(), ...this.arrangements.copies.uses()]) {
      const bytes = this.drawables.bytes(shape)
      if (!counted.has(shape)) instanced += bytes
      counted.add(shape)
      copied += bytes * count
    }
    return {
      placed: single.placed + copies.placed,
      triangles: single.triangles + copies.triangles,
      memory: { instanced, copied },
    }
  }

  dispose(): void {
    this.marks.dispose()
    this.lights.dispose()
    this.batches.dispose()
    this.arrangements.copies.clear()
  }

  private showThing(id: string): void {
    if (copyOf(id)) return
    const { kind, own } = this.level.need(id)
    const shape = this.shapeOf(id)
    const shown = !this.level.isHidden(id) && !this.level.isSource(id)
    if (kind === 'arrangement' && shown) this.arrangements.show(id)
    else this.arrangements.remove(id)
    if (shape !== null && shown) this.batches.set(id, shape, this.matrixOf(id))
    else this.batches.remove(id)
    if (isMarkKind(kind) && shown) this.marks.set(id, kind, this.previewed.own.get(id) ?? own, this.matrixOf(id))
    else this.marks.remove(id)
    this.lights.set(id, shown ? shiningOf(this.level, id, this.matrixOf(id), this.previewed.own.get(id)) : [])
  }

  private hide(id: string): void {
    this.batches.remove(id)
    this.arrangements.remove(id)
    this.marks.remove(id)
    this.lights.remove(id)
  }

  /**
   * The arrangements of the level whose copies are others in a preview: it has another rule, or what is in them or they
   * themselves on the ground are moved.
   */
  private otherArrangements({ arranged, dealt, written, matrices }: Preview): Set<string> {
    const found = new Set([...arranged.keys(), ...dealt.keys()].filter(id => this.level.has(id)))
    for (const id of written) for (const above of this.arrangementsAbove(id)) found.add(above)
    for (const id of matrices.keys()) if (this.level.arrangementIds.has(id) && this.level.hugsGround(id)) found.add(id)
    return found
  }

  private arrangementsAbove(id: string): string[] {
    const found: string[] = []
    if (!this.level.has(id)) return found
    for (let at = this.level.arrangementAbove(id); at !== null; at = this.level.arrangementAbove(at)) found.push(at)
    return found
  }
}
