import type { Box3, BufferGeometry, Matrix4 } from 'three'
import {
  BufferAttribute,
  BufferGeometry as Geometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
} from 'three'
import type { Board } from './board'
import type { StageLayer } from './stage-layer'

/** What is about to be placed: seen through, with the outline of its box on the floor below and a line down to it. */
export class Ghost implements StageLayer {
  readonly inLevel = new Group()
  readonly over = null
  readonly inPictures = false
  readonly isShown = false
  private readonly body = new Group()
  private readonly material = new MeshLambertMaterial({ transparent: true, opacity: 0.75 })
  private readonly ink = new LineBasicMaterial({ depthTest: false, transparent: true })
  private readonly floor = new LineSegments(
    new Geometry().setAttribute('position', new BufferAttribute(new Float32Array(30), 3)),
    this.ink,
  )

  constructor() {
    this.body.matrixAutoUpdate = false
    this.floor.frustumCulled = false
    this.floor.renderOrder = 5
    this.inLevel.add(this.body, this.floor)
    this.inLevel.visible = false
  }

  setBoard(board: Board): void {
    this.material.color.set(board.colors.picked).lerp(this.material.color.clone().set('#ffffff'), 0.45)
    this.ink.color.set(board.colors.picked)
  }

  /** @param floorHeight where its outline is drawn: the surface it is over */
  show(geometries: BufferGeometry[], matrix: Matrix4, bounds: Box3, floorHeight: number): void {
    if (
      this.body.children.length !== geometries.length
      || geometries.some((geometry, i) => (this.body.children[i] as Mesh).geometry !== geometry)
    ) {
      this.body.clear()
      this.body.add(...geometries.map(geometry => new Mesh(geometry, this.material)))
    }
    this.body.matrix.copy(matrix)
    this.body.matrixWorldNeedsUpdate = true
    this.drawFloor(bounds, matrix, floorHeight)
    this.inLevel.visible = true
  }

  hide(): void {
    this.inLevel.visible = false
  }

  /** Adds to a box what it takes up. */
  reach(box: Box3): Box3 {
    return this.inLevel.visible ? box.expandByObject(this.inLevel) : box
  }

  update(): void {}

  dispose(): void {
    this.material.dispose()
    this.ink.dispose()
    this.floor.geometry.dispose()
  }

  private drawFloor({ min, max }: Box3, matrix: Matrix4, height: number): void {
    const corners = [
      [min.x, min.z],
      [max.x, min.z],
      [max.x, max.z],
      [min.x, max.z],
    ].map(([x, z]) =>
      min
        .clone()
        .set(x!, 0, z!)
        .applyMatrix4(matrix)
        .setY(height + 0.01),
    )
    const foot = min.clone().set(0, 0, 0).applyMatrix4(matrix)
    const lines = corners
      .flatMap((corner, i) => [corner, corners[(i + 1) % 4]!])
      .concat(foot, foot.clone().setY(height))
    const position = this.floor.geometry.getAttribute('position')
    lines.forEach((point, i) => position.setXYZ(i, point.x, point.y, point.z))
    position.needsUpdate = true
  }
}
