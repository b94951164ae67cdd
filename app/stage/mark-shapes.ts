import type { Matrix4, Vector3 } from 'three'
import { BoxGeometry, CylinderGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial, SphereGeometry } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import { isMarker } from '~~/core/level/kinds'
import type { Placement } from '~~/core/level/schema'
import type { LevelView } from '~~/core/scene/level-view'
import type { Board } from './board'
import type { Line } from './mark-lines'
import { linesOfMark } from './mark-lines'
import type { Claim } from './slot'
import { Slot } from './slot'
import type { View } from './view'

/** A mark as it is to be drawn: with its own fields, and where. */
export type ShownMark = { own: Placement['own']; matrix: Matrix4 }

/** Lines that are drawn of marks. */
const MOST_LINES = 40_000

/**
 * Draws what marks mean: markers always, cameras and lights while they are picked or put down. Those that do not move
 * keep what was worked out for them; a drag works out only its own.
 */
export class MarkShapes {
  /** Within the level's own scene, so that things hide it. */
  readonly object = new Group()
  private readonly shown = new Map<string, ShownMark & { means: string }>()
  private readonly known = new Map<string, { of: ShownMark; lines: Line[] }>()
  private readonly volumes = new Map<string, Mesh>()
  private readonly quiet = lineOf(1.6)
  private readonly loud = lineOf(2)
  private readonly way = lineOf(2)
  private moved: ReadonlyMap<string, Matrix4> = new Map()
  private picked: ReadonlySet<string> = new Set()
  private draft: ShownMark[] = []
  private readonly drafts = new Slot<ShownMark[]>(marks => {
    this.draft = marks ?? []
    this.isOld = true
  })
  private isOld = true
  private hasLoud = false
  /** While a picture is taken, or by the pane's choice. */
  private kinds = { camera: true, light: true, marker: true }

  constructor(private readonly level: LevelView) {
    this.object.add(this.quiet, this.loud, this.way)
  }

  setBoard({ colors }: Board): void {
    this.quiet.material.color.set(colors.primary)
    this.loud.material.color.set(colors.picked)
    this.way.material.color.set(colors.action)
  }

  setSettings(kinds: { camera: boolean; light: boolean; marker: boolean }): void {
    this.kinds = kinds
    this.isOld = true
  }

  /** @returns whether any shape looks otherwise now */
  setPicked(ids: ReadonlySet<string>): boolean {
    const before = this.picked
    this.picked = ids
    const isOther = [...this.shown.values()].some(({ means }) => ids.has(means) !== before.has(means))
    this.isOld ||= isOther
    return isOther
  }

  /** @param means what a click on the mark picks */
  set(id: string, own: Placement['own'], matrix: Matrix4, means: string): void {
    this.shown.set(id, { own, matrix: matrix.clone(), means })
    this.isOld = true
  }

  remove(id: string): void {
    if (!this.shown.delete(id)) return
    this.known.delete(id)
    this.dropVolume(id)
    this.isOld = true
  }

  /** Where things stand while something is dragged, for what points at them. */
  setMoved(moved: ReadonlyMap<string, Matrix4>): void {
    if (moved.size + this.moved.size === 0) return
    this.moved = moved
    // What points at something that moves has to be drawn anew.
    for (const [id, { own }] of this.shown)
      if (('aim' in own && own.aim) || ('arrow' in own && own.arrow)) this.known.delete(id)
    this.isOld = true
  }

  /** Shows marks that are being put down. */
  claimDraft(): Claim<ShownMark[]> {
    return this.drafts.claim()
  }

  update(view: View): void {
    if (this.isOld) this.redraw()
    // Through a camera its own lines would be all around.
    this.loud.visible = this.hasLoud && view.lens === null
    for (const line of [this.quiet, this.loud, this.way])
      line.material.resolution.set(view.rect.width, view.rect.height)
  }

  dispose(): void {
    for (const id of [...this.volumes.keys()]) this.dropVolume(id)
    for (const line of [this.quiet, this.loud, this.way]) {
      line.geometry.dispose()
      line.material.dispose()
    }
  }

  private redraw(): void {
    this.isOld = false
    const sets: Record<'quiet' | 'loud' | 'way', Line[]> = { quiet: [], loud: [], way: [] }
    for (const [id, mark] of this.shown) {
      const isPicked = this.picked.has(mark.means)
      const kind = 'fieldOfView' in mark.own ? 'camera' : 'light' in mark.own ? 'light' : 'marker'
      const isDrawn = this.kinds[kind] || isPicked
      this.showVolume(id, mark, isDrawn)
      if (!isDrawn || (kind !== 'marker' && !isPicked)) continue
      const lines = this.linesOf(id, mark)
      sets[isPicked ? 'loud' : isMarker(mark.own) && mark.own.marker === 'walk' ? 'way' : 'quiet'].push(...lines)
    }
    for (const mark of this.draft) sets.loud.push(...linesOfMark(this.level, mark, mark.matrix, this.moved))
    for (const name of ['quiet', 'loud', 'way'] as const) put(this[name], sets[name])
    this.hasLoud = this.loud.visible
  }

  private linesOf(id: string, mark: ShownMark): Line[] {
    const known = this.known.get(id)
    if (known?.of === mark) return known.lines
    const lines = linesOfMark(this.level, mark, mark.matrix, this.moved)
    this.known.set(id, { of: mark, lines })
    return lines
  }

  private showVolume(id: string, { own, matrix }: ShownMark, isDrawn: boolean): void {
    if (!isDrawn || !isMarker(own) || own.marker !== 'volume') return this.dropVolume(id)
    let mesh = this.volumes.get(id)
    const geometry = SHAPES[own.shape]
    if (!mesh) {
      mesh = new Mesh(
        geometry,
        new MeshBasicMaterial({
          transparent: true,
          opacity: 0.16,
          depthWrite: false,
          side: DoubleSide,
          toneMapped: false,
        }),
      )
      mesh.matrixAutoUpdate = false
      mesh.renderOrder = 2
      this.volumes.set(id, mesh)
      this.object.add(mesh)
    }
    mesh.geometry = geometry
    ;(mesh.material as MeshBasicMaterial).color.set(own.color)
    mesh.matrix.copy(matrix)
    mesh.matrixWorldNeedsUpdate = true
  }

  private dropVolume(id: string): void {
    const mesh = this.volumes.get(id)
    if (!mesh) return
    this.object.remove(mesh)
    ;(mesh.material as MeshBasicMaterial).dispose()
    this.volumes.delete(id)
  }
}

/** Of 1 m each way, standing on the ground. */
const SHAPES = {
  box: new BoxGeometry(1, 1, 1).translate(0, 0.5, 0),
  ball: new SphereGeometry(0.5, 24, 16).translate(0, 0.5, 0),
  cylinder: new CylinderGeometry(0.5, 0.5, 1, 32).translate(0, 0.5, 0),
}

function lineOf(width: number): LineSegments2 {
  const line = new LineSegments2(
    new LineSegmentsGeometry(),
    new LineMaterial({ linewidth: width, transparent: true, toneMapped: false }),
  )
  line.frustumCulled = false
  line.renderOrder = 3
  line.visible = false
  return line
}

function put(line: LineSegments2, lines: readonly Line[]): void {
  line.visible = lines.length > 0
  line.geometry.dispose()
  if (!line.visible) return
  const positions = new Float32Array(Math.min(lines.length, MOST_LINES) * 6)
  for (let i = 0; i < positions.length / 6; i++) {
    const [from, to]: readonly [Vector3, Vector3] = lines[i]!
    from.toArray(positions, i * 6)
    to.toArray(positions, i * 6 + 3)
  }
  line.geometry = new LineSegmentsGeometry().setPositions(positions)
}
