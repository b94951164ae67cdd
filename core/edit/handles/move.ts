import type { Quaternion, Ray } from 'three'
import { Vector3 } from 'three'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'
import type { Vec3 } from '../../math/vectors'
import { topmost } from '../../level/tree'
import { tidy } from '../../units/quantity'
import { directionsOf } from './axes'
import type { ViewDirections } from './axis-drag'
import { AxisDrag } from './axis-drag'
import type { Constraint } from './lock'
import { PlaneDrag } from './plane-drag'

/** Follows a pointer from the press to the release of a move. */
export class MoveDrag {
  private readonly along: { drag: AxisDrag; direction: Vector3 } | null = null
  private readonly over: PlaneDrag | null = null

  /** @param origin where the handles stand, in the world */
  constructor(ray: Ray, origin: Vector3, constraint: Constraint, axes: Quaternion, view: ViewDirections) {
    const directions = directionsOf(axes)
    if (constraint.kind === 'axis') {
      const direction = directions[constraint.axis]
      this.along = { direction, drag: new AxisDrag(ray, origin, direction, view) }
    } else {
      this.over = new PlaneDrag(ray, origin, constraint.kind === 'plane' ? directions[constraint.axis] : view.forward)
    }
  }

  /** How far the pointer has come from where the drag began, in the world, in metres; nothing is snapped yet. */
  update(ray: Ray): Vector3 {
    return this.along
      ? this.along.direction.clone().multiplyScalar(this.along.drag.update(ray))
      : this.over!.update(ray).clone()
  }
}

/**
 * The operations that move placements by `offset` in the world, whatever they hang from.
 * What hangs below another of them goes along with it and is not moved twice.
 *
 * @example
 * import { Vector3 } from 'three'
 * import { createPlacement } from '../../level/create'
 * import { Level } from '../../level/level'
 * const id = '00000000-0000-7000-8000-000000000001'
 * const level = new Level([createPlacement({ id, name: 'Crate', kind: 'group' })])
 * movePlacements(level, [id], new Vector3(0, 0, 2)) // [{ do: 'put', id, fields: { translation: [0, 0, 2] } }]
 */
export function movePlacements(level: Level, ids: Iterable<string>, offset: Readonly<Vector3>): Operation[] {
  return moveTops(level, topmost(level, new Set(ids)), offset)
}

/** The same for things of which none hangs below another. */
export function moveTops(level: Level, tops: readonly string[], offset: Readonly<Vector3>): Operation[] {
  // Things that are moved together mostly hang from the same parent.
  const ways = new Map<string | null, Vector3>([[null, new Vector3().copy(offset)]])
  const wayInside = (parentId: string | null): Vector3 => {
    let way = ways.get(parentId)
    if (!way)
      ways.set(
        parentId,
        (way = new Vector3()
          .copy(offset)
          .applyMatrix4(level.worldMatrix(parentId!).clone().invert().setPosition(0, 0, 0))),
      )
    return way
  }
  return tops.map(id => {
    const { parentId, translation } = level.need(id)
    const way = wayInside(parentId)
    const moved: Vec3 = [tidy(translation[0] + way.x), tidy(translation[1] + way.y), tidy(translation[2] + way.z)]
    return { do: 'put', id, fields: { translation: moved } }
  })
}
