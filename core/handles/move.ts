import type { Ray } from 'three'
import { Matrix4, Vector3 } from 'three'
import type { LevelDocument } from '../level/document'
import type { Operation, Vec3 } from '../level/schema'
import { snapToStep } from '../snap/grid'
import { tidy } from '../units/quantity'
import type { ViewDirections } from './axis-drag'
import { AxisDrag } from './axis-drag'
import { PlaneDrag } from './plane-drag'

/** What a move follows: one axis, the plane across one axis (the other two are free), or the plane of the screen. */
export type MoveConstraint = { kind: 'axis', axis: 0 | 1 | 2 } | { kind: 'plane', axis: 0 | 1 | 2 } | { kind: 'view' }

export const AXES: readonly Vector3[] = [new Vector3(1, 0, 0), new Vector3(0, 1, 0), new Vector3(0, 0, 1)]

/** Follows a pointer from the press on a Move handle to the release; World axes. */
export class MoveDrag {
  private readonly along: AxisDrag | null
  private readonly over: PlaneDrag | null

  /** @param origin where the handles stand, in the world */
  constructor(ray: Ray, private readonly origin: Vector3, private readonly constraint: MoveConstraint, view: ViewDirections) {
    this.along = constraint.kind === 'axis' ? new AxisDrag(ray, origin, AXES[constraint.axis]!, view) : null
    this.over = constraint.kind === 'axis' ? null : new PlaneDrag(ray, origin, constraint.kind === 'plane' ? AXES[constraint.axis]! : view.forward)
  }

  /**
   * How far to move from where the drag began, in the world, in metres.
   *
   * @param step grid step to land on, counted from the world's origin; 0 for none. A coordinate the constraint holds still
   * stays as it is, on the grid or not.
   */
  update(ray: Ray, step: number): Vec3 {
    const free: Vec3 = [0, 0, 0]
    if (this.along && this.constraint.kind === 'axis') free[this.constraint.axis] = this.along.update(ray)
    else if (this.over) this.over.update(ray).toArray(free)
    return free.map((way, i) => {
      const held = this.constraint.kind === 'axis' ? i !== this.constraint.axis : this.constraint.kind === 'plane' && i === this.constraint.axis
      if (held) return 0
      const from = this.origin.getComponent(i)
      return step > 0 ? tidy(snapToStep(from + way, step) - from) : way
    }) as Vec3
  }
}

/**
 * The operations that move placements by `offset` in the world, whatever they hang from.
 * What hangs below another of them goes along with it and is not moved twice.
 */
export function movePlacements(document: LevelDocument, ids: Iterable<string>, offset: Vec3): Operation[] {
  const chosen = new Set(ids)
  const inverse = new Matrix4()
  const way = new Vector3()
  return topmost(document, chosen).map((id) => {
    const { parentId, translation } = document.need(id)
    way.fromArray(offset)
    if (parentId !== null) {
      inverse.copy(document.worldMatrix(parentId)).invert().setPosition(0, 0, 0)
      way.applyMatrix4(inverse)
    }
    const moved: Vec3 = [tidy(translation[0] + way.x), tidy(translation[1] + way.y), tidy(translation[2] + way.z)]
    return { do: 'put', id, fields: { translation: moved } }
  })
}

/** Those of `ids` that do not hang below another of them. */
export function topmost(document: LevelDocument, ids: ReadonlySet<string>): string[] {
  return [...ids].filter((id) => {
    for (let at = document.need(id).parentId; at !== null; at = document.need(at).parentId) {
      if (ids.has(at)) return false
    }
    return true
  })
}
