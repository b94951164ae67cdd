import { copyOf } from '~~/core/scene/copy-id'
import type { LevelView } from '~~/core/scene/level-view'
import type { Drawables } from './drawables'
import type { OutlineKind } from './outline'
import { Outline } from './outline'
import type { ShownLevel } from './shown-level'

export type Selection = { ids: ReadonlySet<string>; last: string | null }

/** Which things are outlined: what is picked, and what a click would pick. */
export class Outlined {
  readonly outline: Outline
  private selection: Selection = { ids: new Set(), last: null }
  private hovered: string | null = null
  /** Whether what a click would pick is outlined. */
  hoverShown = true

  constructor(
    private readonly level: LevelView,
    private readonly shown: ShownLevel,
    drawables: Drawables,
  ) {
    this.outline = new Outline(drawables.whole, drawables.box)
  }

  setSelection(selection: Selection): void {
    this.selection = selection
    this.redraw()
  }

  /** @returns whether that is another than before */
  setHovered(id: string | null): boolean {
    if (id === this.hovered) return false
    this.hovered = id
    this.outline.clear('hovered')
    if (id !== null && this.hoverShown && !this.selection.ids.has(id)) this.addBelow('hovered', id)
    return true
  }

  /** Outlines what is picked as it is shown now. */
  redraw(): void {
    this.outline.clear('picked')
    this.outline.clear('last')
    for (const id of this.selection.ids) {
      if (this.level.has(id)) this.addBelow(id === this.selection.last ? 'last' : 'picked', id)
    }
  }

  private addBelow(kind: OutlineKind, id: string): void {
    const { matrixOf, arrangements } = this.shown
    const copy = copyOf(id)
    if (copy) {
      this.outline.setCopies(kind, id, arrangements.shapesOfCopy(id), matrixOf(copy.arrangementId))
      return
    }
    for (const below of this.level.subtree(id)) {
      if (this.level.isHidden(below)) continue
      const isSource = this.level.isSource(below)
      if (!isSource && this.level.arrangementIds.has(below))
        this.outline.setCopies(kind, below, arrangements.shapesOf(below), matrixOf(below))
      // A source that is picked itself is outlined where it stands; the arrangement with all of its copies.
      if (isSource && below !== id && !this.level.isSource(id)) continue
      const shape = this.level.shapeOf(below)
      if (shape !== null) this.outline.set(kind, below, shape, matrixOf(below))
    }
  }
}
