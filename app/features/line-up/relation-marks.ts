import type { Vector3 } from 'three'
import { Group } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import type { Board } from '~/stage/board'
import { OVERLAY } from '~/stage/handles/drawings'
import type { StageLayer } from '~/stage/stage-layer'
import type { View } from '~/stage/view'
import type { ScreenPoint } from '~~/core/math/screen'

/** From the point of a thing that is kept to where what holds it is. `key` names the relation. */
export type Link = { key: string; held: Vector3; holder: Vector3; isChosen: boolean }

/** Pixels: of the line, of its halo, of a link of the chain, and of the ring at the holder's end, also when chosen. */
const [LINE, HALO, CHAIN, RING, CHOSEN_RING] = [2.2, 4.6, 9, 5, 8]
/** Pixels: seen shorter than this a link hangs out aside, so that it can be seen and clicked; and how far. */
const [SHORT, ASIDE] = [20, 30]
/** Pixels from a link within which a press means it. */
const REACH = 6

/** What is picked, tied to what holds it: a chain of short strokes with a ring at the end that holds. */
export class RelationMarks implements StageLayer {
  readonly inLevel = null
  readonly over = new Group()
  readonly inPictures = false
  private links: readonly Link[] = []
  private readonly halo = strokes(HALO, 6)
  private readonly line = strokes(LINE, 7)

  constructor() {
    this.over.add(this.halo, this.line)
  }

  get isShown(): boolean {
    return this.links.length > 0
  }

  set(links: readonly Link[]): void {
    this.links = links
  }

  setBoard({ colors }: Board): void {
    this.line.material.color.set(colors.primary)
    this.halo.material.color.set(colors.surface)
  }

  update(view: View): void {
    const points: number[] = []
    const { right, up } = view.directions()
    for (const { held, holder, isChosen } of this.seenIn(view)) {
      const way = holder.clone().sub(held)
      const pixel = view.metresPerPixel(held.clone().lerp(holder, 0.5))
      const count = Math.min(Math.max(Math.round(way.length() / pixel / CHAIN), 1), 400)
      for (let i = 0; i < count; i += 2)
        for (const at of [i, i + 1.2])
          held
            .clone()
            .lerp(holder, Math.min(at / count, 1))
            .toArray(points, points.length)
      for (const radius of isChosen ? [RING, CHOSEN_RING] : [RING])
        for (let i = 0; i < 8; i++)
          for (const at of [i, i + 1]) {
            const angle = (at * Math.PI) / 4
            holder
              .clone()
              .addScaledVector(right, Math.cos(angle) * radius * pixel)
              .addScaledVector(up, Math.sin(angle) * radius * pixel)
              .toArray(points, points.length)
          }
    }
    for (const of of [this.halo, this.line]) {
      of.geometry.dispose()
      of.geometry = new LineSegmentsGeometry()
      if (points.length > 0) of.geometry.setPositions(points)
      of.visible = points.length > 0
    }
  }

  /** The link under a pixel, the nearest one; null if there is none. */
  graspAt(at: ScreenPoint, view: View): string | null {
    let best: { key: string; away: number } | null = null
    for (const { key, held, holder } of this.seenIn(view)) {
      const [a, b] = [view.project(held), view.project(holder)]
      if (!a || !b) continue
      const away = Math.min(awayFrom(at, a, b), Math.hypot(at.x - b.x, at.y - b.y) - RING)
      if (away <= REACH && away < (best?.away ?? Infinity)) best = { key, away }
    }
    return best?.key ?? null
  }

  /** The links as a view shows them: those too short to be seen hang out aside, one beside the other. */
  private seenIn(view: View): Link[] {
    const { right, up, forward } = view.directions()
    let aside = 0
    return this.links.map(link => {
      const { held, holder } = link
      const way = holder.clone().sub(held)
      const pixel = view.metresPerPixel(held)
      if (way.addScaledVector(forward, -way.dot(forward)).length() >= SHORT * pixel) return link
      const angle = -Math.PI / 4 - (aside++ * Math.PI) / 5
      const end = held
        .clone()
        .addScaledVector(right, Math.cos(angle) * ASIDE * pixel)
        .addScaledVector(up, Math.sin(angle) * ASIDE * pixel)
      return { ...link, holder: end }
    })
  }

  dispose(): void {
    for (const of of [this.halo, this.line]) {
      of.geometry.dispose()
      of.material.dispose()
    }
  }
}

/** Pixels from a point to a line between two others. */
function awayFrom(at: ScreenPoint, a: ScreenPoint, b: ScreenPoint): number {
  const [x, y] = [b.x - a.x, b.y - a.y]
  const share = Math.min(Math.max(((at.x - a.x) * x + (at.y - a.y) * y) / Math.max(x * x + y * y, 1e-9), 0), 1)
  return Math.hypot(at.x - a.x - share * x, at.y - a.y - share * y)
}

function strokes(width: number, order: number): LineSegments2 {
  const made = new LineSegments2(new LineSegmentsGeometry(), new LineMaterial({ ...OVERLAY, linewidth: width }))
  made.renderOrder = order
  made.frustumCulled = false
  return made
}
