import type { CanvasTexture } from 'three'
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  Sprite,
  SpriteMaterial,
  Vector3,
} from 'three'
import type { Board } from './board'
import { diamondTexture, OVERLAY } from './handles/drawings'
import type { StageLayer } from './stage-layer'
import type { View } from './view'

/** What is shown of the snapping: points that are or could be caught, and faces that meet (four corners each). */
export type Hints = {
  source?: Vector3
  target?: Vector3
  faces?: readonly (readonly Vector3[])[]
  /** Ends that are free, with where they point. */
  ends?: readonly { point: Vector3; direction: Vector3 }[]
}

const MARK = 9
/** Over every handle: what is caught is what the press takes hold of. */
const ON_TOP = 30
const MOST_FACES = 8
/** Pixels, and ends that are drawn. */
const [END, MOST_ENDS] = [14, 200]

/** Marks what a drag would be caught by, before it and while it goes on. */
export class SnapHints implements StageLayer {
  readonly inLevel = null
  readonly over = new Group()
  readonly inPictures = false
  private readonly source = new Sprite(new SpriteMaterial(OVERLAY))
  private readonly target = new Sprite(new SpriteMaterial(OVERLAY))
  private readonly faces = new Mesh(
    new BufferGeometry().setAttribute('position', new BufferAttribute(new Float32Array(MOST_FACES * 18), 3)),
    new MeshBasicMaterial({ ...OVERLAY, side: DoubleSide, opacity: 0.6 }),
  )

  private readonly ends = new LineSegments(new BufferGeometry(), new LineBasicMaterial(OVERLAY))
  private shownEnds: NonNullable<Hints['ends']> = []

  constructor() {
    this.faces.frustumCulled = this.ends.frustumCulled = false
    this.over.add(this.faces, this.ends, this.source, this.target)
    this.source.renderOrder = this.target.renderOrder = ON_TOP
    this.show(null)
  }

  setBoard(board: Board): void {
    this.dress(this.source, diamondTexture(board.colors.picked, false))
    this.dress(this.target, diamondTexture(board.colors.primary, true))
    this.faces.material.color.set(board.colors.action)
    this.ends.material.color.set(board.colors.picked)
  }

  show(hints: Hints | null): void {
    this.source.visible = hints?.source !== undefined
    this.target.visible = hints?.target !== undefined
    if (hints?.source) this.source.position.copy(hints.source)
    if (hints?.target) this.target.position.copy(hints.target)
    this.shownEnds = (hints?.ends ?? []).slice(0, MOST_ENDS)
    this.ends.visible = this.shownEnds.length > 0
    const faces = (hints?.faces ?? []).filter(corners => corners.length === 4).slice(0, MOST_FACES)
    const position = this.faces.geometry.getAttribute('position')
    faces.forEach((corners, face) =>
      [0, 1, 2, 0, 2, 3].forEach((corner, i) =>
        position.setXYZ(face * 6 + i, corners[corner]!.x, corners[corner]!.y, corners[corner]!.z),
      ),
    )
    position.needsUpdate = true
    this.faces.geometry.setDrawRange(0, faces.length * 6)
    this.faces.visible = faces.length > 0
  }

  get isShown(): boolean {
    return this.source.visible || this.target.visible || this.faces.visible || this.ends.visible
  }

  /** Keeps the marks' size on the screen. */
  update(view: View): void {
    for (const mark of [this.source, this.target]) mark.scale.setScalar(MARK * 2 * view.metresPerPixel(mark.position))
    if (this.ends.visible) this.drawEnds(view)
  }

  /** A stick outwards from each end, and a ring of six sides around its foot. */
  private drawEnds(view: View): void {
    const lines: Vector3[] = []
    for (const { point, direction } of this.shownEnds) {
      const size = END * view.metresPerPixel(point)
      const aside = Math.abs(direction.y) > 0.9 ? new Vector3(1, 0, 0) : new Vector3(0, 1, 0)
      const [a, b] = [aside.clone().cross(direction).normalize(), new Vector3()]
      b.crossVectors(direction, a)
      const corner = (i: number) =>
        point
          .clone()
          .addScaledVector(a, Math.cos((i * Math.PI) / 3) * size * 0.5)
          .addScaledVector(b, Math.sin((i * Math.PI) / 3) * size * 0.5)
      for (let i = 0; i < 6; i++) lines.push(corner(i), corner(i + 1))
      lines.push(point, point.clone().addScaledVector(direction, size * 1.4))
    }
    this.ends.geometry.dispose()
    this.ends.geometry = new BufferGeometry().setFromPoints(lines)
  }

  dispose(): void {
    for (const mark of [this.source, this.target]) {
      mark.material.map?.dispose()
      mark.material.dispose()
    }
    this.faces.geometry.dispose()
    this.faces.material.dispose()
  }

  private dress(mark: Sprite, texture: CanvasTexture): void {
    mark.material.map?.dispose()
    mark.material.map = texture
    mark.material.needsUpdate = true
  }
}
