import type { Sprite } from 'three'
import {
  Color,
  CylinderGeometry,
  DoubleSide,
  Group,
  Mesh,
  MeshBasicMaterial,
  Plane,
  Quaternion,
  Ray,
  RingGeometry,
  Vector3,
} from 'three'
import type { ScreenPoint } from '~~/core/math/screen'
import { directionsOf } from '~~/core/edit/handles/axes'
import type { Handle } from '~~/core/edit/handles/handle'
import type { AxisIndex } from '~~/core/edit/handles/lock'
import type { Board } from '../board'
import {
  distance,
  distanceToSegment,
  letterTexture,
  OVERLAY,
  redraw,
  sprite,
  squareTexture,
  tagTexture,
} from './drawings'
import type { HandleSetting, HandleSet } from './handle-set'
import { sameHandle } from './handle-set'

/** Sizes on the screen, in pixels. */
const STICK = 74
const TAG = 12
const SECTOR = { from: 20, to: 36 }
const CENTRE = 8
/** How far beside a handle a press still counts. */
const REACH = 4
const AXES = [0, 1, 2] as const

/**
 * The Move handles: a stick for each axis that ends in a five-sided tag with its letter, whose point shows outward, a
 * quarter-disc between two sticks for their plane, and a small square in the middle for the plane of the screen. They
 * keep their size on the screen, and the sticks point to the viewer's side, so that none is hidden behind the thing. An
 * axis seen end-on fades.
 */
export class MoveHandles implements HandleSet {
  readonly object = new Group()
  /** Drawn smaller among other handles. */
  scale = 1
  private readonly sticks: Mesh<CylinderGeometry, MeshBasicMaterial>[] = []
  private readonly tags: Sprite[] = []
  private readonly letters: Sprite[] = []
  private readonly sectors: Mesh<RingGeometry, MeshBasicMaterial>[] = []
  private readonly centre = sprite(null, CENTRE * 2, 5)
  private readonly signs: [number, number, number] = [1, 1, 1]
  private readonly faded: [boolean, boolean, boolean] = [false, false, false]
  private colors: Board['axes'] = ['#f00', '#0f0', '#00f']

  constructor() {
    for (const axis of AXES) {
      const stick = new Mesh(new CylinderGeometry(1.5, 1.5, 1, 8).translate(0, 0.5, 0), new MeshBasicMaterial(OVERLAY))
      const sector = new Mesh(
        new RingGeometry(SECTOR.from, SECTOR.to, 12, 1, 0, Math.PI / 2),
        new MeshBasicMaterial({ ...OVERLAY, side: DoubleSide }),
      )
      sector.renderOrder = 1
      stick.renderOrder = 2
      this.sticks[axis] = stick
      this.tags[axis] = sprite(null, TAG * 2, 3)
      this.letters[axis] = sprite(null, TAG * 2, 4)
      this.sectors[axis] = sector
      this.object.add(stick, this.tags[axis], this.letters[axis], sector)
    }
    this.object.add(this.centre)
  }

  setBoard(board: Board): void {
    this.colors = board.axes
    for (const axis of AXES) {
      redraw(this.tags[axis]!, tagTexture(board.axes[axis], board.colors['sky-horizon']))
      redraw(this.letters[axis]!, letterTexture(board.letters[axis], board.colors['on-picked']))
      this.sticks[axis]!.material.color = new Color(board.axes[axis])
    }
    redraw(this.centre, squareTexture(board.colors.picked))
  }

  update(setting: HandleSetting): void {
    const { frame, pixel, sight, hot, held, view } = setting
    this.object.position.copy(frame.origin)
    this.object.scale.setScalar(pixel * this.scale)
    const directions = directionsOf(frame.axes)
    for (const axis of AXES) {
      const along = directions[axis].dot(sight)
      // The dead band keeps a stick from flickering between its sides while the view crosses the axis's plane.
      if (!held && Math.abs(along) > 0.06) this.signs[axis] = along > 0 ? -1 : 1
      this.faded[axis] = Math.abs(along) > 0.985
    }
    const origin = view.project(frame.origin)
    for (const axis of AXES) {
      this.dress(axis, directions, sight, hot)
      const end = view.project(this.tip(axis, STICK, setting))
      // On the screen y runs down; a sprite turns the other way.
      if (origin && end) this.tags[axis]!.material.rotation = Math.atan2(origin.y - end.y, end.x - origin.x)
    }
    this.centre.material.opacity = sameHandle(hot, { do: 'move', kind: 'view' }) ? 1 : 0.85
  }

  /** Those in front first: middle, tags, sticks, quarter-discs. */
  hit(at: ScreenPoint, setting: HandleSetting): Handle | null {
    const { view, frame } = setting
    const origin = view.project(frame.origin)
    if (!origin) return null
    if (distance(at, origin) <= CENTRE * this.scale + REACH) return { do: 'move', kind: 'view' }
    const shown = AXES.filter(axis => !this.faded[axis])
    const ends = new Map(shown.map(axis => [axis, view.project(this.tip(axis, STICK, setting))]))
    for (const axis of shown) {
      const end = ends.get(axis)
      if (end && distance(at, end) <= TAG * this.scale + REACH) return { do: 'move', kind: 'axis', axis }
    }
    for (const axis of shown) {
      const end = ends.get(axis)
      if (end && distanceToSegment(at, origin, end) <= REACH + 2) return { do: 'move', kind: 'axis', axis }
    }
    const axis = AXES.find(index => this.isInSector(at, index, setting))
    return axis === undefined ? null : { do: 'move', kind: 'plane', axis }
  }

  grip(handle: Handle, setting: HandleSetting): ScreenPoint | null {
    if (handle.do !== 'move') return null
    const { view, frame } = setting
    if (handle.kind === 'view') return view.project(frame.origin)
    if (handle.kind === 'axis') return view.project(this.tip(handle.axis, STICK, setting))
    const [u, v] = others(handle.axis)
    const out = ((SECTOR.from + SECTOR.to) / 2) * Math.SQRT1_2
    return view.project(
      this.tip(u, out, setting)
        .add(this.tip(v, out, setting))
        .sub(frame.origin),
    )
  }

  dispose(): void {
    for (const part of [...this.sticks, ...this.sectors]) {
      part.geometry.dispose()
      part.material.dispose()
    }
    for (const part of [...this.tags, ...this.letters, this.centre]) {
      part.material.map?.dispose()
      part.material.dispose()
    }
  }

  private dress(axis: AxisIndex, directions: readonly Vector3[], sight: Vector3, hot: Handle | null): void {
    const across = (index: AxisIndex) => directions[index]!.clone().multiplyScalar(this.signs[index])
    const isHot = sameHandle(hot, { do: 'move', kind: 'axis', axis })
    const stick = this.sticks[axis]!
    const opacity = this.faded[axis] ? 0.15 : hot && !isHot ? 0.55 : 1
    stick.quaternion.setFromUnitVectors(new Vector3(0, 1, 0), across(axis))
    stick.scale.set(isHot ? 1.7 : 1, STICK - TAG, isHot ? 1.7 : 1)
    stick.material.opacity = opacity
    for (const each of [this.tags[axis]!, this.letters[axis]!]) {
      each.position.copy(across(axis)).multiplyScalar(STICK)
      each.scale.setScalar(TAG * (isHot ? 2.5 : 2.15))
      each.material.opacity = opacity
    }

    const sector = this.sectors[axis]!
    const [u, v] = others(axis)
    sector.quaternion.copy(basisRotation(across(u), across(v)))
    sector.visible = Math.abs(directions[axis]!.dot(sight)) >= 0.08
    sector.material.color.set(this.colors[axis])
    sector.material.opacity = sameHandle(hot, { do: 'move', kind: 'plane', axis }) ? 0.85 : 0.4
  }

  /** The point `pixels` out along an axis's stick, in the world. */
  private tip(axis: AxisIndex, pixels: number, { frame, pixel }: HandleSetting): Vector3 {
    return directionsOf(frame.axes)
      [axis].multiplyScalar(this.signs[axis] * pixels * pixel * this.scale)
      .add(frame.origin)
  }

  private isInSector(at: ScreenPoint, axis: AxisIndex, { view, frame, pixel }: HandleSetting): boolean {
    if (!this.sectors[axis]!.visible) return false
    const plane = new Plane().setFromNormalAndCoplanarPoint(directionsOf(frame.axes)[axis], frame.origin)
    const point = view.rayAt(at, new Ray()).intersectPlane(plane, new Vector3())
    if (!point) return false
    point
      .sub(frame.origin)
      .divideScalar(pixel * this.scale)
      .applyQuaternion(frame.axes.clone().invert())
    const [u, v] = others(axis)
    const out = point.length()
    return (
      point.getComponent(u) * this.signs[u] >= 0
      && point.getComponent(v) * this.signs[v] >= 0
      && out >= SECTOR.from - REACH
      && out <= SECTOR.to + REACH
    )
  }
}

function others(axis: AxisIndex): [AxisIndex, AxisIndex] {
  return axis === 0 ? [1, 2] : axis === 1 ? [2, 0] : [0, 1]
}

/** Turns the XY plane so that its quarter between +X and +Y lies between `u` and `v`. */
function basisRotation(u: Vector3, v: Vector3): Quaternion {
  // With the axes' signs the pair may be left-handed; swapped it spans the same quarter and is right-handed.
  const normal = u.clone().cross(v)
  const toNormal = new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), normal)
  const first = new Vector3(1, 0, 0).applyQuaternion(toNormal)
  const angle = Math.atan2(first.clone().cross(u).dot(normal), first.dot(u))
  return new Quaternion().setFromAxisAngle(normal, angle).multiply(toNormal)
}
