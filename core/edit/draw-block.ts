import type { Ray } from 'three'
import { Plane, Quaternion, Vector3 } from 'three'
import { AxisDrag } from './handles/axis-drag'
import type { ViewDirections } from './handles/axis-drag'
import { directionsOf, surfaceAxes } from './handles/axes'
import type { Quat, Vec3 } from '../math/vectors'
import { snapToStep } from './snap/grid'
import { tidy } from '../units/quantity'
import type { BlockShape } from '../mesh/block'
import { drawnBlock, isRound } from '../mesh/block'

/** A surface steeper than 1 degree against the level is drawn on as it lies; a flatter one counts as level. */
const LEVEL = Math.cos(Math.PI / 180)

/** No base or height is drawn smaller than this, in metres. */
const SMALLEST = 0.001

/** A drawn block and where it stands. */
export type Drawn = { block: BlockShape; translation: Vec3; rotation: Quat }

/**
 * Drawing a block onto a surface: a press, a drag over the base, then the height.
 *
 * The base lies in the surface's plane, along the world's axes on level ground. A box is drawn from corner to corner, a
 * round shape from its middle to its rim. Corners, radii and heights come onto the grid.
 */
export class BlockDrawing {
  private readonly axes: Quaternion
  private readonly plane: Plane
  /** From the pressed corner, or middle, along the base's own X and Z. */
  private way: [number, number] = [0, 0]
  private height: AxisDrag | null = null
  private metres: number | null = null

  /**
   * @param shape whose other parameters are kept
   * @param at where the surface was pressed
   * @param normal of the surface there, of unit length
   */
  constructor(
    private readonly shape: BlockShape,
    private readonly at: Vector3,
    normal: Vector3,
  ) {
    this.axes = normal.y > LEVEL ? new Quaternion() : surfaceAxes(normal, new Vector3(1, 0, 0))
    this.plane = new Plane().setFromNormalAndCoplanarPoint(directionsOf(this.axes)[1], at)
  }

  /** The plane drawn in, for its grid. */
  get base(): { origin: Vector3; axes: Quaternion } {
    return { origin: this.at, axes: this.axes }
  }

  /** Follows the pointer over the base. @param step of the grid, in metres; 0 for none */
  drawBase(ray: Ray, step: number): void {
    const point = ray.intersectPlane(this.plane, new Vector3())
    if (!point) return
    const way = point.sub(this.at).applyQuaternion(this.axes.clone().invert())
    this.setBase(snapToStep(way.x, step), snapToStep(way.z, step))
  }

  /** Sets the drawn base by number: from the pressed corner, or from the middle of a round shape to its rim. */
  setBase(x: number, z: number): void {
    this.way = [x, z]
  }

  /** Whether the base is large enough to be meant. */
  get hasBase(): boolean {
    const [x, z] = this.way
    return isRound(this.shape) ? Math.hypot(x, z) >= SMALLEST : Math.abs(x) >= SMALLEST && Math.abs(z) >= SMALLEST
  }

  /** Whether the shape has a height to be drawn after its base. */
  get hasHeight(): boolean {
    return this.shape.type !== 'ball'
  }

  startHeight(ray: Ray, view: ViewDirections): void {
    this.height = new AxisDrag(ray, this.place(...this.way), directionsOf(this.axes)[1], view)
    this.metres = SMALLEST
  }

  /** Follows the pointer up; a slab grows down instead. @param step of the grid, in metres; 0 for none */
  drawHeight(ray: Ray, step: number): void {
    if (this.height) this.setHeight(snapToStep(Math.abs(this.height.update(ray)), step))
  }

  /** As high as a point of the world, such as the top of another thing. */
  reachTo(point: Vector3): void {
    this.setHeight(Math.abs(point.clone().sub(this.at).dot(directionsOf(this.axes)[1])))
  }

  setHeight(metres: number): void {
    this.metres = Math.max(tidy(metres), SMALLEST)
  }

  /** What has been drawn so far. */
  get drawn(): Drawn {
    const [x, z] = this.way
    const round = isRound(this.shape)
    const radius = Math.hypot(x, z)
    const block = round
      ? drawnBlock(this.shape, Math.max(2 * radius, 2 * SMALLEST), Math.max(2 * radius, 2 * SMALLEST), this.metres)
      : drawnBlock(this.shape, Math.max(Math.abs(x), SMALLEST), Math.max(Math.abs(z), SMALLEST), this.metres)
    const middle = round ? this.at : this.place(x / 2, z / 2)
    return { block, translation: middle.toArray().map(tidy) as Vec3, rotation: this.axes.toArray() as Quat }
  }

  private place(x: number, z: number): Vector3 {
    return new Vector3(x, 0, z).applyQuaternion(this.axes).add(this.at)
  }
}
