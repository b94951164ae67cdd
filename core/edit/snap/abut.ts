import type { Matrix4, Quaternion } from 'three'
import { Box3, Vector3 } from 'three'
import type { Finder } from '../../scene/finder'
import type { Shown } from '../../scene/shown'
import { cornersOf } from '../../scene/shown'
import { directionsOf } from '../handles/axes'
import { tidyVector } from './grid'
import { toMicrometre } from '../../math/micrometre'

/** Where a box begins and ends along each of three directions, in the world. */
type Extent = { from: number[]; to: number[] }

type Neighbour = Extent & {
  id: string
  /** Along which of the three directions its faces really lie. */
  aligned: boolean[]
}

/** A face of a moved thing that meets one of another thing, or lies flush with it. */
export type Abutment = {
  kind: 'abut' | 'flush'
  id: string
  /** The four corners of where the two faces meet, in the world; none for a flush side. */
  corners: Vector3[]
}

type Catch = { kind: 'abut' | 'flush'; axis: number; end: 'from' | 'to'; at: number; neighbour: Neighbour }

/** Directions count as the same when their cosine is this near to 1. */
const PARALLEL = 1e-7
/** Faces count as meeting within this many metres. */
const MEETING = 2e-6
/** More neighbours than this are not looked at. */
const MOST_NEIGHBOURS = 400

/**
 * Lets the faces of a moved box meet those of the boxes around it.
 *
 * First catch: faces that look at each other, the nearest first. Second: with whatever is touched then, the sides come
 * flush. Each catch takes one freedom from the move, so that no second one can pull a first one apart.
 */
export class Abut {
  private readonly directions: readonly Vector3[]
  private readonly own: Extent
  private readonly box: Box3
  /** What stands around does not move while the box does. */
  private readonly known = new Map<Shown, Neighbour>()

  /**
   * @param moving everything that moves along, which is never caught
   * @param axes of the box that is caught
   */
  constructor(
    private readonly index: Finder,
    private readonly moving: ReadonlySet<string>,
    axes: Quaternion,
  ) {
    this.directions = directionsOf(axes)
    const corners = index.extents.cornersOf(moving)
    this.own = this.extentOf(corners)
    this.box = new Box3().setFromPoints(corners)
  }

  /**
   * @param raw where the pointer would take the box from where it is; decides what is near enough
   * @param given the offset to use where nothing is caught, such as one on the grid
   * @param free the directions the move may still change, of unit length and at right angles to each other
   * @param tolerance in metres
   */
  snap(
    raw: Vector3,
    given: Vector3,
    free: readonly Vector3[],
    tolerance: number,
  ): { offset: Vector3; abutments: Abutment[] } {
    if (this.box.isEmpty()) return { offset: given.clone(), abutments: [] }
    const neighbours = this.neighbours(raw, tolerance)
    const near = raw.clone()
    const result = given.clone()
    let left = [...free]
    const chosen: Catch[] = []
    const take = (catches: Catch[]) => {
      for (const found of catches.sort((a, b) => Math.abs(this.gap(a, near)) - Math.abs(this.gap(b, near)))) {
        const normal = this.directions[found.axis]!
        const along = left.reduce(
          (sum, direction) => sum.addScaledVector(direction, direction.dot(normal)),
          new Vector3(),
        )
        if (along.length() < 0.3 || Math.abs(this.gap(found, near)) > tolerance) continue
        for (const offset of [near, result]) offset.addScaledVector(along, this.gap(found, offset) / along.dot(normal))
        left = without(left, normal)
        chosen.push(found)
      }
    }
    take(neighbours.flatMap(neighbour => this.facing(neighbour, near, tolerance)))
    take(neighbours.filter(neighbour => this.meets(neighbour, near)).flatMap(neighbour => this.flush(neighbour)))
    tidyVector(result)
    return {
      offset: result,
      abutments: chosen.map(found => ({
        kind: found.kind,
        id: found.neighbour.id,
        corners: found.kind === 'abut' ? this.meetingCorners(found, result) : [],
      })),
    }
  }

  private neighbours(offset: Vector3, tolerance: number): Neighbour[] {
    const found: Neighbour[] = []
    this.index.near(this.box.clone().translate(offset).expandByScalar(tolerance), shown => {
      if (found.length < MOST_NEIGHBOURS && !this.moving.has(shown.id)) found.push(this.neighbour(shown))
    })
    return found
  }

  private neighbour(shown: Shown): Neighbour {
    let known = this.known.get(shown)
    if (!known)
      this.known.set(
        shown,
        (known = { id: shown.id, ...this.extentOf(cornersOf(shown)), aligned: this.alignedAxes(shown.matrix) }),
      )
    return known
  }

  private alignedAxes(matrix: Matrix4): boolean[] {
    const sides = [new Vector3(), new Vector3(), new Vector3()] as const
    matrix.extractBasis(...sides)
    for (const side of sides) side.normalize()
    return this.directions.map(direction => sides.some(side => 1 - Math.abs(side.dot(direction)) < PARALLEL))
  }

  /** Meshes are good to a micrometre; to the last bit of their single precision no two sides would meet. */
  private extentOf(corners: readonly Vector3[]): Extent {
    const along = this.directions.map(direction => corners.map(corner => toMicrometre(corner.dot(direction))))
    return {
      from: along.map(values => values.reduce((least, value) => Math.min(least, value), Infinity)),
      to: along.map(values => values.reduce((most, value) => Math.max(most, value), -Infinity)),
    }
  }

  private place(end: 'from' | 'to', axis: number, offset: Vector3): number {
    return this.own[end][axis]! + offset.dot(this.directions[axis]!)
  }

  /** How far the caught face still has to go. */
  private gap({ axis, end, at }: Catch, offset: Vector3): number {
    return at - this.place(end, axis, offset)
  }

  private facing(neighbour: Neighbour, offset: Vector3, tolerance: number): Catch[] {
    return [0, 1, 2].flatMap(axis => {
      const beside = [0, 1, 2].every(other => other === axis || this.overlap(neighbour, other, offset) > -tolerance)
      if (!neighbour.aligned[axis] || !beside) return []
      return [
        { kind: 'abut' as const, axis, end: 'from' as const, at: neighbour.to[axis]!, neighbour },
        { kind: 'abut' as const, axis, end: 'to' as const, at: neighbour.from[axis]!, neighbour },
      ]
    })
  }

  private flush(neighbour: Neighbour): Catch[] {
    return [0, 1, 2].flatMap(axis =>
      neighbour.aligned[axis]
        ? (['from', 'to'] as const).map(end => ({
            kind: 'flush' as const,
            axis,
            end,
            at: neighbour[end][axis]!,
            neighbour,
          }))
        : [],
    )
  }

  /** How much the two share along an axis; negative for what lies between them. */
  private overlap(neighbour: Neighbour, axis: number, offset: Vector3): number {
    return (
      Math.min(this.place('to', axis, offset), neighbour.to[axis]!)
      - Math.max(this.place('from', axis, offset), neighbour.from[axis]!)
    )
  }

  private meets(neighbour: Neighbour, offset: Vector3): boolean {
    const shared = [0, 1, 2].map(axis => this.overlap(neighbour, axis, offset))
    return (
      shared.some((value, axis) => Math.abs(value) < MEETING && neighbour.aligned[axis])
      && shared.every(value => value > -MEETING)
    )
  }

  private meetingCorners({ axis, at, neighbour }: Catch, offset: Vector3): Vector3[] {
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3]
    const span = (other: number) => [
      Math.max(this.place('from', other, offset), neighbour.from[other]!),
      Math.min(this.place('to', other, offset), neighbour.to[other]!),
    ]
    const [spanU, spanV] = [span(u), span(v)]
    const corner = (alongU: number, alongV: number) =>
      new Vector3()
        .addScaledVector(this.directions[axis]!, at)
        .addScaledVector(this.directions[u]!, alongU)
        .addScaledVector(this.directions[v]!, alongV)
    return [
      corner(spanU[0]!, spanV[0]!),
      corner(spanU[1]!, spanV[0]!),
      corner(spanU[1]!, spanV[1]!),
      corner(spanU[0]!, spanV[1]!),
    ]
  }
}

/**
 * The directions that are left of some when nothing may change along `normal` any more, again at right angles to each
 * other.
 */
function without(directions: readonly Vector3[], normal: Vector3): Vector3[] {
  const along = directions
    .reduce((sum, direction) => sum.addScaledVector(direction, direction.dot(normal)), new Vector3())
    .normalize()
  const left: Vector3[] = []
  for (const direction of directions) {
    const rest = direction.clone().addScaledVector(along, -direction.dot(along))
    for (const other of left) rest.addScaledVector(other, -rest.dot(other))
    if (rest.length() > 1e-6) left.push(rest.normalize())
  }
  return left
}
