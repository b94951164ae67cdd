import type { WebGLRenderer } from 'three'
import { copyOf } from '~~/core/scene/copy-id'
import type { LevelView } from '~~/core/scene/level-view'
import type { Board } from './board'
import type { Drawables } from './drawables'
import type { Outlines } from './outline'
import { OthersOutlines, OwnOutlines } from './outline'
import type { ScenePicture } from './scene-picture'
import type { ShownLevel } from './shown-level'
import type { View } from './view'

export type Selection = { ids: ReadonlySet<string>; last: string | null }
/** What somebody else has picked, and their colour. */
export type OthersSelection = { ids: readonly string[]; color: string }

/** Things that are outlined because others have picked them, at the most, with all that hangs below. */
const MOST_OF_OTHERS = 1000

/** Which things are outlined: what is picked, what a click would pick, and what others have picked. */
export class Outlined {
  private readonly own: OwnOutlines
  private readonly others: OthersOutlines
  private selection: Selection = { ids: new Set(), last: null }
  private othersPicked: readonly OthersSelection[] = []
  private hovered: string | null = null
  /** Whether what a click would pick is outlined. */
  hoverShown = true

  constructor(
    private readonly level: LevelView,
    private readonly shown: ShownLevel,
    drawables: Drawables,
  ) {
    this.own = new OwnOutlines(drawables.whole, drawables.box)
    this.others = new OthersOutlines(drawables.whole, drawables.box)
  }

  setBoard(board: Board): void {
    this.own.setBoard(board)
  }

  setSelection(selection: Selection): void {
    this.selection = selection
    this.redraw()
  }

  setOthers(picked: readonly OthersSelection[]): void {
    this.othersPicked = picked
    this.redraw()
  }

  /** @returns whether that is another than before */
  setHovered(id: string | null): boolean {
    if (id === this.hovered) return false
    this.hovered = id
    this.own.hovered.clear()
    if (id !== null && this.hoverShown && !this.selection.ids.has(id)) this.addBelow(this.own.hovered, id)
    return true
  }

  /** Outlines what is picked as it is shown now. */
  redraw(): void {
    const { own, others } = this
    own.picked.clear()
    own.last.clear()
    for (const id of this.selection.ids) {
      if (this.level.has(id)) this.addBelow(id === this.selection.last ? own.last : own.picked, id)
    }
    for (const outlines of others.all) outlines.clear()
    let left = MOST_OF_OTHERS
    for (const { ids, color } of this.othersPicked)
      for (const id of ids) if (this.level.has(id)) left = this.addBelow(others.of(color), id, left)
  }

  /** Drops what is kept for shapes that are not outlined any more. */
  prune(): void {
    for (const outlines of this.all) outlines.prune()
  }

  /** Outlines nothing any more of parts that look otherwise now, until it is drawn anew. */
  forget(parts: ReadonlySet<string>): void {
    for (const outlines of this.all) outlines.forget(parts)
  }

  /** Draws them into the pane whose viewport is set; see `EdgeMask.draw`. */
  draw(
    renderer: WebGLRenderer,
    view: View,
    canvasHeight: number,
    coarse: { picture: ScenePicture; ratio: number } | null = null,
  ): void {
    // One's own lie over those of others.
    for (const { mask } of [this.others, this.own]) mask.draw(renderer, view, canvasHeight, coarse)
  }

  dispose(): void {
    for (const { mask } of [this.others, this.own]) mask.dispose()
  }

  private get all(): Outlines[] {
    return [...this.own.all, ...this.others.all]
  }

  /** @param left how many things may be outlined @returns how many still may */
  private addBelow(outlines: Outlines, id: string, left = Infinity): number {
    const { matrixOf, arrangements } = this.shown
    const copy = copyOf(id)
    if (copy) {
      outlines.setCopies(id, arrangements.shapesOfCopy(id), matrixOf(copy.arrangementId))
      return left - 1
    }
    for (const below of this.level.subtree(id)) {
      if (left-- <= 0) return 0
      if (this.level.isHidden(below)) continue
      const isSource = this.level.isSource(below)
      if (!isSource && this.level.arrangementIds.has(below))
        outlines.setCopies(below, arrangements.shapesOf(below), matrixOf(below))
      // A source that is picked itself is outlined where it stands; the arrangement with all of its copies.
      if (isSource && below !== id && !this.level.isSource(id)) continue
      const shape = this.level.shapeOf(below)
      if (shape !== null) outlines.set(below, shape, matrixOf(below))
    }
    return left
  }
}
