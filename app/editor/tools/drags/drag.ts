import { Vector3 } from 'three'
import { v7 } from 'uuid'
import { copyOf } from '~~/core/scene/copy-id'
import { boxCorners } from '~~/core/scene/shown'
import { bentShapesOf } from '~~/core/edit/release'
import { duplicate } from '~~/core/edit/duplicate'
import { heldNoMore, keptToOthers, lettingGo } from '~~/core/relate/loose'
import type { Operation } from '~~/core/level/schema'
import { topmost } from '~~/core/level/tree'
import { counted } from '~~/core/units/plural'
import type { ScreenBox } from '~/stage/label-place'
import { lockOf } from '../../keys/stage-uses'
import type { Gesture, KeyPress, PointerAt } from '../gesture'
import type { Caught, ToolWorld } from '../tool-world'
import type { DragKind, Outcome } from './drag-kind'

/**
 * A drag from its press to its release. Until then only the stage and the ledger show it; the level is written once, at
 * the end. Lock keys and typed numbers work all the way.
 */
export function runDrag(world: ToolWorld, kind: DragKind, from: PointerAt, atOnce: 'drag' | 'type' = 'drag'): Gesture {
  const { stage } = world
  const level = world.level()
  const view = stage.viewAt(from)
  const start = { aim: view.aim(from), pointer: from }
  const ids = topmost(level, new Set([...world.selection().ids].filter(id => !level.isLocked(id))))
  const as = world.duplicateAs()
  const leaving =
    kind.leavesInstances && from.alt ? ids.filter(id => !copyOf(id) || bentShapesOf(level, id).length === 0) : []
  const { operations: left, tops: leftTops, made } = duplicate(level, leaving, as, v7)
  let lock = world.lock()
  let drag = kind.make(lock, start)
  let outcome: Outcome | null = null
  let latest = from
  let typing = false
  let cameraKey = false
  /** Chosen by its key; else as is set. */
  let keeps: boolean | null = null
  const isKept = ({ by }: Caught['by'][number]) => keeps ?? (by !== 'hug' && world.keepsAbutting())
  const kept = keptToOthers(
    level,
    ids.filter(id => !copyOf(id)),
  )
  const loose = lettingGo(level, kept)
  let isLoose = false
  /** How far the camera has been taken along: rays are read as if it had stayed. */
  const taken = new Vector3()
  /** The corners of the box around what is dragged, as it stands. */
  const corners = cornersAround(world, ids)
  stage.workIn(drag.plane ?? null)

  /** What is dragged, where it is now, and what it has snapped to. */
  const inSight = ({ shift, hints }: Outcome): ScreenBox[] => {
    const moved = shift ? corners.map(corner => corner.clone().add(shift)) : corners
    const points = [hints?.target, hints?.source].filter(point => point !== undefined)
    return [moved, ...points.map(point => [point])].flatMap(of => view.keptClear(of))
  }
  const show = (next: Outcome) => {
    outcome = next
    world.preview([...left, ...next.operations, ...(isLoose ? loose : [])])
    if (next.frame) stage.handles.place(next.frame)
    stage.handles.setWedge(next.wedge ?? null)
    stage.hint(next.hints ?? null)
    const { title, value, notes } = next
    world.say(
      typing
        ? null
        : {
            at: latest,
            title,
            value,
            notes: [
              ...notes,
              ...((next.caught?.length ?? 0) > 0
                ? [next.caught!.some(isKept) ? 'stays so' : '{Keep what the drag has caught} keeps it']
                : []),
              ...(isLoose ? [`lets go of ${counted(kept.length, 'link')}`] : world.sayKept()),
              ...(kept.length > 0 && !isLoose ? ['J lets go'] : []),
              ...(left.length > 0 ? [as === 'instance' ? 'leaves an instance' : 'leaves a copy'] : []),
              '{Type numbers instead} types numbers',
            ],
            avoid: inSight(next),
          },
    )
  }
  const update = () => {
    if (typing) return
    const aim = view.aim(latest)
    aim.ray.origin.sub(taken)
    const before = outcome?.shift
    show(drag.update(aim, latest))
    if (cameraKey && outcome?.shift) takeCamera(outcome.shift.clone().sub(before ?? new Vector3()))
  }
  const takeCamera = (way: Vector3) => {
    view.shiftBy(way)
    taken.add(way)
  }
  const finish = () => {
    // A lock lasts for one drag.
    world.setLock(null)
    world.ask(null)
    world.preview(null)
    world.say(null)
    stage.hint(null)
    stage.workIn(null)
    stage.handles.setWedge(null)
    stage.handles.light(null)
    stage.handles.place(world.frame())
    stage.requestOverlay()
  }
  const cancel = () => {
    kind.restore?.()
    finish()
  }
  const commit = () => {
    const operations = outcome?.operations ?? []
    const by = outcome?.caught?.filter(isKept) ?? []
    const joins = by.length > 0 ? v7() : undefined
    const label = labelOf(world, kind.verb, ids)
    finish()
    if (!changesSomething(level, operations)) return
    // Back where it is kept, it still is.
    const gone = isLoose ? lettingGo(level, heldNoMore(level, world.index(), kept, operations)) : []
    if (!world.change(label, [...left, ...operations, ...gone], joins, { made: [made] })) return
    if (joins !== undefined) world.keep({ ids, by, joins })
    // What was dragged is one step on from what it left behind, and goes on from there.
    if (leaving.length > 0) world.duplicated({ from: leftTops, to: leaving })
  }
  const startTyping = () => {
    typing = true
    const values = drag.values()
    world.say(null)
    world.ask({
      at: latest,
      avoid: outcome ? inSight(outcome) : [],
      title: outcome?.title ?? drag.type(values).title,
      fields: drag.fields.map((field, i) => ({ ...field, value: values[i]! })),
      change: typed => show(drag.type(typed)),
      commit: () => {
        world.gestureDone()
        commit()
      },
      cancel: () => {
        world.gestureDone()
        cancel()
      },
    })
  }
  if (atOnce === 'type') startTyping()

  return {
    move: pointer => {
      latest = pointer
      update()
    },
    end: () => commit(),
    cancel,
    goesOn: () => typing,
    key: (press: KeyPress) => {
      if (press.is('takeCamera')) {
        cameraKey = press.down
        return true
      }
      // Meanwhile what is dragged is not held by what it is kept to; put elsewhere with it, it is not kept any more.
      if (press.is('loose') && kept.length > 0 && !typing) {
        if (isLoose !== press.down) {
          isLoose = press.down
          update()
        }
        return true
      }
      if (!press.down || typing) return false
      if (press.is('type')) {
        startTyping()
        return true
      }
      if (press.is('keep')) {
        keeps = !outcome?.caught?.some(isKept)
        update()
        return true
      }
      const wanted = lockOf(press.is, world.axes())
      if (!wanted) return false
      lock = wanted.kind === 'view' ? null : wanted
      world.setLock(lock)
      drag = kind.make(lock, start)
      stage.workIn(drag.plane ?? null)
      update()
      return true
    },
  }
}

function cornersAround(world: ToolWorld, ids: readonly string[]): Vector3[] {
  const box = world.index().extents.boundsOf(ids.flatMap(id => world.level().subtree(id)))
  return box.isEmpty() ? [] : boxCorners(box)
}

/** Whether operations would leave any of the numbers they put other than it is. */
function changesSomething(level: ReturnType<ToolWorld['level']>, operations: readonly Operation[]): boolean {
  return operations.some(operation => {
    if (operation.do !== 'put') return true
    const now = level.get(operation.id)
    return (
      !now
      || Object.entries(operation.fields).some(
        ([key, value]) => JSON.stringify(now[key as keyof typeof now]) !== JSON.stringify(value),
      )
    )
  })
}

function labelOf(world: ToolWorld, verb: string, ids: readonly string[]): string {
  return ids.length === 1 ? `${verb} ${world.level().need(ids[0]!).name}` : `${verb} ${ids.length} things`
}
