import type { Sprite } from 'three'
import { BufferAttribute, BufferGeometry, Color, Group, LineBasicMaterial, LineSegments, Vector3 } from 'three'
import { boxCorners } from '~~/core/scene/shown'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Handle } from '~~/core/edit/handles/handle'
import type { SizeBox, SizeGrip } from '~~/core/edit/handles/size'
import { gripAxes, gripPoint } from '~~/core/edit/handles/size'
import type { Board } from '../board'
import { distance, dotTexture, OVERLAY, redraw, sprite, squareTexture } from './drawings'
import type { HandleSetting, HandleSet } from './handle-set'
import { sameHandle } from './handle-set'

/** Sizes on the screen, in pixels. */
const FACE = 8
const CORNER = 6
const REACH = 4
/** How far a face's grip stands off its face. */
const OFF = 14

const FACES: SizeGrip[] = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
]
const CORNERS: SizeGrip[] = [-1, 1].flatMap(x => [-1, 1].flatMap(y => [-1, 1].map(z => [x, y, z] as SizeGrip)))
const GRIPS = [...CORNERS, ...FACES]
/** Pairs of the corners that `boxCorners` gives: the twelve edges. */
const EDGES = [
  [0, 1],
  [2, 3],
  [4, 5],
  [6, 7],
  [0, 2],
  [1, 3],
  [4, 6],
  [5, 7],
  [0, 4],
  [1, 5],
  [2, 6],
  [3, 7],
] as const

/**
 * The Size handles: the box in thin lines, a square grip off each of its faces in the axis's colour, a round one on
 * each corner.
 */
export class SizeHandles implements HandleSet {
  readonly object = new Group()
  private readonly lines = new LineSegments(
    new BufferGeometry().setAttribute('position', new BufferAttribute(new Float32Array(72), 3)),
    new LineBasicMaterial({ ...OVERLAY, opacity: 0.7 }),
  )
  private readonly sprites = new Map<SizeGrip, Sprite>(
    GRIPS.map(grip => [grip, sprite(null, 1, gripAxes(grip).length === 1 ? 4 : 3)]),
  )

  constructor() {
    this.lines.frustumCulled = false
    this.lines.renderOrder = 1
    this.object.add(this.lines, ...this.sprites.values())
  }

  setBoard(board: Board): void {
    this.lines.material.color = new Color(board.colors.picked)
    for (const [grip, each] of this.sprites) {
      const axes = gripAxes(grip)
      redraw(
        each,
        axes.length === 1 ? squareTexture('#fff', board.axes[axes[0]!]) : dotTexture(board.colors.picked, '#fff'),
      )
    }
  }

  update({ frame: { box }, hot, view }: HandleSetting): void {
    this.object.visible = box !== null
    if (!box) return
    const corners = boxCorners(box.box).map(corner => corner.applyQuaternion(box.axes))
    const position = this.lines.geometry.getAttribute('position')
    EDGES.flat().forEach((corner, i) => position.setXYZ(i, corners[corner]!.x, corners[corner]!.y, corners[corner]!.z))
    position.needsUpdate = true
    for (const [grip, each] of this.sprites) {
      each.visible = canSize(box, grip)
      each.position.copy(this.place(box, grip, view))
      const isHot = sameHandle(hot, { do: 'size', grip })
      each.scale.setScalar(
        (gripAxes(grip).length === 1 ? FACE : CORNER) * (isHot ? 2.7 : 2) * view.metresPerPixel(each.position),
      )
      each.material.opacity = hot && !isHot ? 0.5 : 1
    }
  }

  hit(at: ScreenPoint, setting: HandleSetting): Handle | null {
    const { box } = setting.frame
    if (!box) return null
    const found = GRIPS.filter(grip => canSize(box, grip))
      .map(grip => {
        const point = this.place(box, grip, setting.view)
        const seen = setting.view.project(point)
        return { grip, away: seen ? distance(at, seen) : Infinity, depth: point.distanceTo(setting.view.eye) }
      })
      .filter(({ away, grip }) => away <= (gripAxes(grip).length === 1 ? FACE : CORNER) + REACH)
    // Of two that lie over each other the one in front is meant.
    const [nearest] = found.sort((a, b) => (Math.abs(a.away - b.away) > 2 ? a.away - b.away : a.depth - b.depth))
    return nearest ? { do: 'size', grip: nearest.grip } : null
  }

  grip(handle: Handle, setting: HandleSetting): ScreenPoint | null {
    const { box } = setting.frame
    return handle.do === 'size' && box ? setting.view.project(this.place(box, handle.grip, setting.view)) : null
  }

  dispose(): void {
    this.lines.geometry.dispose()
    this.lines.material.dispose()
    for (const each of this.sprites.values()) {
      each.material.map?.dispose()
      each.material.dispose()
    }
  }

  private place(box: SizeBox, grip: SizeGrip, view: HandleSetting['view']): Vector3 {
    const point = gripPoint(box, grip)
    if (gripAxes(grip).length > 1) return point
    return point.addScaledVector(new Vector3(...grip).applyQuaternion(box.axes), OFF * view.metresPerPixel(point))
  }
}

/** What is flat along an axis cannot be sized along it. */
function canSize({ box }: SizeBox, grip: SizeGrip): boolean {
  return gripAxes(grip).some(axis => box.max.getComponent(axis) - box.min.getComponent(axis) > 1e-9)
}
