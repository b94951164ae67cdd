import type { Vector3 } from 'three'
import { findSnapPoint, SNAP_POINT_KINDS } from '~~/core/edit/snap/vertex'
import type { Gesture, PointerAt, StageMode } from './gesture'
import type { ToolWorld } from './tool-world'

/** What has been touched: a point of a thing's surface, or of the ground plane where there is none. */
export type Touched = { id: string | null, point: Vector3, normal: Vector3 | null }

/**
 * Asks for a thing or a point of the level by clicking on it. Near a corner or a middle of something the point is caught by it;
 * with Ctrl it is taken as it is.
 */
export class TouchTool implements StageMode {
  constructor(
    private readonly world: ToolWorld, readonly title: string, private readonly wants: 'thing' | 'point',
    /** @returns the title for the next one that is asked for, or null when done */
    private readonly onTouched: (touched: Touched) => boolean, private readonly onEnd: () => void,
  ) {
    world.stage.setHovered(null)
  }

  hover(pointer: PointerAt): void {
    const found = this.find(pointer)
    const { stage } = this.world
    stage.setHovered(this.wants === 'thing' ? found?.id ?? null : null)
    stage.hint(this.wants === 'point' && found ? { target: found.point } : null)
    this.world.say(found && {
      at: pointer,
      title: this.title,
      value: found.id === null ? 'the ground plane' : this.world.level().need(found.id).name,
      notes: this.wants === 'point' ? [found.point.toArray().map(value => this.world.printLength(value)).join('  ')] : [],
    })
  }

  press(pointer: PointerAt): Gesture | null {
    const found = this.find(pointer)
    if (found && (this.wants === 'point' || found.id !== null) && this.onTouched(found)) this.onEnd()
    return null
  }

  leave(): void {
    this.world.stage.setHovered(null)
    this.world.stage.hint(null)
    this.world.say(null)
  }

  stop(): void {
    this.leave()
  }

  private find(pointer: PointerAt): Touched | null {
    const { world } = this
    const aim = world.stage.viewAt(pointer).aim(pointer)
    const caught = this.wants === 'point' && !pointer.ctrl ? findSnapPoint(world.level(), world.index(), aim, new Set(SNAP_POINT_KINDS), () => true) : null
    const hit = world.index().raycast(aim.ray)
    if (caught) return { id: caught.id, point: caught.point, normal: hit?.normal ?? null }
    if (hit) return hit
    const distance = -aim.ray.origin.y / aim.ray.direction.y
    return distance > 0 && Number.isFinite(distance) ? { id: null, point: aim.ray.at(distance, aim.ray.origin.clone()), normal: null } : null
  }
}
