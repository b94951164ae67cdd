import type { Box3 } from 'three'
import { Color, Group } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import type { Severity } from '~~/core/check/definition'
import type { Board } from '~/stage/board'
import { edgesOf } from '~/stage/box-edges'
import type { StageLayer } from '~/stage/stage-layer'
import type { View } from '~/stage/view'

/** Frames that are drawn; more would be a thicket. */
const MOST = 300

/** Frames the things that the level check has found something about, as far as they are in its list. */
export class FindingFrames implements StageLayer {
  readonly inLevel = null
  readonly over = new Group()
  readonly inPictures = false
  private readonly lines = new LineSegments2(
    new LineSegmentsGeometry(),
    new LineMaterial({
      linewidth: 1.6,
      vertexColors: true,
      depthTest: false,
      transparent: true,
      opacity: 0.85,
      toneMapped: false,
    }),
  )
  private colors: Record<Severity, Color> = { error: new Color(), warning: new Color(), note: new Color() }
  private last: readonly { box: Box3; severity: Severity }[] = []

  constructor() {
    this.lines.frustumCulled = false
    this.over.add(this.lines)
    this.set([])
  }

  get isShown(): boolean {
    return this.lines.visible
  }

  setBoard({ colors }: Board): void {
    this.colors = { error: new Color(colors.error), warning: new Color(colors.action), note: new Color(colors.primary) }
    this.set(this.last)
  }

  set(framed: readonly { box: Box3; severity: Severity }[]): void {
    this.last = framed.filter(({ box }) => !box.isEmpty()).slice(0, MOST)
    this.lines.visible = this.last.length > 0
    if (!this.lines.visible) return
    const [positions, colors]: number[][] = [[], []]
    for (const { box, severity } of this.last) {
      for (const [a, b] of edgesOf(box)) positions!.push(...a.toArray(), ...b.toArray())
      for (let i = 0; i < 24; i++) colors!.push(...this.colors[severity].toArray())
    }
    this.lines.geometry.dispose()
    this.lines.geometry = new LineSegmentsGeometry().setPositions(positions!).setColors(colors!)
  }

  update(view: View): void {
    this.lines.material.resolution.set(view.rect.width, view.rect.height)
  }

  dispose(): void {
    this.lines.geometry.dispose()
    this.lines.material.dispose()
  }
}
