import { Vector3 } from 'three'
import { directionsOf, rotationFromAxes } from '~~/core/edit/handles/axes'
import type { Constraint } from '~~/core/edit/handles/lock'
import { freeAxes } from '~~/core/edit/handles/lock'
import { pivotOf } from '~~/core/edit/handles/pivot'
import { MoveDrag, movePlacements } from '~~/core/edit/handles/move'
import type { HandleFrame } from '~~/core/edit/handles/handle'
import type { Join } from '~~/core/edit/snap/sockets'
import type { MoveCatch, SnappedMove } from '~~/core/edit/snap/snap-move'
import { MoveSnapper } from '~~/core/edit/snap/snap-move'
import { tidyVector } from '~~/core/edit/snap/grid'
import { SNAP_POINT_NAMES } from '~~/core/edit/snap/vertex'
import type { WrittenAxes } from '~~/core/units/height'
import type { GridPlane } from '~/stage/surroundings'
import type { Hints } from '~/stage/snap-hints'
import type { ToolWorld } from '../tool-world'
import type { DragKind, Outcome } from './drag-kind'

/**
 * Moving what is picked.
 *
 * @param handle what was taken hold of; a lock goes before it
 * @param source the point that is brought to what vertex snap catches; where the handles stand when left out
 */
export function moveDrag(
  world: ToolWorld,
  frame: HandleFrame,
  handle: Constraint,
  source: Vector3 = frame.origin,
): DragKind {
  const level = world.level()
  const { ids, last } = world.selection()
  const movable = [...ids].filter(id => !level.isLocked(id))
  // What the ledger shows is the place of the last picked thing's pivot.
  const ofPivot = source.distanceTo(pivotOf(level, last!)) < 1e-6 ? '' : 'the point taken hold of '
  const snapper = new MoveSnapper(level, world.finder(), movable, last!, source, world.isGround)
  return {
    verb: 'Move',
    leavesInstances: true,
    make: (lock, from) => {
      const constraint = lock ?? handle
      const view = world.stage.view
      const drag = new MoveDrag(from.aim.ray, frame.origin, constraint, frame.axes, view.directions())
      const directions = directionsOf(frame.axes)
      let offset = new Vector3()
      const outcome = ({ offset: moved, operations, catches, ends }: SnappedMove, notes: string[]): Outcome => {
        offset = moved
        return {
          operations,
          title: titleOf(constraint, world.axes()),
          value: valueOf(constraint, moved, directions, world),
          notes,
          frame: { ...frame, origin: frame.origin.clone().add(moved) },
          hints: { ...hintsOf(catches, source, moved), ends },
          shift: moved,
          caught: catches.flatMap(caught => {
            if (caught.by === 'hug') return [{ by: 'hug', id: caught.surfaceId }]
            return caught.by === 'abut' || caught.by === 'flush' ? [{ by: caught.by, id: caught.abutment.id }] : []
          }),
        }
      }
      return {
        update: (aim, pointer) => {
          const snapped = snapper.snap(drag.update(aim.ray), constraint, frame.axes, world.moveSnaps(pointer.ctrl), aim)
          return outcome(snapped, notesOf(snapped.catches, world, pointer.ctrl, ofPivot))
        },
        fields: fieldAxes(constraint).map(axis => ({ label: 'XYZ'[axis]!, quantity: 'length', axis })),
        values: () => fieldAxes(constraint).map(axis => offset.dot(directions[axis])),
        type: values => {
          const typed = tidyVector(
            fieldAxes(constraint).reduce(
              (sum, axis, i) => sum.addScaledVector(directions[axis], values[i]!),
              new Vector3(),
            ),
          )
          return outcome({ offset: typed, operations: movePlacements(level, movable, typed), catches: [] }, [
            'as typed',
          ])
        },
        plane: planeOf(constraint, frame),
      }
    },
  }
}

/** Across the view all three axes can be typed. */
function fieldAxes(constraint: Constraint): (0 | 1 | 2)[] {
  return freeAxes(constraint)
}

/** The plane a drag goes over, if it is that of two axes. */
function planeOf(constraint: Constraint, { origin, axes }: HandleFrame): GridPlane | undefined {
  if (constraint.kind !== 'plane') return undefined
  const directions = directionsOf(axes)
  return { origin, axes: rotationFromAxes(directions[(constraint.axis + 1) % 3]!, directions[constraint.axis]) }
}

function titleOf(constraint: Constraint, written: WrittenAxes): string {
  if (constraint.kind === 'view') return 'Move across the view'
  const letters = written.letters(freeAxes(constraint)).join('')
  return constraint.kind === 'axis' ? `Move along ${letters}` : `Move in ${letters}`
}

function valueOf(constraint: Constraint, offset: Vector3, directions: readonly Vector3[], world: ToolWorld): string {
  const free = freeAxes(constraint)
  const axes = world.axes().inOrder.filter(({ axis }) => free.includes(axis))
  const said = axes.map(({ axis, letter, sign }) => ({
    letter,
    length: world.printLength(offset.dot(directions[axis]!) * sign, true),
  }))
  return said.length === 1 ? said[0]!.length : said.map(({ letter, length }) => `${letter} ${length}`).join('  ')
}

/** Which end meets which. */
export function joinName({ own, other }: Join, nameOf: (id: string) => string): string {
  return `${own.socket.name} to ${other.socket.name} of ${nameOf(other.id)}`
}

/** @param of whose place is on the grid, if it is not that of the thing's own pivot */
function notesOf(catches: readonly MoveCatch[], world: ToolWorld, inverted: boolean, of: string): string[] {
  const name = world.nameOf
  const step = world.step('grid', inverted)
  const notes = catches.map(caught => {
    switch (caught.by) {
      case 'vertex':
        return `on ${SNAP_POINT_NAMES[caught.target.kind]} of ${name(caught.target.id)}`
      case 'socket':
        return `${joinName(caught.join, name)}${caught.off > 0.01 ? `, ${caught.off.toFixed(1)}° off: what it hangs from is sized unevenly` : ''}`
      case 'hug':
        return caught.surfaceId === null ? 'hugs the ground plane' : `hugs ${name(caught.surfaceId)}`
      case 'abut':
        return `abuts ${name(caught.abutment.id)}`
      case 'flush':
        return `flush with ${name(caught.abutment.id)}`
      case 'grid':
        return `${caught.whole ? '' : `${world.axes().letters(caught.axes).join(' ')} `}${of}${step.lattice ? 'on the grid of' : 'in steps of'} ${world.printLength(step.size)}`
    }
  })
  return notes.length > 0 ? [...new Set(notes)] : ['off the grid']
}

function hintsOf(catches: readonly MoveCatch[], source: Vector3, offset: Vector3): Hints {
  const joined = catches.find(caught => caught.by === 'socket')
  if (joined?.by === 'socket') return { source: joined.join.other.point, target: joined.join.other.point }
  const point = catches.find(caught => caught.by === 'vertex')
  return {
    ...(point?.by === 'vertex' ? { source: source.clone().add(offset), target: point.target.point } : {}),
    faces: catches.flatMap(caught => (caught.by === 'abut' ? [caught.abutment.corners] : [])),
  }
}
