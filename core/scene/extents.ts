import { Box3, Matrix4, Vector3 } from 'three'
import type { Vec3 } from '../math/vectors'
import type { Solid } from '../mesh/solid'
import { CopyRun } from './copy-run'
import type { Entry } from './entries'
import { boxOf, within } from './entries'
import type { LevelView } from './level-view'
import { boxCorners, cornersOf } from './shown'

/** How large things are and how far they reach, by what they show. */
export class Extents {
  /**
   * @param solidOf the mesh a shape names; undefined while it is not there
   * @param entriesOf what a placement or a copy shows
   */
  constructor(
    private readonly level: LevelView,
    private readonly solidOf: (shape: string) => Solid | undefined,
    private readonly entriesOf: (id: string) => readonly Entry[],
  ) {}

  /** The box around some placements, in the world; empty if none of them shows something. */
  boundsOf(ids: Iterable<string>, target = new Box3()): Box3 {
    target.makeEmpty()
    for (const id of ids) for (const entry of this.entriesOf(id)) target.union(boxOf(entry, one))
    return target
  }

  /**
   * Width, height and depth of the box around some placements and all below them, along the world's axes; null if they
   * show nothing.
   */
  sizeOf(ids: Iterable<string>): Vec3 | null {
    const box = this.boundsOf(
      [...ids].flatMap(id => this.level.subtree(id)),
      new Box3(),
    )
    return box.isEmpty() ? null : box.getSize(new Vector3()).toArray()
  }

  /**
   * Width, height and depth in the thing's own axes, as large as it is in the world, together with what hangs below it;
   * null if it shows nothing.
   */
  localSizeOf(id: string): Vec3 | null {
    const box = this.ownBox(id)
    if (box.isEmpty()) return null
    const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
    this.level.worldMatrix(id).extractBasis(x, y, z)
    return box
      .getSize(new Vector3())
      .multiply(new Vector3(x.length(), y.length(), z.length()))
      .toArray()
  }

  /** The box around a thing and all below it, in the thing's own axes; empty if they show nothing. */
  ownBox(id: string): Box3 {
    const toOwn = this.level.worldMatrix(id).clone().invert()
    const [box, part, matrix] = [new Box3(), new Box3(), new Matrix4()]
    for (const below of this.level.subtree(id)) {
      for (const entry of this.entriesOf(below)) {
        if (entry instanceof CopyRun) box.union(entry.box(part, toOwn))
        else if (below === id && entry.matrix === this.level.worldMatrix(id)) box.union(entry.solid.bounds)
        else box.union(part.copy(entry.solid.bounds).applyMatrix4(matrix.multiplyMatrices(toOwn, entry.matrix)))
      }
    }
    return box
  }

  /**
   * The box around the shapes of a placement and all below it, also of a source, in the axes that `toAxes` leads to
   * from the world.
   */
  boxIn(id: string, toAxes: Matrix4): Box3 {
    const [box, part, matrix] = [new Box3(), new Box3(), new Matrix4()]
    for (const below of this.level.subtree(id)) {
      const shape = this.level.shapeOf(below)
      const solid = shape === null ? undefined : this.solidOf(shape)
      if (solid)
        box.union(part.copy(solid.bounds).applyMatrix4(matrix.multiplyMatrices(toAxes, this.level.worldMatrix(below))))
    }
    return box
  }

  /**
   * How far some placements reach in a direction of the world, by their real points, and where they do.
   * @param direction of unit length
   * @returns `reach` in metres from the world's origin; null if they show nothing
   */
  extreme(ids: Iterable<string>, direction: Vector3): { reach: number; middle: Vector3 } | null {
    let best: { reach: number; middle: Vector3 } | null = null
    const local = new Vector3()
    const { x, y, z } = direction
    const reaches = (box: Box3) =>
      best === null
      || Math.max(box.min.x * x, box.max.x * x)
        + Math.max(box.min.y * y, box.max.y * y)
        + Math.max(box.min.z * z, box.max.z * z)
        > best.reach
    for (const id of ids) {
      for (const entry of this.entriesOf(id))
        for (const { solid, matrix } of within(entry, reaches)) {
          const e = matrix.elements
          local.set(
            e[0]! * x + e[1]! * y + e[2]! * z,
            e[4]! * x + e[5]! * y + e[6]! * z,
            e[8]! * x + e[9]! * y + e[10]! * z,
          )
          const found = solid.extreme(local)
          const reach = found.reach + e[12]! * x + e[13]! * y + e[14]! * z
          if (!best || reach > best.reach) best = { reach, middle: found.middle.applyMatrix4(matrix) }
        }
    }
    return best
  }

  /**
   * The points of some placements that reach farthest against a direction of the world, one for each of the cells that
   * their outline in plan is divided into; all corners of simple shapes are among them.
   */
  underside(ids: readonly string[], up: Vector3): Vector3[] {
    const { min, max } = this.boundsOf(ids)
    const cell = (value: number, low: number, high: number) =>
      Math.min(Math.floor(((value - low) / (high - low || 1)) * CELLS), CELLS - 1)
    const lowest = new Map<number, { point: Vector3; reach: number }>()
    const point = new Vector3()
    for (const id of ids) {
      for (const entry of this.entriesOf(id))
        for (const { solid, matrix } of within(entry, () => true)) {
          solid.eachPlace((x, y, z) => {
            point.set(x, y, z).applyMatrix4(matrix)
            const [at, reach] = [cell(point.x, min.x, max.x) * CELLS + cell(point.z, min.z, max.z), point.dot(up)]
            const known = lowest.get(at)
            if (!known || reach < known.reach) lowest.set(at, { point: point.clone(), reach })
          })
        }
    }
    return [...lowest.values()].map(each => each.point)
  }

  /**
   * The corners of the boxes of some placements, each along its own axes, in the world; of large arrangements along the
   * world's.
   */
  cornersOf(ids: Iterable<string>): Vector3[] {
    const corners: Vector3[] = []
    for (const id of ids)
      for (const entry of this.entriesOf(id))
        corners.push(...(entry instanceof CopyRun ? boxCorners(entry.box(one)) : cornersOf(entry)))
    return corners
  }
}

/** Along each side of an outline in plan. */
const CELLS = 32
const one = new Box3()
