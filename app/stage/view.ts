import type { Box3 } from 'three'
import { MathUtils, Matrix4, OrthographicCamera, PerspectiveCamera, Ray, Vector3 } from 'three'
import type { Frame } from '~~/core/mesh/frame'
import type { ScreenPoint } from '~~/core/math/screen'
import type { ViewDirections } from '~~/core/edit/handles/axis-drag'
import type { Aim } from '~~/core/edit/snap/aim'
import type { Pose, ViewKind } from '~~/core/math/pose'
import type { ScreenBox } from './label-place'
import {
  clipDistances,
  FIXED_VIEWS,
  frameBox,
  frameBoxFixed,
  lookAround,
  orbit,
  shift,
  zoomAt,
} from '~~/core/math/pose'

/** A rectangle of the canvas in its own pixels, from the top left. */
export type Rect = { x: number; y: number; width: number; height: number }

/** How a pane's things are drawn. */
export type Look = 'lit' | 'even' | 'light' | 'wire' | 'clear'

/**
 * What a view sees through a camera of the level: vertical angle and roll in degrees and radians, the picture's
 * proportions, metres.
 */
export type Lens = { fieldOfView: number; aspect: number; near: number; far: number; roll: number }

/** A part of a larger picture, in pixels. */
export type Tile = { width: number; height: number; x: number; y: number }

/** Of a pane seen through a camera, how much its picture takes. */
const FRAMED = 0.9

/** Pixels around what is to stay in sight. */
const KEPT_CLEAR = 8

/** Seconds a glide to another pose takes. */
const GLIDE = 0.25

/**
 * One pane's view of the world: a camera, how it is steered, and the way between screen and world. Pixels are the
 * canvas's.
 */
export class View {
  look: Look = 'lit'
  /** Vertical, in degrees. */
  fieldOfView = 60
  /** Near and far distances set by hand, in metres; 0 lets them follow what is looked at. */
  clip = { near: 0, far: 0 }
  rect: Rect = { x: 0, y: 0, width: 1, height: 1 }
  /** Set while it looks through a camera of the level: the picture of that is framed in it. */
  lens: Lens | null = null
  /** What the camera it looks through aims at: it goes around that, and towards it. */
  around: Vector3 | null = null
  /** Set while it draws a part of a larger picture, which then is all of it. */
  tile: Tile | null = null
  /** Says where to look from as time goes on, such as while somebody walks. */
  driver: ((seconds: number) => Pose) | null = null
  /** Is told when a hand has moved it. */
  onSteered: (() => void) | null = null
  /** Metres a second along right, up and forward, while flying. */
  velocity: Vector3 | null = null
  private readonly perspective = new PerspectiveCamera()
  private readonly orthographic = new OrthographicCamera()
  private pose: Pose = { eye: new Vector3(6, 5, 9), target: new Vector3(), height: 20 }
  private glide: { from: Pose; to: Pose; done: number } | null = null

  constructor(
    public kind: ViewKind,
    private readonly calm: boolean,
    private readonly level: () => Box3,
    private readonly onMove: () => void,
  ) {}

  get camera(): PerspectiveCamera | OrthographicCamera {
    return this.kind === 'walkaround' ? this.perspective : this.orthographic
  }

  get target(): Vector3 {
    return this.pose.target
  }

  get eye(): Vector3 {
    return this.kind === 'walkaround' ? this.pose.eye : this.camera.position
  }

  /** A copy of where it looks from and to. */
  savePose(): Pose {
    return { eye: this.pose.eye.clone(), target: this.pose.target.clone(), height: this.pose.height }
  }

  setPose(pose: Pose, glide = false): void {
    this.glide = glide && !this.calm ? { from: this.pose, to: pose, done: 0 } : null
    if (!this.glide) this.pose = pose
    this.changed()
    this.onSteered?.()
  }

  /** Follows something that moves by itself: nobody is told. */
  follow(pose: Pose): void {
    this.glide = null
    this.pose = pose
    this.changed()
  }

  /** Where the picture of the camera it looks through is on the canvas; all of it without one. */
  get framed(): Rect {
    const { rect, lens } = this
    if (!lens || this.tile) return rect
    const width = Math.min(rect.width * FRAMED, rect.height * FRAMED * lens.aspect)
    const height = width / lens.aspect
    return { x: rect.x + (rect.width - width) / 2, y: rect.y + (rect.height - height) / 2, width, height }
  }

  /** The vertical angle of all that is seen in the pane, in degrees. */
  private get seenAngle(): number {
    const { lens, rect } = this
    if (!lens) return this.fieldOfView
    return (
      (2 * Math.atan((Math.tan((lens.fieldOfView * Math.PI) / 360) * rect.height) / this.framed.height) * 180) / Math.PI
    )
  }

  contains({ x, y }: ScreenPoint): boolean {
    const { rect } = this
    return x >= rect.x && x < rect.x + rect.width && y >= rect.y && y < rect.y + rect.height
  }

  setRect(rect: Rect): void {
    this.rect = rect
    this.changed()
  }

  /** Moves on by some seconds. @returns whether it is still moving */
  update(seconds: number): boolean {
    if (this.driver) {
      this.pose = this.driver(seconds)
      this.place()
      return true
    }
    const flies = this.velocity !== null && this.velocity.lengthSq() > 0
    if (this.velocity && flies) {
      const { right, up, forward } = this.directions()
      const way = right
        .multiplyScalar(this.velocity.x)
        .addScaledVector(up, this.velocity.y)
        .addScaledVector(forward, this.velocity.z)
      this.pose = shift(this.pose, way.multiplyScalar(seconds))
    }
    if (this.glide) {
      const { from, to } = this.glide
      this.glide.done = Math.min(this.glide.done + seconds / GLIDE, 1)
      const t = MathUtils.smoothstep(this.glide.done, 0, 1)
      this.pose = {
        eye: from.eye.clone().lerp(to.eye, t),
        target: from.target.clone().lerp(to.target, t),
        height: MathUtils.lerp(from.height, to.height, t),
      }
      if (this.glide.done === 1) this.glide = null
    }
    this.place()
    if (flies) this.onSteered?.()
    return this.glide !== null || flies
  }

  /**
   * Turns around a point by as much as a drag over `dx`, `dy` pixels means. The fixed views shift instead; they never
   * tilt.
   */
  orbit(dx: number, dy: number, around: Vector3): void {
    if (this.kind !== 'walkaround') return this.pan(dx, dy, around)
    const turn = (2 * Math.PI) / this.rect.height
    this.setPose(orbit(this.pose, around, -dx * turn, -dy * turn))
  }

  lookAround(dx: number, dy: number): void {
    if (this.kind !== 'walkaround') return this.pan(dx, dy, this.pose.target)
    const turn = (this.seenAngle * Math.PI) / 180 / this.rect.height
    this.setPose(lookAround(this.pose, -dx * turn, -dy * turn))
  }

  /** Shifts the view so that what lies at `at` follows the pointer. */
  pan(dx: number, dy: number, at: Vector3): void {
    const { right, up } = this.directions()
    const pixel = this.metresPerPixel(at)
    this.setPose(shift(this.pose, right.multiplyScalar(-dx * pixel).addScaledVector(up, dy * pixel)))
  }

  /** Goes nearer to a point, or farther; below 1 is nearer. */
  zoom(point: Vector3, factor: number): void {
    this.setPose(zoomAt(this.pose, point, factor))
  }

  /** Brings a box into view without turning the head. */
  frame(box: Box3, glide: boolean): void {
    if (box.isEmpty()) return
    const aspect = this.rect.width / this.rect.height
    this.setPose(
      this.kind === 'walkaround'
        ? frameBox(this.pose, box, this.lens?.fieldOfView ?? this.fieldOfView, this.lens?.aspect ?? aspect)
        : frameBoxFixed(this.pose, box, this.kind, aspect),
      glide,
    )
  }

  lookFrom(eye: Vector3, target: Vector3, glide = false): void {
    this.setPose({ eye: eye.clone(), target: target.clone(), height: this.pose.height }, glide)
  }

  /** Looks at the same thing from a direction, from as far away as now. @param from towards the eye */
  lookFromDirection(from: Vector3, glide = true): void {
    const distance = this.pose.eye.distanceTo(this.pose.target)
    // Straight up and down there would be no up on the screen.
    const direction = from
      .clone()
      .normalize()
      .add(new Vector3(0, 0, Math.abs(from.y) > 0.999 ? 0.002 : 0))
    this.lookFrom(direction.multiplyScalar(distance).add(this.pose.target), this.pose.target, glide)
  }

  shiftBy(way: Vector3): void {
    this.setPose(shift(this.pose, way))
  }

  /** The ray through a pixel, of unit direction. */
  rayAt(at: ScreenPoint, target = new Ray()): Ray {
    const { camera } = this
    const x = ((at.x - this.rect.x) / this.rect.width) * 2 - 1
    const y = 1 - ((at.y - this.rect.y) / this.rect.height) * 2
    if (camera instanceof PerspectiveCamera) {
      target.origin.copy(camera.position)
      target.direction.set(x, y, 0.5).unproject(camera).sub(target.origin).normalize()
    } else {
      target.origin.set(x, y, -1).unproject(camera)
      camera.getWorldDirection(target.direction)
    }
    return target
  }

  /** Where a point of the world is on the canvas; null behind the eye. */
  project(point: Vector3): ScreenPoint | null {
    const seen = point.clone().applyMatrix4(this.camera.matrixWorldInverse)
    if (seen.z > -this.camera.near) return null
    seen.applyMatrix4(this.camera.projectionMatrix)
    return {
      x: this.rect.x + ((seen.x + 1) / 2) * this.rect.width,
      y: this.rect.y + ((1 - seen.y) / 2) * this.rect.height,
    }
  }

  /**
   * Where points of the world are on the canvas, for leaving that in sight; nowhere if none of them is in front of the
   * eye.
   */
  keptClear(points: readonly Vector3[]): ScreenBox[] {
    return [this.boxAround(points, KEPT_CLEAR)].filter(box => box !== null)
  }

  /**
   * The box on the canvas around points of the world, with a margin in pixels; null if none of them is in front of the
   * eye.
   */
  boxAround(points: readonly Vector3[], margin: number): ScreenBox | null {
    const seen = points.map(point => this.project(point)).filter(point => point !== null)
    if (seen.length === 0) return null
    const [xs, ys] = [seen.map(({ x }) => x), seen.map(({ y }) => y)]
    return {
      left: Math.min(...xs) - margin,
      right: Math.max(...xs) + margin,
      top: Math.min(...ys) - margin,
      bottom: Math.max(...ys) + margin,
    }
  }

  /** Two corners on the canvas as a frame of the picture. */
  frameOf(a: ScreenPoint, b: ScreenPoint): Frame {
    const x = (at: ScreenPoint) => ((at.x - this.rect.x) / this.rect.width) * 2 - 1
    const y = (at: ScreenPoint) => 1 - ((at.y - this.rect.y) / this.rect.height) * 2
    return { x0: Math.min(x(a), x(b)), x1: Math.max(x(a), x(b)), y0: Math.min(y(a), y(b)), y1: Math.max(y(a), y(b)) }
  }

  /** The pointer at a pixel, as snapping needs to know it. */
  aim(at: ScreenPoint): Aim {
    return {
      at,
      ray: this.rayAt(at),
      projection: new Matrix4().multiplyMatrices(this.camera.projectionMatrix, this.camera.matrixWorldInverse),
      around: pixels => this.frameOf({ x: at.x - pixels, y: at.y - pixels }, { x: at.x + pixels, y: at.y + pixels }),
      project: point => this.project(point),
      sightTo: point => this.sightTo(point),
      metresPerPixel: point => this.metresPerPixel(point),
    }
  }

  /** The ray from the eye through a point of the world, of unit direction. */
  private sightTo(point: Vector3): Ray {
    const direction = this.sightOf(point)
    if (this.kind === 'walkaround') return new Ray(this.camera.position.clone(), direction)
    const depth = point.clone().sub(this.camera.position).dot(direction)
    return new Ray(point.clone().addScaledVector(direction, -depth), direction)
  }

  directions(): ViewDirections {
    const [right, up, back] = [new Vector3(), new Vector3(), new Vector3()]
    this.camera.matrixWorld.extractBasis(right, up, back)
    return { right, up, forward: back.negate() }
  }

  /** The direction a point is seen in. */
  sightOf(point: Vector3): Vector3 {
    return this.kind === 'walkaround' ? point.clone().sub(this.camera.position).normalize() : this.directions().forward
  }

  /** How many metres one pixel spans at a point of the world. */
  metresPerPixel(point: Vector3): number {
    if (this.kind !== 'walkaround') return this.pose.height / this.rect.height
    const depth = Math.max(-point.clone().applyMatrix4(this.camera.matrixWorldInverse).z, this.camera.near)
    return (2 * depth * Math.tan((this.seenAngle * Math.PI) / 360)) / this.rect.height
  }

  private changed(): void {
    this.place()
    this.onMove()
  }

  private place(): void {
    const aspect = this.rect.width / this.rect.height
    if (this.kind === 'walkaround') this.placePerspective(aspect)
    else this.placeOrthographic(FIXED_VIEWS[this.kind], aspect)
    this.camera.updateProjectionMatrix()
    this.camera.updateMatrixWorld()
  }

  private placePerspective(aspect: number): void {
    const { near, far } = clipDistances(this.pose, this.level())
    const { lens, tile } = this
    Object.assign(
      this.perspective,
      lens
        ? {
            aspect: tile ? tile.width / tile.height : aspect,
            fov: tile ? lens.fieldOfView : this.seenAngle,
            near: lens.near,
            far: lens.far,
          }
        : { aspect, fov: this.fieldOfView, near: this.clip.near || near, far: this.clip.far || far },
    )
    if (tile) this.perspective.setViewOffset(tile.width, tile.height, tile.x, tile.y, this.rect.width, this.rect.height)
    this.perspective.position.copy(this.pose.eye)
    this.perspective.up.set(0, 1, 0)
    this.perspective.lookAt(this.pose.target)
    if (lens) this.perspective.rotateZ(lens.roll)
  }

  private placeOrthographic({ forward, up }: { forward: Vector3; up: Vector3 }, aspect: number): void {
    const { target, height } = this.pose
    // From outside of everything, so that nothing is cut off in front.
    const level = this.level()
    const reach =
      (level.isEmpty() ? 0 : level.getSize(new Vector3()).length() + level.getCenter(new Vector3()).distanceTo(target))
      + height
      + 50
    const half = height / 2
    Object.assign(this.orthographic, {
      left: -half * aspect,
      right: half * aspect,
      top: half,
      bottom: -half,
      near: 0.1,
      far: reach * 2,
    })
    this.orthographic.position.copy(target).addScaledVector(forward, -reach)
    this.orthographic.up.copy(up)
    this.orthographic.lookAt(target)
  }
}
