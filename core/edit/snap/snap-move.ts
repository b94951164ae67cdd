import type { Quaternion } from 'three'
import { Vector3 } from 'three'
import type { LevelIndex } from '../../scene/level-index'
import { directionsOf, localAxes } from '../handles/axes'
import type { Constraint } from '../handles/lock'
import { freeAxes } from '../handles/lock'
import { moveTops } from '../handles/move'
import { pivotOf } from '../handles/pivot'
import type { LevelView } from '../../scene/level-view'
import type { Operation } from '../../level/schema'
import { topmost } from '../../level/tree'
import type { Abutment } from './abut'
import { Abut } from './abut'
import type { Aim } from './aim'
import type { GridFrame, Step } from './grid'
import { snapOffset, tidyVector } from './grid'
import type { HugRule } from './hug'
import { hug, Hugging, hugSurface } from './hug'
import type { IsGround } from './rest'
import type { SnapPoint, SnapPointKind } from './vertex'
import { findSnapPoint } from './vertex'
import { movingWith } from '../../scene/copies'

/** What a move snaps to; each part is off when null. */
export type MoveSnaps = {
  grid: Step & { frame: GridFrame }
  abut: boolean
  vertex: ReadonlySet<SnapPointKind> | null
  hug: HugRule | null
}

/** What a move was caught by, the strongest first. */
export type MoveCatch =
  | { by: 'vertex', target: SnapPoint }
  | { by: 'hug', surfaceId: string | null }
  | { by: 'abut' | 'flush', abutment: Abutment }
  | { by: 'grid' }

export type SnappedMove = { offset: Vector3, operations: Operation[], catches: MoveCatch[] }

/** How near faces have to come to be caught, in pixels. */
const ABUT_REACH = 12

/**
 * Turns where a pointer would take things into where they go.
 *
 * The strongest wins: a point caught by vertex snap; then faces that abut, then flush sides; then the grid, which has whatever
 * freedom those leave. Hugging decides the height that comes of it. Nothing is remembered from one pointer move to the
 * next, so a snap lets go as soon as the pointer leaves it.
 */
export class MoveSnapper {
  readonly tops: string[]
  private readonly moving: ReadonlySet<string>
  private readonly abut: Abut
  private readonly hugging: Hugging

  /**
   * @param last leads: it hugs under the pointer, and its axes are those of the box that abuts
   * @param source the point that is brought to what is caught, in the world
   * @param isGround what hugging takes for ground
   */
  constructor(
    private readonly level: LevelView, private readonly index: LevelIndex, ids: Iterable<string>, private readonly last: string,
    private readonly source: Vector3, private readonly isGround: IsGround,
  ) {
    this.tops = topmost(level, new Set(ids))
    this.moving = movingWith(level, this.tops)
    this.hugging = new Hugging(level, index)
    this.abut = new Abut(index, this.moving, localAxes(level, last))
  }

  /** @param aim null when there is no pointer, as for typed numbers; then nothing but the grid is asked */
  snap(raw: Vector3, constraint: Constraint, axes: Quaternion, { grid, abut, vertex, hug: hugging }: MoveSnaps, aim: Aim | null): SnappedMove {
    const catches: MoveCatch[] = []
    const free = freeAxes(constraint).map(axis => directionsOf(axes)[axis])
    const target = vertex && aim && findSnapPoint(this.level, this.index, aim, vertex, id => !this.moving.has(id))
    if (target) {
      const wanted = target.point.clone().sub(this.source)
      const offset = tidyVector(free.reduce((sum, direction) => sum.addScaledVector(direction, direction.dot(wanted)), new Vector3()))
      return { offset, operations: moveTops(this.level, this.tops, offset), catches: [{ by: 'vertex', target }] }
    }
    const accept = (id: string) => !this.moving.has(id) && (hugging?.onto !== 'ground' || this.isGround(id))
    const wanted = hugging && aim && constraint.kind === 'view' ? this.underPointer(aim, accept) ?? raw : raw
    let offset = snapOffset(this.source, wanted, constraint, axes, grid, grid.frame)
    if (grid.size > 0) catches.push({ by: 'grid' })
    if (abut && aim) {
      const inPlan = hugging ? free.map(direction => direction.clone().setY(0)).filter(direction => direction.lengthSq() > 1e-6) : free
      const { offset: abutted, abutments } = this.abut.snap(wanted, offset, orthonormal(inPlan), ABUT_REACH * aim.metresPerPixel(this.source.clone().add(wanted)))
      offset = abutted
      catches.unshift(...abutments.map(abutment => ({ by: abutment.kind, abutment })))
    }
    if (!hugging) return { offset, operations: moveTops(this.level, this.tops, offset), catches }
    return this.hugged(offset, wanted, hugging, accept, catches)
  }

  private hugged(offset: Vector3, wanted: Vector3, rule: HugRule, accept: IsGround, catches: MoveCatch[]): SnappedMove {
    const from = pivotOf(this.level, this.last)
    const surface = hugSurface(this.index, from.clone().add(offset), from.y + wanted.y, accept)
    if (!surface) return { offset, operations: moveTops(this.level, this.tops, offset), catches }
    const operations = hug(this.hugging, this.index, this.last, this.tops, surface, rule, accept)
    return { offset: surface.point.clone().sub(from), operations, catches: [{ by: 'hug', surfaceId: surface.id }, ...catches] }
  }

  /** The way to the surface the pointer is over. */
  private underPointer({ ray }: Aim, accept: IsGround): Vector3 | null {
    const point = this.index.raycast(ray, accept)?.point ?? groundPlane(ray.origin, ray.direction)
    return point && point.sub(pivotOf(this.level, this.last))
  }
}

function groundPlane(origin: Vector3, direction: Vector3): Vector3 | null {
  const distance = -origin.y / direction.y
  return distance > 0 && Number.isFinite(distance) ? origin.clone().addScaledVector(direction, distance) : null
}

/** The same span by directions of unit length at right angles to each other. */
function orthonormal(directions: readonly Vector3[]): Vector3[] {
  const done: Vector3[] = []
  for (const direction of directions) {
    const rest = direction.clone()
    for (const other of done) rest.addScaledVector(other, -rest.dot(other))
    if (rest.length() > 1e-3) done.push(rest.normalize())
  }
  return done
}
