import type { Quaternion } from 'three'
import { Box3, Vector3 } from 'three'
import type { Finder } from '../../scene/finder'
import { directionsOf, localAxes } from '../handles/axes'
import type { AxisIndex, Constraint } from '../handles/lock'
import { freeAxes } from '../handles/lock'
import { moveTops } from '../handles/move'
import { pivotOf } from '../handles/pivot'
import type { LevelView } from '../../scene/level-view'
import type { Operation } from '../../level/schema'
import { topmost } from '../../level/tree'
import type { Abutment } from './abut'
import { Abut } from './abut'
import type { Aim } from './aim'
import type { GridFrame, GridStep } from './grid'
import { axesOnGrid, snapOffset, tidyVector } from './grid'
import type { HugRule } from './hug'
import { hug, Hugging, hugSurface } from './hug'
import type { IsGround } from './rest'
import type { Join, SocketAt, SocketsOf } from './sockets'
import {
  fits,
  freeSocketsIn,
  joinedOff,
  joiningMatrix,
  joinOperations,
  nearestJoin,
  reachAt,
  socketsAt,
} from './sockets'
import type { SnapPoint, SnapPointKind } from './vertex'
import { findSnapPoint } from './vertex'
import { movingWith } from '../../scene/copies'

/** What a move snaps to; each part is off when null. */
export type MoveSnaps = {
  grid: GridStep & { frame: GridFrame }
  abut: boolean
  vertex: ReadonlySet<SnapPointKind> | null
  hug: HugRule | null
  /** What sockets shapes have, for ends to click together. */
  sockets?: SocketsOf | null
}

/** What a move was caught by, the strongest first. */
export type MoveCatch =
  | { by: 'vertex'; target: SnapPoint }
  | { by: 'socket'; join: Join; /** Degrees by which the ends do not look against each other. */ off: number }
  | { by: 'hug'; surfaceId: string | null }
  | { by: 'abut' | 'flush'; abutment: Abutment }
  | {
      by: 'grid'
      /** Of the grid's axes, those along which the place is on a line, or a number of steps on. */
      axes: readonly AxisIndex[]
      /** Whether that is all the drag could change. */
      whole: boolean
    }

export type SnappedMove = {
  offset: Vector3
  operations: Operation[]
  catches: MoveCatch[]
  /** The ends of what moves, where it is, and free ones around, for showing them. */
  ends?: readonly SocketAt[]
}

/** How near faces have to come to be caught, in pixels. */
const ABUT_REACH = 12
/** Of more things that are moved together, the ends of the others are not looked for. */
const MOST_WITH_ENDS = 20
/** Metres around an end in which others are shown. */
const ENDS_AROUND = 4

/**
 * Turns where a pointer would take things into where they go.
 *
 * The strongest wins: a point caught by vertex snap; then faces that abut, then flush sides; then the grid, which has
 * whatever freedom those leave. Hugging decides the height that comes of it. Nothing is remembered from one pointer
 * move to the next, so a snap lets go as soon as the pointer leaves it.
 */
export class MoveSnapper {
  readonly tops: string[]
  private readonly moving: ReadonlySet<string>
  private readonly abut: Abut
  private readonly hugging: Hugging
  /** The ends of what moves, where it stands before it does; looked for when first asked for. */
  private ends: SocketAt[] | null = null

  /**
   * @param last leads: it hugs under the pointer, and its axes are those of the box that abuts
   * @param source the point that is brought to what is caught, in the world
   * @param isGround what hugging takes for ground
   */
  constructor(
    private readonly level: LevelView,
    private readonly index: Finder,
    ids: Iterable<string>,
    private readonly last: string,
    private readonly source: Vector3,
    private readonly isGround: IsGround,
  ) {
    this.tops = topmost(level, new Set(ids))
    this.moving = movingWith(level, this.tops)
    this.hugging = new Hugging(level, index)
    this.abut = new Abut(index, this.moving, localAxes(level, last))
  }

  /** @param aim null when there is no pointer, as for typed numbers; then nothing but the grid is asked */
  snap(
    raw: Vector3,
    constraint: Constraint,
    axes: Quaternion,
    { grid, abut, vertex, hug: hugging, sockets }: MoveSnaps,
    aim: Aim | null,
  ): SnappedMove {
    const free = freeAxes(constraint).map(axis => directionsOf(axes)[axis])
    const target = vertex && aim && findSnapPoint(this.level, this.index, aim, vertex, id => !this.moving.has(id))
    if (target) {
      const wanted = target.point.clone().sub(this.source)
      const offset = tidyVector(
        free.reduce((sum, direction) => sum.addScaledVector(direction, direction.dot(wanted)), new Vector3()),
      )
      return { offset, operations: moveTops(this.level, this.tops, offset), catches: [{ by: 'vertex', target }] }
    }
    const { join, ends } = sockets && aim ? this.findJoin(raw, sockets, aim) : { join: null, ends: [] }
    if (join && isWithin(join, free)) {
      const operations = joinOperations(this.level, this.tops, join)
      return {
        offset: this.source.clone().applyMatrix4(joiningMatrix(join)).sub(this.source),
        operations,
        catches: [{ by: 'socket', join, off: joinedOff(this.level, operations, join) }],
      }
    }
    return { ...this.snapOtherwise(raw, constraint, axes, { grid, abut, hug: hugging }, aim, free), ends }
  }

  /** By faces, the grid and the ground. */
  private snapOtherwise(
    raw: Vector3,
    constraint: Constraint,
    axes: Quaternion,
    { grid, abut, hug: hugging }: Pick<MoveSnaps, 'grid' | 'abut' | 'hug'>,
    aim: Aim | null,
    free: readonly Vector3[],
  ): SnappedMove {
    const catches: MoveCatch[] = []
    const accept = (id: string) => !this.moving.has(id) && (hugging?.onto !== 'ground' || this.isGround(id))
    const wanted = hugging && aim && constraint.kind === 'view' ? (this.underPointer(aim, accept) ?? raw) : raw
    let offset = snapOffset(this.source, wanted, constraint, axes, grid, grid.frame)
    if (abut && aim) {
      const inPlan = hugging
        ? free.map(direction => direction.clone().setY(0)).filter(direction => direction.lengthSq() > 1e-6)
        : free
      const { offset: abutted, abutments } = this.abut.snap(
        wanted,
        offset,
        orthonormal(inPlan),
        ABUT_REACH * aim.metresPerPixel(this.source.clone().add(wanted)),
      )
      offset = abutted
      catches.unshift(...abutments.map(abutment => ({ by: abutment.kind, abutment })))
    }
    // What faces or the surface decide is on a line only by chance.
    const gridded = axesOnGrid(this.source, offset, constraint, axes, grid, grid.frame, hugging !== null)
    if (gridded.axes.length > 0) catches.push({ by: 'grid', ...gridded })
    if (!hugging) return { offset, operations: moveTops(this.level, this.tops, offset), catches }
    return this.hugged(offset, wanted, hugging, accept, catches)
  }

  /** The ends that come nearest to each other when all is moved by so much. */
  private findJoin(raw: Vector3, socketsOf: SocketsOf, aim: Aim): { join: Join | null; ends: readonly SocketAt[] } {
    this.ends ??= this.tops
      .slice(0, MOST_WITH_ENDS)
      .flatMap(top =>
        this.level
          .subtree(top)
          .flatMap(id =>
            this.index.shownBy(id).flatMap(({ solid, matrix }) => socketsAt(id, socketsOf(solid), matrix)),
          ),
      )
    if (this.ends.length === 0) return { join: null, ends: [] }
    const moved = this.ends.map(end => ({ ...end, point: end.point.clone().add(raw) }))
    const box = new Box3()
    for (const { point } of moved)
      box.union(new Box3(point, point).clone().expandByScalar(Math.max(reachAt(aim, point), ENDS_AROUND)))
    const others = freeSocketsIn(this.index, box, socketsOf, id => !this.moving.has(id)).filter(other =>
      this.ends!.some(end => fits(end.socket, other.socket)),
    )
    const join = nearestJoin(moved, others, aim)
    return {
      join: join && { own: this.ends[moved.indexOf(join.own)]!, other: join.other },
      ends: [...moved, ...others],
    }
  }

  private hugged(offset: Vector3, wanted: Vector3, rule: HugRule, accept: IsGround, catches: MoveCatch[]): SnappedMove {
    const from = pivotOf(this.level, this.last)
    const surface = hugSurface(this.index, from.clone().add(offset), from.y + wanted.y, accept)
    if (!surface) return { offset, operations: moveTops(this.level, this.tops, offset), catches }
    const operations = hug(this.hugging, { lead: this.last, tops: this.tops }, surface, { rule, accept })
    return {
      offset: surface.point.clone().sub(from),
      operations,
      catches: [{ by: 'hug', surfaceId: surface.id }, ...catches],
    }
  }

  /** The way to the surface the pointer is over. */
  private underPointer({ ray }: Aim, accept: IsGround): Vector3 | null {
    const point = this.index.raycast(ray, accept)?.point ?? groundPlane(ray.origin, ray.direction)
    return point && point.sub(pivotOf(this.level, this.last))
  }
}

/** Whether the way to an end lies in the directions that are free. */
function isWithin({ own, other }: Join, free: readonly Vector3[]): boolean {
  const way = other.point.clone().sub(own.point)
  for (const direction of orthonormal(free)) way.addScaledVector(direction, -way.dot(direction))
  return way.length() < 1e-3
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
