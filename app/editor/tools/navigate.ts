import { Vector3 } from 'three'
import type { View } from '~/stage/view'
import type { StageUse } from '../keys/stage-uses'
import type { ViewGesture } from '../pointing/pointing'
import { Pace } from './coasting'
import type { Gesture, PointerAt } from './gesture'
import type { ToolWorld } from './tool-world'

/**
 * A gesture that steers the view by the pointer's way, in pixels since the last move, and lets it go on after that.
 * Nothing of it has to be taken back.
 */
function steer(world: ToolWorld, from: PointerAt, turn: (dx: number, dy: number) => void): Gesture {
  let last = from
  const pace = new Pace()
  return {
    move: pointer => {
      const [dx, dy] = [pointer.x - last.x, pointer.y - last.y]
      turn(dx, dy)
      pace.add(dx, dy, performance.now())
      last = pointer
    },
    end: () => world.coasting.begin(pace.now(performance.now()), world.coasts(), turn),
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

/** How the wheel was turned, or two fingers went over a trackpad, in pixels; a pinch says so. */
export type WheelTurn = { dx: number; dy: number; isPinch: boolean }

/** Of the zoom for each pixel: of the wheel, of a pinch, of a drag. */
const [BY_WHEEL, BY_PINCH, BY_DRAG] = [0.0015, 0.008, 0.006]

/** What is zoomed to: what is looked at, if the view keeps to that, else as it is chosen. */
function zoomPoint(world: ToolWorld, view: View, pointer: PointerAt): Vector3 {
  if (view.around) return view.around.clone()
  const { x, y, width, height } = view.rect
  const middle = { ...pointer, x: x + width / 2, y: y + height / 2 }
  return pointUnder(world, view, world.pointing().zoomAt === 'middle' ? middle : pointer)
}

/** Goes nearer or away by as much as so many pixels mean; below 0 is nearer. */
const zoomBy = (world: ToolWorld, view: View, at: Vector3, pixels: number, each: number): void =>
  view.zoom(at, Math.min(Math.max(Math.exp(pixels * each * world.pointing().zoomSpeed), 0.5), 2))

/** Zooms or pans by the wheel, as the pointing device of whoever turns it is set. */
export function steerByWheel(world: ToolWorld, view: View, pointer: PointerAt, { dx, dy, isPinch }: WheelTurn): void {
  const { wheel, wheelTurned } = world.pointing()
  const sign = wheelTurned ? -1 : 1
  if (isPinch) zoomBy(world, view, zoomPoint(world, view, pointer), dy, BY_PINCH)
  else if (wheel === 'pan') view.pan(-dx * sign, -dy * sign, pointUnder(world, view, pointer))
  else zoomBy(world, view, zoomPoint(world, view, pointer), (dy || dx) * sign, BY_WHEEL)
}

/** The gesture by which the view is steered from here. */
export function steering(world: ToolWorld, gesture: ViewGesture, pointer: PointerAt): Gesture {
  const view = world.stage.viewAt(pointer)
  switch (gesture) {
    case 'pan': {
      const at = pointUnder(world, view, pointer)
      return steer(world, pointer, (dx, dy) => view.pan(dx, dy, at))
    }
    case 'orbit': {
      const centre = orbitCentre(world, view, pointer)
      const { orbitSpeed } = world.pointing()
      return steer(world, pointer, (dx, dy) => view.orbit(dx * orbitSpeed, dy * orbitSpeed, centre))
    }
    case 'zoom': {
      const at = zoomPoint(world, view, pointer)
      return steer(world, pointer, (_dx, dy) => zoomBy(world, view, at, dy, BY_DRAG))
    }
    case 'fly':
      return fly(world, view, pointer)
  }
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
      const { orbitSpeed, lookTurned } = world.pointing()
      const [dx, dy] = [(pointer.x - last.x) * orbitSpeed, (pointer.y - last.y) * orbitSpeed]
      view.lookAround(dx, lookTurned ? -dy : dy)
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
