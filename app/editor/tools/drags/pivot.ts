import { Vector3 } from 'three'
import { directionsOf } from '~~/core/edit/handles/axes'
import type { HandleFrame } from '~~/core/edit/handles/handle'
import type { Constraint } from '~~/core/edit/handles/lock'
import { freeAxes } from '~~/core/edit/handles/lock'
import { MoveDrag } from '~~/core/edit/handles/move'
import type { Operation } from '~~/core/level/schema'
import { snapOffset, tidyVector } from '~~/core/edit/snap/grid'
import type { Aim } from '~~/core/edit/snap/aim'
import { findSnapPoint } from '~~/core/edit/snap/vertex'
import type { ToolWorld } from '../tool-world'
import type { DragKind } from './drag-kind'

export type PointDragging = {
  /** Where the pointer would put the point by itself, such as onto a surface; null where it says nothing. */
  land?: (aim: Aim, ctrl: boolean) => Vector3 | null
  /** Whether the handles go along. */
  follows?: boolean
  /** What is said about the point; its place when left out. */
  print?: (point: Vector3) => string
}

/**
 * Dragging a point instead of things: a pivot or the pin. It comes onto the grid, and onto corners and middles of
 * everything, the thing's own as well.
 *
 * @param put the operations that put the point to a place of the world
 */
export function pointDrag(
  world: ToolWorld,
  frame: HandleFrame,
  handle: Constraint,
  verb: string,
  put: (point: Vector3) => Operation[],
  {
    land = () => null,
    follows = true,
    print = point =>
      world
        .axes()
        .inOrder.map(({ axis, letter, sign }) => `${letter} ${world.printLength(point.getComponent(axis) * sign)}`)
        .join('  '),
  }: PointDragging = {},
): DragKind {
  return {
    verb,
    leavesInstances: false,
    make: (lock, { aim }) => {
      const constraint = lock ?? handle
      const directions = directionsOf(frame.axes)
      const drag = new MoveDrag(aim.ray, frame.origin, constraint, frame.axes, world.stage.view.directions())
      let offset = new Vector3()
      const outcome = (next: Vector3, notes: string[], target?: Vector3) => {
        offset = next
        const point = frame.origin.clone().add(offset)
        return {
          operations: put(point),
          title: verb,
          value: print(point),
          notes,
          frame: follows ? { ...frame, origin: point } : undefined,
          hints: target ? { target } : {},
        }
      }
      return {
        update: (at, { ctrl }) => {
          const raw = drag.update(at.ray)
          const snaps = world.moveSnaps(ctrl)
          const caught = snaps.vertex && findSnapPoint(world.level(), world.finder(), at, snaps.vertex, () => true)
          if (caught) {
            const wanted = caught.point.clone().sub(frame.origin)
            const free = freeAxes(constraint).reduce(
              (sum, axis) => sum.addScaledVector(directions[axis], wanted.dot(directions[axis])),
              new Vector3(),
            )
            return outcome(tidyVector(free), [`on ${world.nameOf(caught.id)}`], caught.point)
          }
          const landed = constraint.kind === 'view' ? land(at, ctrl) : null
          if (landed)
            return outcome(landed.sub(frame.origin), [
              snaps.grid.size > 0 ? 'on the surface, on the grid' : 'on the surface',
            ])
          return outcome(snapOffset(frame.origin, raw, constraint, frame.axes, snaps.grid, snaps.grid.frame), [
            snaps.grid.size > 0 ? 'on the grid' : 'off the grid',
          ])
        },
        fields: freeAxes(constraint).map(axis => ({ label: 'XYZ'[axis]!, quantity: 'length', axis })),
        values: () => freeAxes(constraint).map(axis => offset.dot(directions[axis])),
        type: values =>
          outcome(
            tidyVector(
              freeAxes(constraint).reduce(
                (sum, axis, i) => sum.addScaledVector(directions[axis], values[i]!),
                new Vector3(),
              ),
            ),
            ['as typed'],
          ),
      }
    },
  }
}
