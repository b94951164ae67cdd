import type { Sprite } from 'three'
import {
  BufferAttribute,
  BufferGeometry,
  CircleGeometry,
  Color,
  DoubleSide,
  Group,
  Mesh,
  MeshBasicMaterial,
  Quaternion,
  Vector3,
} from 'three'
import type { ScreenPoint } from '~~/core/math/screen'
import { directionsOf, rotationFromAxes } from '~~/core/edit/handles/axes'
import type { Handle } from '~~/core/edit/handles/handle'
import type { AxisIndex } from '~~/core/edit/handles/lock'
import type { Board } from '../board'
import { distanceToSegment, OVERLAY, plateTexture, redraw, sprite } from './drawings'
import type { HandleSetting, HandleSet } from './handle-set'
import { sameHandle } from './handle-set'

/** Sizes on the screen, in pixels. */
export const DIAL = 92
const BAND = 1.6
const TICK = 7
const PLATE = 9
const REACH = 6
/** Points on half a dial, for finding it under the pointer. */
const SAMPLES = 24
const AXES = [0, 1, 2] as const

/** The part of a turn that has been swept: about which axis, from which direction on, how far in degrees. */
export type Wedge = { axis: Vector3; from: Vector3; degrees: number }

/**
 * The Turn handles: a dial for each axis with a tick at every turn step. The half towards the viewer can be taken hold
 * of anywhere and carries the axis's letter; the half behind is only hinted at. What has been swept is drawn as a
 * wedge.
 */
export class TurnHandles implements HandleSet {
  readonly object = new Group()
  private readonly near: Mesh<BufferGeometry, MeshBasicMaterial>[] = []
  private readonly far: Mesh<BufferGeometry, MeshBasicMaterial>[] = []
  private readonly plates: Sprite[] = []
  private readonly fill = new Mesh(
    new CircleGeometry(1, 8),
    new MeshBasicMaterial({ ...OVERLAY, side: DoubleSide, opacity: 0.35 }),
  )
  private readonly towards: Vector3[] = AXES.map(() => new Vector3(0, 0, 1))
  private step = 15
  private wedge: Wedge | null = null

  constructor() {
    for (const axis of AXES) {
      this.near[axis] = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ ...OVERLAY, side: DoubleSide }))
      this.far[axis] = new Mesh(new BufferGeometry(), new MeshBasicMaterial({ ...OVERLAY, side: DoubleSide }))
      this.plates[axis] = sprite(null, PLATE * 2, 3)
      this.near[axis].renderOrder = 2
      this.far[axis].renderOrder = 1
      this.object.add(this.near[axis], this.far[axis], this.plates[axis])
    }
    this.fill.renderOrder = 1
    this.object.add(this.fill)
    this.setStep(15, true)
  }

  /** Where the ticks are, in degrees. */
  setStep(degrees: number, force = false): void {
    if (degrees === this.step && !force) return
    this.step = degrees
    for (const axis of AXES) {
      this.near[axis]!.geometry.dispose()
      this.far[axis]!.geometry.dispose()
      this.near[axis]!.geometry = halfDial(degrees, 1)
      this.far[axis]!.geometry = halfDial(degrees, -1)
    }
  }

  setWedge(wedge: Wedge | null): void {
    this.wedge = wedge
  }

  setBoard(board: Board): void {
    for (const axis of AXES) {
      redraw(this.plates[axis]!, plateTexture(board.letters[axis], board.axes[axis], board.colors['on-picked']))
      for (const half of [this.near[axis]!, this.far[axis]!]) half.material.color = new Color(board.axes[axis])
    }
    this.fill.material.color = new Color(board.colors.picked)
  }

  update({ frame, pixel, sight, hot, held }: HandleSetting): void {
    this.object.position.copy(frame.origin)
    this.object.scale.setScalar(pixel)
    const directions = directionsOf(frame.axes)
    for (const axis of AXES) {
      const normal = directions[axis]
      const facing = Math.abs(normal.dot(sight))
      if (!held) this.towards[axis] = this.tickTowards(sight.clone().negate(), normal, directions[(axis + 1) % 3]!)
      const towards = this.towards[axis]!
      const turn = rotationFromAxes(towards.clone().cross(normal), towards)
      const isHot = sameHandle(hot, { do: 'turn', axis })
      const others = hot && !isHot ? 0.35 : 1
      for (const half of [this.near[axis]!, this.far[axis]!]) half.quaternion.copy(turn)
      this.near[axis]!.material.opacity = others * (isHot ? 1 : 0.9)
      this.far[axis]!.material.opacity = others * (facing > 0.9 ? 0.7 : 0.16)
      this.near[axis]!.scale.setScalar(isHot ? 1.02 : 1)
      this.plates[axis]!.position.copy(towards).multiplyScalar(DIAL)
      this.plates[axis]!.material.opacity = others
    }
    this.drawWedge()
  }

  hit(at: ScreenPoint, setting: HandleSetting): Handle | null {
    let best: { axis: AxisIndex; away: number } | null = null
    for (const axis of AXES) {
      const rim = this.rim(axis, setting).map(point => setting.view.project(point))
      for (let i = 1; i < rim.length; i++) {
        const [a, b] = [rim[i - 1], rim[i]]
        const away = a && b ? distanceToSegment(at, a, b) : Infinity
        if (away <= REACH && away < (best?.away ?? Infinity)) best = { axis, away }
      }
      const plate = setting.view.project(this.onRim(axis, 0, setting))
      // A letter in front says most clearly which dial is meant.
      if (plate && Math.hypot(at.x - plate.x, at.y - plate.y) <= PLATE + 2) return { do: 'turn', axis }
    }
    return best && { do: 'turn', axis: best.axis }
  }

  grip(handle: Handle, setting: HandleSetting): ScreenPoint | null {
    return handle.do === 'turn' ? setting.view.project(this.onRim(handle.axis, 0, setting)) : null
  }

  dispose(): void {
    for (const part of [...this.near, ...this.far, this.fill]) {
      part.geometry.dispose()
      part.material.dispose()
    }
    for (const plate of this.plates) {
      plate.material.map?.dispose()
      plate.material.dispose()
    }
  }

  /**
   * The direction in the dial's plane nearest to the viewer, on a tick, so that the ticks stay where they are while the
   * view turns.
   */
  private tickTowards(viewer: Vector3, normal: Vector3, zero: Vector3): Vector3 {
    const flat = viewer.addScaledVector(normal, -viewer.dot(normal))
    if (flat.lengthSq() < 1e-6) return zero.clone()
    const quarter = normal.clone().cross(zero)
    const angle = Math.atan2(flat.dot(quarter), flat.dot(zero))
    const step = (this.step * Math.PI) / 180
    const snapped = Math.round(angle / step) * step
    return zero.clone().multiplyScalar(Math.cos(snapped)).addScaledVector(quarter, Math.sin(snapped))
  }

  private onRim(axis: AxisIndex, radians: number, { frame, pixel }: HandleSetting): Vector3 {
    const towards = this.towards[axis]!
    const quarter = directionsOf(frame.axes)[axis].cross(towards)
    return towards
      .clone()
      .multiplyScalar(Math.cos(radians))
      .addScaledVector(quarter, Math.sin(radians))
      .multiplyScalar(DIAL * pixel)
      .add(frame.origin)
  }

  /** The half that can be taken hold of; all of it when it is seen from the front. */
  private rim(axis: AxisIndex, setting: HandleSetting): Vector3[] {
    const reach = Math.abs(directionsOf(setting.frame.axes)[axis].dot(setting.sight)) > 0.9 ? Math.PI : Math.PI / 2
    return Array.from({ length: SAMPLES + 1 }, (_, i) => this.onRim(axis, ((i / SAMPLES) * 2 - 1) * reach, setting))
  }

  private drawWedge(): void {
    this.fill.visible = this.wedge !== null
    if (!this.wedge) return
    const { axis, from, degrees } = this.wedge
    this.fill.geometry.dispose()
    const length = (Math.min(Math.abs(degrees), 360) * Math.PI) / 180
    this.fill.geometry = new CircleGeometry(
      DIAL - 3,
      Math.max(2, Math.ceil(length * 16)),
      degrees < 0 ? -length : 0,
      length,
    )
    this.fill.quaternion.copy(new Quaternion().copy(rotationFromAxes(from, axis.clone().cross(from))))
  }
}

/** Half a dial in the XY plane, above (1) or below (-1) the X axis, with its ticks, as triangles. */
function halfDial(step: number, side: 1 | -1): BufferGeometry {
  const points: number[] = []
  const quad = (r0: number, r1: number, from: number, to: number) => {
    const at = (radius: number, angle: number) => [radius * Math.cos(angle), side * radius * Math.sin(angle), 0]
    points.push(...at(r0, from), ...at(r1, from), ...at(r1, to), ...at(r0, from), ...at(r1, to), ...at(r0, to))
  }
  for (let i = 0; i < 48; i++) quad(DIAL - BAND, DIAL + BAND, (i / 48) * Math.PI, ((i + 1) / 48) * Math.PI)
  // Ticks finer than two degrees would run into one.
  const pitch = step * Math.ceil(2 / step)
  for (let degrees = 90 % pitch; degrees < 180; degrees += pitch) {
    const angle = (degrees * Math.PI) / 180
    const long = Math.abs(degrees % 90) < 1e-6 ? 1.6 : 1
    quad(DIAL - TICK * long, DIAL, angle - 0.006, angle + 0.006)
  }
  return new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(points), 3))
}
