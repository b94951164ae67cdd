import { Quaternion, Vector3 } from 'three'
import { isArrangement } from '~~/core/arrange/arrangement'
import type { RuleGrip } from '~~/core/arrange/definition'
import type { Rule } from '~~/core/arrange/rules'
import { definitionOf, ruleSchema } from '~~/core/arrange/rules'
import { settledAreas } from '~~/core/arrange/scatter/anchor'
import type { Operation } from '~~/core/level/schema'
import { surfacesOf } from '~~/core/scene/scatter-site'
import type { Aim } from '~~/core/edit/snap/aim'
import { findLanding } from '~~/core/edit/snap/landing'
import type { ToolWorld } from '../tool-world'
import type { DragKind } from './drag-kind'
import { pointDrag } from './pivot'

/** How far above the copies their grips float, in metres. */
const ABOVE = 0.2

/**
 * The grips of an arrangement's rule in the world. Those that are points on surfaces lie there; the others float above
 * the copies, clear of the handles.
 */
export function gripsInWorld(world: Pick<ToolWorld, 'level' | 'index'>, id: string, rule: Rule): RuleGrip[] {
  const matrix = world.level().worldMatrix(id)
  const now = ruleNow(world, id, rule)
  const lift = liftOf(world, id, rule)
  return definitionOf(now)
    .grips(now)
    .map(grip => ({ ...grip, at: grip.at.add(lift).applyMatrix4(matrix) }))
}

/** A rule with what was drawn on surfaces where those are now. */
function ruleNow({ level }: Pick<ToolWorld, 'level'>, id: string, rule: Rule): Rule {
  if (rule.type !== 'scatter' || !rule.areas.some(({ lies }) => lies)) return rule
  return settledAreas(rule, { surfaces: surfacesOf(level(), id, rule), toWorld: level().worldMatrix(id).toArray() })
}

function liftOf({ level, index }: Pick<ToolWorld, 'level' | 'index'>, id: string, rule: Rule): Vector3 {
  if (definitionOf(rule).gripsOnSurface) return new Vector3()
  const toOwn = level().worldMatrix(id).clone().invert()
  const tops = level()
    .children(id)
    .map(source => index().extents.boxIn(source, toOwn))
    .filter(box => !box.isEmpty())
    .map(box => box.max.y)
  return new Vector3(0, Math.max(0, ...tops) + ABOVE, 0)
}

/**
 * Dragging a grip of an arrangement: the rule's numbers follow, shown live. Those on surfaces keep to the one under the
 * pointer; all others move level with the arrangement unless a lock says otherwise.
 */
export function gripDrag(world: ToolWorld, id: string, index: number): DragKind | null {
  const level = world.level()
  const { own, translation, rotation } = level.need(id)
  if (!isArrangement(own)) return null
  const rule = ruleNow(world, id, own.rule)
  const definition = definitionOf(rule)
  const grip = gripsInWorld(world, id, rule)[index]
  if (!grip) return null
  const toOwn = level.worldMatrix(id).clone().invert()
  const lift = liftOf(world, id, rule)
  const axes = new Quaternion().setFromRotationMatrix(level.worldMatrix(id))
  let latest: Rule = rule
  const put = (point: Vector3): Operation[] => {
    const dragged = definition.drag(rule, index, point.clone().applyMatrix4(toOwn).sub(lift))
    // A rule that would be too much, such as two million copies, stays as it was last.
    if (!ruleSchema.safeParse(dragged.rule).success) return []
    latest = dragged.rule
    const shift = new Vector3(...(dragged.shift ?? [0, 0, 0])).applyQuaternion(new Quaternion(...rotation))
    const moved = dragged.shift ? { translation: shift.add(new Vector3(...translation)).toArray() } : {}
    if (!dragged.shift) world.stage.handles.setGrips(gripsInWorld(world, id, dragged.rule))
    return [{ do: 'put', id, fields: { own: { ...own, rule: dragged.rule }, ...moved } }]
  }
  const down = world.stage.view.directions().forward.y
  const flat = !definition.gripsOnSurface && Math.abs(down) > 0.1
  const moving = new Set(level.subtree(id))
  const land = !definition.gripsOnSurface
    ? undefined
    : (aim: Aim, ctrl: boolean) => {
        const landing = findLanding(world.finder(), aim.ray, world.step('grid', ctrl).size, other => !moving.has(other))
        return landing && new Vector3(...landing.point)
      }
  const kind = pointDrag(
    world,
    { origin: grip.at, axes, box: null },
    flat ? { kind: 'plane', axis: 1 } : { kind: 'view' },
    'Change',
    put,
    {
      land,
      follows: false,
      ...(definition.gripsOnSurface
        ? {}
        : { print: () => definition.gripText(latest, world.printLength, world.axes()) }),
    },
  )
  return { ...kind, restore: () => world.stage.handles.setGrips(gripsInWorld(world, id, rule)) }
}
