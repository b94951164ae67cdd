import { Vector3 } from 'three'
import type { View } from '~/stage/view'
import type { StageUse } from '../keys/stage-uses'
import type { Gesture, PointerAt } from './gesture'
import type { ToolWorld } from './tool-world'

/**
 * A gesture that steers the view by the pointer's way, in pixels since the last move. Nothing of it has to be taken
 * back.
 */
export function steer(from: PointerAt, turn: (dx: number, dy: number) => void): Gesture {
  let last = from
  return {
    move: pointer => {
      turn(pointer.x - last.x, pointer.y - last.y)
      last = pointer
    },
    end: () => {},
    cancel: () => {},
  }
}

/** The point of the level under the pointer; where there is none, a point as far away as what is looked at. */
export function pointUnder(world: ToolWorld, view: View, pointer: PointerAt): Vector3 {
  const ray = view.rayAt(pointer)
  const hit = world.index().raycast(ray)
  if (hit) return hit.point
  const depth = view.target.clone().sub(ray.origin).dot(view.directions().forward)
  return ray.at(Math.max(depth, 0.1) / Math.max(ray.direction.dot(view.directions().forward), 0.05), new Vector3())
}

/**
 * What to orbit around: what the camera looked through aims at, the middle of what is picked, else what is under the
 * pointer.
 */
export function orbitCentre(world: ToolWorld, view: View, pointer: PointerAt): Vector3 {
  if (view.around) return view.around.clone()
  const { ids } = world.selection()
  const level = world.level()
  const box = world.index().extents.boundsOf([...ids].flatMap(id => level.subtree(id)))
  return box.isEmpty() ? pointUnder(world, view, pointer) : box.getCenter(new Vector3())
}

/** Zooms towards what is under the pointer. @param delta of the wheel, in pixels; positive goes away */
export function zoomByWheel(world: ToolWorld, view: View, pointer: PointerAt, delta: number): void {
  view.zoom(view.around ?? pointUnder(world, view, pointer), Math.min(Math.max(Math.exp(delta * 0.0015), 0.5), 2))
}

/** Where keys fly to, along right, up and forward. */
const FLY_WAYS: Partial<Record<StageUse, [number, number, number]>> = {
  flyForward: [0, 0, 1],
  flyBack: [0, 0, -1],
  flyLeft: [-1, 0, 0],
  flyRight: [1, 0, 0],
  flyUp: [0, 1, 0],
  flyDown: [0, -1, 0],
}
const SLOW = 0.2
export const SLOWEST = 0.1
export const FASTEST = 100

/** Looking around with the pointer and flying with the keys; the wheel changes the speed, Shift slows down. */
export function fly(world: ToolWorld, view: View, from: PointerAt): Gesture {
  const held = new Set<StageUse>()
  let last = from
  let slow = from.shift

  const steerKeys = () => {
    const way = new Vector3()
    for (const use of held) way.add(new Vector3(...FLY_WAYS[use]!))
    const speed = world.flySpeed() * (slow ? SLOW : 1)
    view.velocity = way.normalize().multiplyScalar(speed)
    world.stage.requestDraw()
    world.say(
      held.size === 0
        ? null
        : {
            at: last,
            title: 'Fly',
            value: `${speed.toFixed(speed < 1 ? 2 : 1)} m/s`,
            notes: ['the wheel changes the speed, {Fly slowly, while held} slows down'],
          },
    )
  }
  const stop = () => {
    view.velocity = null
    world.say(null)
  }

  return {
    move: pointer => {
      view.lookAround(pointer.x - last.x, pointer.y - last.y)
      last = pointer
    },
    end: stop,
    cancel: stop,
    key: ({ is, down }) => {
      const ways = (Object.keys(FLY_WAYS) as StageUse[]).filter(is)
      const isSlow = is('flySlowly')
      if (isSlow) slow = down
      for (const way of ways)
        if (down) held.add(way)
        else held.delete(way)
      if (ways.length === 0 && !isSlow) return false
      steerKeys()
      return true
    },
    wheel: delta => {
      world.setFlySpeed(Math.min(Math.max(world.flySpeed() * Math.exp(-delta * 0.002), SLOWEST), FASTEST))
      steerKeys()
      const speed = world.flySpeed()
      world.say({
        at: last,
        title: 'Fly',
        value: `${speed.toFixed(speed < 1 ? 2 : 1)} m/s`,
        notes: [
          '{Fly forward} {Fly to the left} {Fly back} {Fly to the right}, {Fly down} and {Fly up} fly while the right button is held',
        ],
      })
    },
  }
}
