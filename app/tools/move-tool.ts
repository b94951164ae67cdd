import { Matrix4, Vector3 } from 'three'
import type { MoveConstraint } from '~~/core/handles/move'
import { MoveDrag, movePlacements, topmost } from '~~/core/handles/move'
import type { LevelDocument } from '~~/core/level/document'
import type { Vec3 } from '~~/core/level/schema'
import type { Selection } from '../stage/stage'
import type { Gesture, PointerAt, ToolWorld } from './gesture'

const LETTERS = ['X', 'Y', 'Z'] as const

/** Where the handles of a selection stand: at the pivot of the last picked; null if nothing is picked or it is locked. */
export function handlesOrigin(document: LevelDocument, { last }: Selection): Vector3 | null {
  if (last === null || !document.has(last) || document.isLocked(last)) return null
  return new Vector3(...document.need(last).translation).applyMatrix4(document.parentMatrix(last))
}

/** The drag of a Move handle. Until the release only the stage shows it; the document is written once, at the end. */
export function dragMove(world: ToolWorld, handle: MoveConstraint, from: PointerAt): Gesture {
  const { stage } = world
  const document = world.document()
  const origin = handlesOrigin(document, world.selection())!
  const view = stage.viewAt(from)
  const drag = new MoveDrag(view.rayAt(from), origin, handle, view.directions())
  const ids = topmost(document, new Set([...world.selection().ids].filter(id => !document.isLocked(id))))
  const before = new Map(ids.flatMap(id => document.subtree(id)).map(id => [id, document.worldMatrix(id).clone()]))
  let offset: Vec3 = [0, 0, 0]
  stage.handles.light(handle, true)

  const finish = () => {
    stage.preview(new Map())
    stage.handles.light(null)
    stage.handles.place(handlesOrigin(document, world.selection()))
    world.say(null)
  }

  return {
    move: (pointer) => {
      const step = world.gridStep(pointer.ctrl)
      offset = drag.update(view.rayAt(pointer), step)
      const shift = new Matrix4().makeTranslation(...offset)
      stage.preview(new Map([...before].map(([id, matrix]) => [id, matrix.clone().premultiply(shift)])))
      stage.handles.place(origin.clone().add(new Vector3(...offset)))
      world.say({
        at: pointer,
        title: titleOf(handle),
        value: valueOf(handle, offset, world),
        notes: [step > 0 ? `on the grid of ${world.printLength(step)}` : 'off the grid'],
      })
    },
    end: () => {
      finish()
      if (offset.some(way => way !== 0)) world.change(labelOf(document, ids), movePlacements(document, ids, offset))
    },
    cancel: finish,
  }
}

function labelOf(document: LevelDocument, ids: string[]): string {
  return ids.length === 1 ? `Move ${document.need(ids[0]!).name}`.slice(0, 200) : `Move ${ids.length} things`
}

function freeAxes(handle: MoveConstraint): number[] {
  if (handle.kind === 'axis') return [handle.axis]
  return [0, 1, 2].filter(axis => handle.kind === 'view' || axis !== handle.axis)
}

function titleOf(handle: MoveConstraint): string {
  if (handle.kind === 'view') return 'Move across the view'
  const letters = freeAxes(handle).map(axis => LETTERS[axis]).join('')
  return handle.kind === 'axis' ? `Move along ${letters}` : `Move in ${letters}`
}

function valueOf(handle: MoveConstraint, offset: Vec3, world: ToolWorld): string {
  const axes = freeAxes(handle)
  if (axes.length === 1) return world.printLength(offset[axes[0]!]!, true)
  return axes.map(axis => `${LETTERS[axis]} ${world.printLength(offset[axis]!, true)}`).join('  ')
}
