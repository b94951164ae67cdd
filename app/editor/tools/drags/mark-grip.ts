import { Quaternion, Vector3 } from 'three'
import { aimOf, placeOf, turnTo } from '~~/core/edit/aim'
import type { MarkGrip } from '~~/core/edit/mark-grips'
import { dragMark, gripsOfMark } from '~~/core/edit/mark-grips'
import type { Aim } from '~~/core/edit/snap/aim'
import { findLanding } from '~~/core/edit/snap/landing'
import { isLight, isMarker } from '~~/core/level/kinds'
import type { Operation, Placement } from '~~/core/level/schema'
import type { LevelView } from '~~/core/scene/level-view'
import { endAt } from '~~/core/measure/definition'
import type { ToolWorld } from '../tool-world'
import type { DragKind } from './drag-kind'
import { pointDrag } from './pivot'

/** The grips of a camera, a light or a marker in the world. @param own its own fields at present */
export function markGripsInWorld(
  level: LevelView,
  id: string,
  own: Placement['own'] = level.need(id).own,
): (MarkGrip & { at: Vector3 })[] {
  const matrix = level.worldMatrix(id)
  const pointed = aimOf(own) ?? (isMarker(own) && own.marker === 'note' ? own.arrow : null)
  const aim = pointed && placeOf(level, pointed).applyMatrix4(matrix.clone().invert())
  return gripsOfMark(own, aim).map(grip => ({ ...grip, at: grip.at.clone().applyMatrix4(matrix) }))
}

/**
 * Dragging a grip of a camera, a light or a marker: where it aims, how far and how wide it shines, where a walking line
 * goes.
 */
export function markGripDrag(world: ToolWorld, id: string, index: number): DragKind | null {
  const level = world.level()
  const { own, parentId, scale } = level.need(id)
  const grip = markGripsInWorld(level, id)[index]
  if (!grip) return null
  const matrix = level.worldMatrix(id)
  const toOwn = matrix.clone().invert()
  const eye = new Vector3().setFromMatrixPosition(matrix)
  const axes = new Quaternion().setFromRotationMatrix(matrix)
  let landed: string | null = null
  let latest = own
  const put = (point: Vector3): Operation[] => {
    const next = dragMark(own, grip, point.clone().applyMatrix4(toOwn), endAt(level, landed, point))
    if (next === null) {
      const rotation = turnTo(
        eye,
        point,
        parentId === null ? matrix.clone().identity() : level.worldMatrix(parentId),
        scale,
      )
      return rotation ? [{ do: 'put', id, fields: { rotation } }] : []
    }
    latest = next
    if (grip.name !== 'aim') world.stage.handles.setGrips(markGripsInWorld(level, id, next))
    return [{ do: 'put', id, fields: { own: next } }]
  }
  const land = !grip.onSurface
    ? undefined
    : (aim: Aim, ctrl: boolean) => {
        const landing = findLanding(world.finder(), aim.ray, grip.name === 'point' ? world.step('grid', ctrl).size : 0)
        landed = landing?.surfaceId ?? null
        return landing && new Vector3(...landing.point)
      }
  const constraint = grip.onSurface
    ? { kind: 'view' as const }
    : grip.name === 'range'
      ? { kind: 'axis' as const, axis: isLight(own) && own.light === 'point' ? (0 as const) : (2 as const) }
      : { kind: 'axis' as const, axis: grip.name === 'height' ? (1 as const) : (0 as const) }
  const print = (point: Vector3) =>
    textOf(grip, latest, world.printLength)
    ?? world
      .axes()
      .numbers(point.toArray())
      .map(value => world.printLength(value))
      .join('  ')
  const kind = pointDrag(world, { origin: grip.at, axes, box: null }, constraint, VERBS[grip.name], put, {
    land,
    follows: false,
    print,
  })
  return { ...kind, restore: () => world.stage.handles.setGrips(markGripsInWorld(level, id)) }
}

const VERBS: Record<MarkGrip['name'], string> = {
  aim: 'Aim',
  range: 'Set the range of',
  cone: 'Set the cone of',
  width: 'Set the width of',
  height: 'Set the height of',
  point: 'Move a point of',
  arrow: 'Point',
}

function textOf({ name }: MarkGrip, own: Placement['own'], length: (metres: number) => string): string | null {
  if (!isLight(own)) return null
  if (name === 'cone') return `${own.outerCone}° to each side`
  if (name === 'range') return `reaches ${length(own.range)}`
  return name === 'width' || name === 'height' ? `${length(own.width)} by ${length(own.height)}` : null
}
