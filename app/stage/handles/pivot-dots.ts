import type { Sprite } from 'three'
import { Group } from 'three'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Handle } from '~~/core/edit/handles/handle'
import type { PivotPlace } from '~~/core/edit/handles/pivot'
import { PIVOT_PLACES } from '~~/core/edit/handles/pivot'
import { gripPoint } from '~~/core/edit/handles/size'
import type { Board } from '../board'
import { distance, dotTexture, redraw, sprite } from './drawings'
import type { HandleSetting, HandleSet } from './handle-set'
import { sameHandle } from './handle-set'

const DOT = 4
const REACH = 5

/** The 27 places of the pivot on the box of what is picked, to be clicked. */
export class PivotDots implements HandleSet {
  readonly object = new Group()
  private readonly dots = new Map<PivotPlace, Sprite>(PIVOT_PLACES.map(place => [place, sprite(null, 1, 5)]))

  constructor() {
    this.object.add(...this.dots.values())
  }

  setBoard(board: Board): void {
    for (const dot of this.dots.values()) redraw(dot, dotTexture(board.colors['on-surface'], '#fff'))
  }

  update({ frame: { box }, view, hot }: HandleSetting): void {
    this.object.visible = box !== null
    if (!box) return
    for (const [place, dot] of this.dots) {
      dot.position.copy(gripPoint(box, place))
      const isHot = sameHandle(hot, { do: 'pivot', place })
      dot.scale.setScalar(DOT * (isHot ? 3.4 : 2) * view.metresPerPixel(dot.position))
    }
  }

  hit(at: ScreenPoint, { frame: { box }, view }: HandleSetting): Handle | null {
    if (!box) return null
    const found = PIVOT_PLACES.map(place => {
      const point = gripPoint(box, place)
      const seen = view.project(point)
      return { place, away: seen ? distance(at, seen) : Infinity, depth: point.distanceTo(view.eye) }
    }).filter(({ away }) => away <= DOT + REACH)
    const [nearest] = found.sort((a, b) => (Math.abs(a.away - b.away) > 2 ? a.away - b.away : a.depth - b.depth))
    return nearest ? { do: 'pivot', place: nearest.place } : null
  }

  grip(handle: Handle, { frame: { box }, view }: HandleSetting): ScreenPoint | null {
    return handle.do === 'pivot' && box ? view.project(gripPoint(box, handle.place)) : null
  }

  dispose(): void {
    for (const dot of this.dots.values()) {
      dot.material.map?.dispose()
      dot.material.dispose()
    }
  }
}
