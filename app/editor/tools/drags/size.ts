import { Vector3 } from 'three'
import { localAxes } from '~~/core/edit/handles/axes'
import type { HandleFrame } from '~~/core/edit/handles/handle'
import type { Constraint } from '~~/core/edit/handles/lock'
import { freeAxes } from '~~/core/edit/handles/lock'
import type { SizeBox, SizeGrip } from '~~/core/edit/handles/size'
import { gripAxes, gripFactors, gripPoint, SizeDrag, sizeBoxOf, sizePlacements } from '~~/core/edit/handles/size'
import { snapValue } from '~~/core/edit/snap/grid'
import { tidy } from '~~/core/units/quantity'
import type { ToolWorld } from '../tool-world'
import type { DragKind } from './drag-kind'
import { skewNote } from './turn'

/** Sizing what is picked by a grip of its box: the side across stays where it is, with Shift the pivot does. */
export function sizeDrag(world: ToolWorld, frame: HandleFrame, handle: SizeGrip): DragKind {
  const level = world.level()
  const { ids, last } = world.selection()
  const sizable = [...ids].filter(id => !level.isLocked(id))
  const box = frame.box!
  return {
    verb: 'Size',
    leavesInstances: true,
    make: (lock, { aim }) => {
      const grip = gripFor(lock, handle)
      const { stage } = world
      const opposite = gripPoint(box, grip.map(side => -side) as unknown as SizeGrip)
      const around = world.around()
      const pivot = around ? new Vector3(...around) : frame.origin
      const dragFrom = (anchor: Vector3) => new SizeDrag(aim.ray, box, grip, stage.view.directions(), anchor)
      const drags = { across: dragFrom(opposite), pivot: dragFrom(pivot) }
      const began = level.need(last!).scale[gripAxes(grip)[0]!]!
      let factor = 1
      let aroundPivot = false
      const outcome = (next: number, notes: string[]) => {
        factor = next
        // Each around its own pivot has no side across that all could keep.
        const anchor = aroundPivot ? (around ? pivot : null) : opposite
        const { operations, inexact } = sizePlacements(level, sizable, gripFactors(grip, factor), box.axes, anchor)
        const letters = world.axes().letters(gripAxes(grip)).join('')
        return {
          operations,
          title: `Size ${letters === 'XYZ' ? 'as a whole' : `along ${letters}`}`,
          value: `${tidy(factor * 100).toFixed(1)} %${sizeText(world, box, grip, factor)}`,
          notes: [
            ...notes,
            aroundPivot ? 'around the pivot' : 'the other side stays (Shift: around the pivot)',
            ...(inexact.length > 0 ? ['turned things grow along their own axes'] : []),
            ...skewNote(world, sizable),
          ],
          frame: frameAfter(frame, box, grip, factor, aroundPivot ? pivot : opposite),
        }
      }
      return {
        update: ({ ray }, { ctrl, shift }) => {
          aroundPivot = shift
          const raw = (shift ? drags.pivot : drags.across).update(ray)
          const step = world.step('size', ctrl)
          const snapped =
            step.size === 0 ? raw : step.lattice ? snapValue(began, began * raw, step) / began : snapValue(1, raw, step)
          return outcome(Math.max(tidy(snapped), 0.001), [
            step.size > 0 ? `in steps of ${tidy(step.size * 100)} %` : 'without steps',
          ])
        },
        fields: [
          { label: 'Factor', quantity: 'factor' },
          ...(gripAxes(grip).length === 1 ? [{ label: 'Metres', quantity: 'length' as const }] : []),
        ],
        values: () => [factor, ...(gripAxes(grip).length === 1 ? [extent(box, grip) * factor] : [])],
        type: ([typed, metres]) => {
          // Whichever of the two was changed counts.
          const byMetres = metres !== undefined && Math.abs(metres - extent(box, grip) * factor) > 1e-9
          return outcome(byMetres ? metres / extent(box, grip) : typed || 1, ['as typed'])
        },
      }
    },
  }
}

/** The box Size handles stand on: one thing's along its own axes; around several, along the axes in force. */
export function sizeBoxFor(
  world: Pick<ToolWorld, 'level' | 'index'>,
  ids: readonly string[],
  axes: HandleFrame['axes'],
): SizeBox | null {
  const level = world.level()
  const below = ids.flatMap(id => level.subtree(id))
  return sizeBoxOf(ids.length === 1 ? localAxes(level, ids[0]!) : axes, world.index().extents.cornersOf(below))
}

function gripFor(lock: Constraint | null, handle: SizeGrip): SizeGrip {
  if (!lock || lock.kind === 'view') return handle
  const free = freeAxes(lock)
  return ([0, 1, 2] as const).map(axis => (free.includes(axis) ? handle[axis] || 1 : 0)) as unknown as SizeGrip
}

function extent({ box }: SizeBox, grip: SizeGrip): number {
  const axis = gripAxes(grip)[0]!
  return box.max.getComponent(axis) - box.min.getComponent(axis)
}

function sizeText(world: ToolWorld, box: SizeBox, grip: SizeGrip, factor: number): string {
  return gripAxes(grip).length === 1 ? `  ${world.printLength(extent(box, grip) * factor)}` : ''
}

/** The box goes along with what is sized, and so does the pivot in it. */
function frameAfter(
  frame: HandleFrame,
  { axes, box }: SizeBox,
  grip: SizeGrip,
  factor: number,
  anchor: Vector3,
): HandleFrame {
  const inverse = axes.clone().invert()
  const still = anchor.clone().applyQuaternion(inverse)
  const factors = new Vector3(...gripFactors(grip, factor))
  const grow = (point: Vector3) => point.clone().sub(still).multiply(factors).add(still)
  const grown = box.clone()
  grown.min.copy(grow(box.min))
  grown.max.copy(grow(box.max))
  return {
    ...frame,
    box: { axes, box: grown },
    origin: grow(frame.origin.clone().applyQuaternion(inverse)).applyQuaternion(axes),
  }
}
