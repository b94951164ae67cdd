import type { Gesture, PointerAt, ToolWorld } from './gesture'

/** How far a press may wander, in pixels, and still be a click. */
export const CLICK_SLACK = 4

/** The thing under the pointer that can be picked. */
export function thingAt(world: ToolWorld, pointer: PointerAt): string | null {
  const document = world.document()
  return world.index().raycast(world.stage.view.rayAt(pointer), id => !document.isLocked(id))?.id ?? null
}

/** A click picks; with Shift it adds, with Ctrl it toggles; on nothing it lets everything go. */
export function clickPick(world: ToolWorld, from: PointerAt): Gesture {
  return {
    move: () => {},
    end: (pointer) => {
      if (Math.hypot(pointer.x - from.x, pointer.y - from.y) > CLICK_SLACK) return
      const id = thingAt(world, pointer)
      if (id === null) {
        if (!pointer.shift && !pointer.ctrl) world.pick([])
      }
      else if (pointer.ctrl) world.togglePick(id)
      else if (pointer.shift) world.pick([...[...world.selection().ids].filter(other => other !== id), id])
      else world.pick([id])
    },
    cancel: () => {},
  }
}
