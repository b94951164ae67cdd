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

/** How far above the copies their grips float, in metres. */
const ABOVE = 0.2

/** The grips of an arrangement's rule in the world. Those of a path lie on it; the others float above the copies, clear of the handles. */
export function gripsInWorld(world: Pick<ToolWorld, 'document' | 'index'>, id: string, rule: Rule): RuleGrip[] {
  const matrix = world.document().worldMatrix(id)
  const lift = liftOf(world, id, rule)
  return gripsOf(rule).map(grip => ({ ...grip, at: grip.at.add(lift).applyMatrix4(matrix) }))
}

function liftOf({ document, index }: Pick<ToolWorld, 'document' | 'index'>, id: string, rule: Rule): Vector3 {
  if (rule.rule === 'path') return new Vector3()
  const toOwn = document().worldMatrix(id).clone().invert()
  const tops = document().children(id).map(source => index().boxIn(source, toOwn)).filter(box => !box.isEmpty()).map(box => box.max.y)
  return new Vector3(0, Math.max(0, ...tops) + ABOVE, 0)
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
  const lift = liftOf(world, id, rule)
  const axes = new Quaternion().setFromRotationMatrix(document.worldMatrix(id))
  let latest = rule
  const put = (point: Vector3): Operation[] => {
    const dragged = dragGrip(rule, index, point.clone().applyMatrix4(toOwn).sub(lift))
    // A rule that would be too much, such as two million copies, stays as it was last.
    if (!ruleSchema.safeParse(dragged.rule).success) return []
    latest = dragged.rule
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
  const kind = pointDrag(world, { origin: grip.at, axes, box: null }, flat ? { kind: 'plane', axis: 1 } : { kind: 'view' }, 'Change', put, { land, follows: false, ...rule.rule === 'path' ? {} : { print: () => aboutRule(latest, world) } })
  return { ...kind, restore: () => world.stage.handles.setGrips(gripsInWorld(world, id, rule)) }
}

/** The numbers that a grip changes, in words. */
function aboutRule(rule: Rule, { printLength }: ToolWorld): string {
  switch (rule.rule) {
    case 'line': return `${rule.measure === 'spacing' ? 'spacing' : 'span'} ${printLength(Math.hypot(...rule.along))}`
    case 'ring': return `radius ${printLength(rule.radius)}  start ${rule.start.toFixed(1)}°  arc ${rule.arc.toFixed(1)}°`
    case 'fan': return `radius ${printLength(rule.radius)}  depth ${printLength(rule.depth)}  arc ${rule.arc.toFixed(1)}°`
    case 'grid': return `${rule.measure} ${rule.spacing.map(value => printLength(value)).join(' × ')}`
    default: return ''
  }
}
