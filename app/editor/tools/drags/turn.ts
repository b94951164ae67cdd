import { Vector3 } from 'three'
import { directionsOf, localAxes, rotationFromAxes } from '~~/core/edit/handles/axes'
import type { HandleFrame } from '~~/core/edit/handles/handle'
import type { AxisIndex, Constraint } from '~~/core/edit/handles/lock'
import { turnAbout, TurnDrag, turnPlacements, twistAbout } from '~~/core/edit/handles/turn'
import { isSkewed } from '~~/core/level/tree'
import { snapValue } from '~~/core/edit/snap/grid'
import { tidy } from '~~/core/units/quantity'
import { DIAL } from '~/stage/handles/turn-handles'
import type { ToolWorld } from '../tool-world'
import type { DragKind } from './drag-kind'
import { wordFor } from '~~/core/units/plural'

/** Turning what is picked about one of the handles' axes, or about the line of sight. */
export function turnDrag(world: ToolWorld, frame: HandleFrame, handle: AxisIndex): DragKind {
  const level = world.level()
  const { ids, last } = world.selection()
  const turnable = [...ids].filter(id => !level.isLocked(id))
  return {
    verb: 'Turn',
    leavesInstances: true,
    make: (lock, { aim }) => {
      const axis = axisOf(lock, handle)
      const { letter, sign } = world.axes().of(axis)
      const direction = directionsOf(frame.axes)[axis]
      const { stage } = world
      const sight = stage.view.sightOf(frame.origin)
      const drag = new TurnDrag(aim.ray, frame.origin, direction, sight, DIAL * stage.view.metresPerPixel(frame.origin))
      const from = directionTo(aim.ray.origin, aim.ray.direction, frame.origin, direction, sight)
      const began = twistAbout(localAxes(level, last!), direction)
      let degrees = 0
      const outcome = (next: number, notes: string[]) => {
        degrees = next
        const around = world.around()
        const operations = turnPlacements(
          level,
          turnable,
          turnAbout(direction, degrees),
          around && new Vector3(...around),
        )
        return {
          operations,
          title: `Turn about ${letter}`,
          value: world.printAngle(degrees * sign, true),
          notes: [...notes, ...turnsNote(world, degrees * sign), ...skewNote(world, turnable)],
          wedge: { axis: direction, from, degrees },
        }
      }
      return {
        update: ({ ray }, { ctrl }) => {
          const step = world.step('turn', ctrl)
          const next = tidy(snapValue(began, began + drag.update(ray), step) - began)
          return outcome(next, [step.size > 0 ? `in steps of ${step.size}°` : 'without steps'])
        },
        fields: [{ label: 'XYZ'[axis]!, quantity: 'angle', axis }],
        values: () => [degrees],
        type: ([typed]) => outcome(typed!, ['as typed']),
      }
    },
  }
}

/** A plane lock leaves the turn about the axis it locks out. */
function axisOf(lock: Constraint | null, handle: AxisIndex): AxisIndex {
  return lock && lock.kind !== 'view' ? lock.axis : handle
}

/** From the middle of a dial to where its rim was taken hold of. */
function directionTo(eye: Vector3, ray: Vector3, centre: Vector3, axis: Vector3, sight: Vector3): Vector3 {
  const height = centre.clone().sub(eye).dot(axis) / ray.dot(axis)
  const point =
    Number.isFinite(height) && height > 0 && Math.abs(axis.dot(sight)) > 0.12
      ? eye.clone().addScaledVector(ray, height).sub(centre)
      : sight.clone().negate()
  point.addScaledVector(axis, -point.dot(axis))
  return point.lengthSq() > 1e-12
    ? point.normalize()
    : new Vector3(1, 0, 0).applyQuaternion(rotationFromAxes(axis, sight))
}

function turnsNote(world: ToolWorld, degrees: number): string[] {
  const turns = Math.trunc(degrees / 360)
  return turns === 0
    ? []
    : [`${Math.abs(turns)} whole ${wordFor(Math.abs(turns), 'turn')} and ${world.printAngle(degrees - turns * 360)}`]
}

export function skewNote(world: ToolWorld, ids: readonly string[]): string[] {
  return ids.length <= 50 && ids.some(id => world.level().need(id).parentId !== null && isSkewed(world.level(), id))
    ? ['skewed by the uneven size of what it hangs from']
    : []
}
