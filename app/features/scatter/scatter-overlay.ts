import { BufferAttribute, BufferGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial, Vector3 } from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import type { Board } from '~/stage/board'
import type { StageLayer } from '~/stage/stage-layer'
import type { View } from '~/stage/view'

/** Corners of the brush's ring. */
const CORNERS = 48
/** How far a tint lies before its surface, for the depth buffer. */
const BEFORE = -4

/** A closed or open line, in the world. */
export type AreaOutline = { points: readonly Vector3[]; closed: boolean; hole: boolean }

/** What is drawn over surfaces for a scatter: its areas, how much its limits let through, and the ring of the brush. */
export class ScatterOverlay implements StageLayer {
  readonly inLevel = new Group()
  readonly over = new Group()
  readonly inPictures = true
  private readonly tinted = new Mesh(
    new BufferGeometry(),
    new MeshBasicMaterial({
      vertexColors: true,
      transparent: true,
      depthWrite: false,
      side: DoubleSide,
      polygonOffset: true,
      polygonOffsetFactor: BEFORE,
      polygonOffsetUnits: BEFORE,
      toneMapped: false,
    }),
  )
  private readonly areas = lineOf(2.5)
  private readonly holes = lineOf(2.5)
  private readonly ring = lineOf(2)
  private through: readonly [number, number, number] = [0, 0, 0]
  private out: readonly [number, number, number] = [0, 0, 0]
  private last: { positions: Float32Array; through: Float32Array } | null = null

  constructor() {
    this.tinted.frustumCulled = false
    this.tinted.visible = false
    this.inLevel.add(this.tinted)
    this.over.add(this.areas, this.holes, this.ring)
    this.outline([])
    this.brush(null)
  }

  get isShown(): boolean {
    return this.areas.visible || this.holes.visible || this.ring.visible
  }

  setBoard(board: Board): void {
    this.areas.material.color.set(board.colors.primary)
    this.holes.material.color.set(board.colors.picked)
    this.ring.material.color.set(board.colors.action)
    const rgb = (name: 'primary' | 'picked') =>
      new MeshBasicMaterial({ color: board.colors[name] }).color.toArray() as [number, number, number]
    this.through = rgb('primary')
    this.out = rgb('picked')
    this.tint(this.last)
  }

  /** Colours surfaces by how much is let through at the corners of triangles: all, or none. */
  tint(tint: { positions: Float32Array; through: Float32Array } | null): void {
    this.last = tint
    this.tinted.visible = tint !== null
    if (!tint) return
    const colors = new Float32Array(tint.through.length * 4)
    tint.through.forEach((share, i) => {
      for (let k = 0; k < 3; k++) colors[i * 4 + k] = this.out[k]! + (this.through[k]! - this.out[k]!) * share
      colors[i * 4 + 3] = 0.3 + 0.15 * Math.abs(share * 2 - 1)
    })
    this.tinted.geometry.dispose()
    this.tinted.geometry = new BufferGeometry()
      .setAttribute('position', new BufferAttribute(tint.positions, 3))
      .setAttribute('color', new BufferAttribute(colors, 4))
  }

  outline(all: readonly AreaOutline[]): void {
    draw(
      this.areas,
      all.filter(({ hole }) => !hole),
    )
    draw(
      this.holes,
      all.filter(({ hole }) => hole),
    )
  }

  /** Lays the brush's ring onto a surface; null takes it away. */
  brush(at: { point: Vector3; normal: Vector3; radius: number } | null): void {
    if (!at) return draw(this.ring, [])
    const u = new Vector3(Math.abs(at.normal.x) < 0.9 ? 1 : 0, Math.abs(at.normal.x) < 0.9 ? 0 : 1, 0)
      .cross(at.normal)
      .normalize()
    const v = at.normal.clone().cross(u)
    const circle = (radius: number) =>
      Array.from({ length: CORNERS }, (_, i) =>
        at.point
          .clone()
          .addScaledVector(u, radius * Math.cos((i * 2 * Math.PI) / CORNERS))
          .addScaledVector(v, radius * Math.sin((i * 2 * Math.PI) / CORNERS))
          .addScaledVector(at.normal, 0.02),
      )
    // The inner one is where it is at full strength.
    draw(
      this.ring,
      [at.radius, at.radius / 2].map(radius => ({ points: circle(radius), closed: true, hole: false })),
    )
  }

  update(view: View): void {
    for (const line of [this.areas, this.holes, this.ring])
      line.material.resolution.set(view.rect.width, view.rect.height)
  }

  dispose(): void {
    for (const each of [this.tinted, this.areas, this.holes, this.ring]) {
      each.geometry.dispose()
      each.material.dispose()
    }
  }
}

function lineOf(width: number): LineSegments2 {
  const line = new LineSegments2(
    new LineSegmentsGeometry(),
    new LineMaterial({ linewidth: width, depthTest: false, transparent: true, toneMapped: false }),
  )
  line.frustumCulled = false
  return line
}

function draw(line: LineSegments2, all: readonly AreaOutline[]): void {
  const numbers = all.flatMap(({ points, closed }) =>
    points.flatMap((point, i) => {
      const next = points[i + 1] ?? (closed ? points[0] : undefined)
      return next ? [...point.toArray(), ...next.toArray()] : []
    }),
  )
  line.visible = numbers.length > 0
  if (!line.visible) return
  line.geometry.dispose()
  line.geometry = new LineSegmentsGeometry().setPositions(numbers)
}
