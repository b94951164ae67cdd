import { Vector3 } from 'three'
import { v7 } from 'uuid'
import { copyOf } from '~~/core/arrange/copy'
import { bentShapesOf } from '~~/core/arrange/release'
import type { HandleFrame } from '~~/core/handles/handle'
import type { Constraint } from '~~/core/handles/lock'
import { constraintForKey } from '~~/core/handles/lock'
import { duplicate } from '~~/core/level/duplicate'
import type { Operation } from '~~/core/level/schema'
import { topmost } from '~~/core/level/tree'
import type { Aim } from '~~/core/snap/aim'
import type { Quantity } from '~~/core/units/quantity'
import type { GridPlane } from '../../stage/surroundings'
import type { Hints } from '../../stage/snap-hints'
import type { Wedge } from '../../stage/handles/turn-handles'
import type { Gesture, KeyPress, PointerAt, ToolWorld } from '../gesture'

/** What a drag has come to. */
export type Outcome = {
  operations: Operation[]
  title: string
  value: string
  notes: string[]
  /** Where the handles go along. */
  frame?: HandleFrame
  hints?: Hints
  wedge?: Wedge
  /** How far the things have moved, for taking the camera along. */
  shift?: Vector3
}

export type DragField = { label: string, quantity: Quantity, axis?: number }

/** One way of changing things by pointer or by numbers, from a press on; made anew when a lock changes. */
export type Drag = {
  update: (aim: Aim, pointer: PointerAt) => Outcome
  /** What can be typed instead. */
  fields: DragField[]
  /** The numbers as they stand. */
  values: () => number[]
  type: (values: number[]) => Outcome
  /** The plane the grid is drawn in meanwhile. */
  plane?: GridPlane
}

export type DragKind = {
  /** "Move", "Turn", "Size": the beginning of the change's label. */
  verb: string
  /** Whether holding Alt at the press leaves an instance behind. */
  leavesInstances: boolean
  /** Takes back what the drag did besides operations, when it is cancelled. */
  restore?: () => void
  make: (lock: Constraint | null, from: { aim: Aim, pointer: PointerAt }) => Drag
}

/** Held, it takes the camera along. */
const CAMERA_KEY = 'KeyV'

/**
 * A drag from its press to its release. Until then only the stage and the ledger show it; the document is written once, at the
 * end. Lock keys and typed numbers work all the way.
 */
export function runDrag(world: ToolWorld, kind: DragKind, from: PointerAt, atOnce: 'drag' | 'type' = 'drag'): Gesture {
  const { stage } = world
  const document = world.document()
  const view = stage.viewAt(from)
  const start = { aim: view.aim(from), pointer: from }
  const ids = topmost(document, new Set([...world.selection().ids].filter(id => !document.isLocked(id))))
  const as = world.duplicateAs()
  const left = kind.leavesInstances && from.alt ? duplicate(document, ids.filter(id => !copyOf(id) || bentShapesOf(document, id).length === 0), as, v7).operations : []
  let lock = world.lock()
  let drag = kind.make(lock, start)
  let outcome: Outcome | null = null
  let latest = from
  let typing = false
  let cameraKey = false
  /** How far the camera has been taken along: rays are read as if it had stayed. */
  const taken = new Vector3()
  stage.workIn(drag.plane ?? null)

  const show = (next: Outcome) => {
    outcome = next
    world.preview([...left, ...next.operations])
    if (next.frame) stage.handles.place(next.frame)
    stage.handles.setWedge(next.wedge ?? null)
    stage.hint(next.hints ?? null)
    const { title, value, notes } = next
    world.say(typing ? null : { at: latest, title, value, notes: [...notes, ...left.length > 0 ? [as === 'instance' ? 'leaves an instance' : 'leaves a copy'] : [], '= types numbers'] })
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
    stage.requestDraw()
  }
  const cancel = () => {
    kind.restore?.()
    finish()
  }
  const commit = () => {
    const operations = outcome?.operations ?? []
    finish()
    if (changesSomething(document, operations)) world.change(labelOf(world, kind.verb, ids), [...left, ...operations])
  }
  const startTyping = () => {
    typing = true
    const values = drag.values()
    world.say(null)
    world.ask({
      at: latest,
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
    move: (pointer) => {
      latest = pointer
      update()
    },
    end: () => commit(),
    cancel,
    goesOn: () => typing,
    key: (press: KeyPress) => {
      if (press.code === CAMERA_KEY) {
        cameraKey = press.down
        return true
      }
      if (!press.down || typing) return false
      if (press.key === '=') {
        startTyping()
        return true
      }
      const wanted = constraintForKey(press.code, press.shift)
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

/** Whether operations would leave any of the numbers they put other than it is. */
function changesSomething(document: ReturnType<ToolWorld['document']>, operations: readonly Operation[]): boolean {
  return operations.some((operation) => {
    if (operation.do !== 'put') return true
    const now = document.get(operation.id)
    return !now || Object.entries(operation.fields).some(([key, value]) => JSON.stringify(now[key as keyof typeof now]) !== JSON.stringify(value))
  })
}

function labelOf(world: ToolWorld, verb: string, ids: readonly string[]): string {
  return (ids.length === 1 ? `${verb} ${world.document().need(ids[0]!).name}` : `${verb} ${ids.length} things`).slice(0, 200)
}
