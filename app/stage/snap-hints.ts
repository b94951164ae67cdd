import type { CanvasTexture, Vector3 } from 'three'
import { BufferAttribute, BufferGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial, Sprite, SpriteMaterial } from 'three'
import type { Board } from './board'
import { diamondTexture, OVERLAY } from './handles/drawings'
import type { View } from './view'

/** What is shown of the snapping: points that are or could be caught, and faces that meet (four corners each). */
export type Hints = { source?: Vector3, target?: Vector3, faces?: readonly (readonly Vector3[])[] }

const MARK = 9
const MOST_FACES = 8

/** Marks what a drag would be caught by, before it and while it goes on. */
export class SnapHints {
  readonly object = new Group()
  private readonly source = new Sprite(new SpriteMaterial(OVERLAY))
  private readonly target = new Sprite(new SpriteMaterial(OVERLAY))
  private readonly faces = new Mesh(
    new BufferGeometry().setAttribute('position', new BufferAttribute(new Float32Array(MOST_FACES * 18), 3)),
    new MeshBasicMaterial({ ...OVERLAY, side: DoubleSide, opacity: 0.6 }))

  constructor() {
    this.faces.frustumCulled = false
    this.object.add(this.faces, this.source, this.target)
    this.source.renderOrder = this.target.renderOrder = 7
    this.show(null)
  }

  setBoard(board: Board): void {
    this.dress(this.source, diamondTexture(board.colors.picked, false))
    this.dress(this.target, diamondTexture(board.colors.primary, true))
    this.faces.material.color.set(board.colors.action)
  }

  show(hints: Hints | null): void {
    this.source.visible = hints?.source !== undefined
    this.target.visible = hints?.target !== undefined
    if (hints?.source) this.source.position.copy(hints.source)
    if (hints?.target) this.target.position.copy(hints.target)
    const faces = (hints?.faces ?? []).filter(corners => corners.length === 4).slice(0, MOST_FACES)
    const position = this.faces.geometry.getAttribute('position')
    faces.forEach((corners, face) => [0, 1, 2, 0, 2, 3].forEach((corner, i) => position.setXYZ(face * 6 + i, corners[corner]!.x, corners[corner]!.y, corners[corner]!.z)))
    position.needsUpdate = true
    this.faces.geometry.setDrawRange(0, faces.length * 6)
    this.faces.visible = faces.length > 0
  }

  get isShown(): boolean {
    return this.source.visible || this.target.visible || this.faces.visible
  }

  /** Keeps the marks' size on the screen. */
  update(view: View): void {
    for (const mark of [this.source, this.target]) mark.scale.setScalar(MARK * 2 * view.metresPerPixel(mark.position))
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
