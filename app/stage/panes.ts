import type { Box3 } from 'three'
import type { ScreenPoint } from '~~/core/math/screen'
import type { ViewKind } from '~~/core/math/pose'
import type { Rect } from './view'
import { View } from './view'

export type Layout = 'one' | 'two' | 'four'

const KINDS: ViewKind[] = ['walkaround', 'plan', 'front', 'side']
/** Pixels between panes. */
const GAP = 2

/** The views of the stage and where on it each is shown. */
export class Panes {
  readonly views: View[]
  private layout: Layout = 'one'
  private readonly everShown = new WeakSet<View>()
  private active = 0

  /** @param bounds of all that the level shows */
  constructor(
    calm: boolean,
    private readonly bounds: () => Box3,
    requestDraw: () => void,
  ) {
    this.views = KINDS.map(kind => new View(kind, calm, bounds, requestDraw))
  }

  /** The view that keys and the strips around the stage act in: the one last pointed at. */
  get view(): View {
    return this.views[this.active]!
  }

  get activePane(): number {
    return this.active
  }

  /** The view under a pixel, which becomes the active one. */
  viewAt(at: ScreenPoint): View {
    const found = this.shown().find(pane => this.views[pane]!.contains(at))
    if (found !== undefined) this.active = found
    return this.view
  }

  /** Fits the panes of a layout into a stage of some pixels. */
  layOut(width: number, height: number, layout = this.layout): void {
    this.layout = layout
    const [halfX, halfY] = [(width - GAP) / 2, (height - GAP) / 2]
    const whole: Rect = { x: 0, y: 0, width, height }
    if (layout === 'one') this.view.setRect(whole)
    else if (layout === 'two')
      [0, 1].forEach(pane => this.views[pane]!.setRect({ x: pane * (halfX + GAP), y: 0, width: halfX, height }))
    else
      this.views.forEach((view, pane) =>
        view.setRect({
          x: (pane % 2) * (halfX + GAP),
          y: Math.floor(pane / 2) * (halfY + GAP),
          width: halfX,
          height: halfY,
        }),
      )
    if (!this.shown().includes(this.active)) this.active = 0
    for (const pane of this.shown()) this.firstShown(this.views[pane]!)
  }

  /** Numbers of the panes that are shown. */
  shown(): number[] {
    return this.layout === 'one' ? [this.active] : this.layout === 'two' ? [0, 1] : [0, 1, 2, 3]
  }

  /** A fixed view shows the whole level when its pane is opened for the first time. */
  private firstShown(view: View): void {
    if (view.kind === 'walkaround' || this.everShown.has(view)) return
    this.everShown.add(view)
    view.frame(this.bounds(), false)
  }
}
