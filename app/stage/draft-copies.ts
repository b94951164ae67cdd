import type { Box3 } from 'three'
import { Matrix4 } from 'three'
import { reachOfCopies } from '~~/core/scene/copies-reach'
import type { ShapeCopies } from '~~/core/scene/expand'
import { CopyBatches } from './copy-batches'
import type { Drawables } from './drawables'
import type { StageLayer } from './stage-layer'

/** Copies of a scatter that is not kept yet, in the world. */
export class DraftCopies implements StageLayer {
  readonly inLevel
  readonly over = null
  readonly inPictures = true
  readonly isShown = false
  private readonly batches: CopyBatches
  private shown: readonly ShapeCopies[] = []

  constructor(drawables: Drawables) {
    this.batches = new CopyBatches(drawables.whole, { boxOf: drawables.box })
    this.inLevel = this.batches.object
  }

  show(copies: readonly ShapeCopies[] | null): void {
    this.shown = copies ?? []
    if (copies) this.batches.set('draft', copies, new Matrix4())
    else this.batches.clear()
  }

  /** Adds to a box what they take up. @param boxOf the box of a shape in its own axes */
  reach(boxOf: (shape: string) => Box3 | undefined, box: Box3): void {
    reachOfCopies(this.shown, new Matrix4(), boxOf, box)
  }

  setBoard(): void {}

  update(): void {}

  dispose(): void {
    this.batches.clear()
  }
}
