import type { Vector3 } from 'three'
import { Group } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import type { Board } from '~/stage/board'
import { OVERLAY } from '~/stage/handles/drawings'
import type { StageLayer } from '~/stage/stage-layer'
import type { View } from '~/stage/view'

/** From the point of a thing that is kept to where what holds it is. */
export type Link = readonly [held: Vector3, holder: Vector3]

/** Pixels: of the line, of its halo, of a link of the chain, and of the ring at the holder's end. */
const [LINE, HALO, CHAIN, RING] = [2.2, 4.6, 9, 5]

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
    for (const [held, holder] of this.links) {
      const way = holder.clone().sub(held)
      const pixel = view.metresPerPixel(held.clone().lerp(holder, 0.5))
      const count = Math.min(Math.max(Math.round(way.length() / pixel / CHAIN), 1), 400)
      for (let i = 0; i < count; i += 2)
        for (const at of [i, i + 1.2])
          held
            .clone()
            .lerp(holder, Math.min(at / count, 1))
            .toArray(points, points.length)
      const { right, up } = view.directions()
      for (let i = 0; i < 8; i++)
        for (const at of [i, i + 1]) {
          const angle = (at * Math.PI) / 4
          holder
            .clone()
            .addScaledVector(right, Math.cos(angle) * RING * pixel)
            .addScaledVector(up, Math.sin(angle) * RING * pixel)
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

  dispose(): void {
    for (const of of [this.halo, this.line]) {
      of.geometry.dispose()
      of.material.dispose()
    }
  }
}

function strokes(width: number, order: number): LineSegments2 {
  const made = new LineSegments2(new LineSegmentsGeometry(), new LineMaterial({ ...OVERLAY, linewidth: width }))
  made.renderOrder = order
  made.frustumCulled = false
  return made
}
