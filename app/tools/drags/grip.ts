import { Quaternion, Vector3 } from 'three'
import { isArrangement } from '~~/core/arrange/arrangement'
import type { RuleGrip } from '~~/core/arrange/grips'
import { dragGrip, gripsOf } from '~~/core/arrange/grips'
import type { Rule } from '~~/core/arrange/rule'
import { ruleSchema } from '~~/core/arrange/rule'
import type { Operation } from '~~/core/level/schema'
import type { Aim } from '~~/core/snap/aim'
import { findLanding } from '~~/core/snap/landing'
import type { ToolWorld } from '../gesture'
import type { DragKind } from './drag'
import { pointDrag } from './pivot'

/** The grips of an arrangement's rule in the world. */
export function gripsInWorld(world: Pick<ToolWorld, 'document'>, id: string, rule: Rule): RuleGrip[] {
  const matrix = world.document().worldMatrix(id)
  return gripsOf(rule).map(grip => ({ ...grip, at: grip.at.applyMatrix4(matrix) }))
}

/**
 * Dragging a grip of an arrangement: the rule's numbers follow, shown live. Points of a path keep to the surface under the pointer;
 * all others move level with the arrangement unless a lock says otherwise.
 */
export function gripDrag(world: ToolWorld, id: string, index: number): DragKind | null {
  const document = world.document()
  const { own, translation, rotation } = document.need(id)
  if (!isArrangement(own)) return null
  const { rule } = own
  const grip = gripsInWorld(world, id, rule)[index]
  if (!grip) return null
  const toOwn = document.worldMatrix(id).clone().invert()
  const axes = new Quaternion().setFromRotationMatrix(document.worldMatrix(id))
  const put = (point: Vector3): Operation[] => {
    const dragged = dragGrip(rule, index, point.clone().applyMatrix4(toOwn))
    // A rule that would be too much, such as two million copies, stays as it was last.
    if (!ruleSchema.safeParse(dragged.rule).success) return []
    const shift = new Vector3(...dragged.shift ?? [0, 0, 0]).applyQuaternion(new Quaternion(...rotation))
    const moved = dragged.shift ? { translation: shift.add(new Vector3(...translation)).toArray() } : {}
    if (!dragged.shift) world.stage.handles.setGrips(gripsInWorld(world, id, dragged.rule))
    return [{ do: 'put', id, fields: { own: { ...own, rule: dragged.rule }, ...moved } }]
  }
  const down = world.stage.view.directions().forward.y
  const flat = rule.rule !== 'path' && Math.abs(down) > 0.1
  const moving = new Set(document.subtree(id))
  const land = rule.rule !== 'path' ? undefined : (aim: Aim, ctrl: boolean) => {
    const landing = findLanding(world.index(), aim.ray, world.step('grid', ctrl).size, other => !moving.has(other))
    return landing && new Vector3(...landing.point)
  }
  const kind = pointDrag(world, { origin: grip.at, axes, box: null }, flat ? { kind: 'plane', axis: 1 } : { kind: 'view' }, 'Change', put, land, false)
  return { ...kind, restore: () => world.stage.handles.setGrips(gripsInWorld(world, id, rule)) }
}
