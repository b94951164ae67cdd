import { Box3, Vector3 } from 'three'
import { pivotOf } from '~~/core/edit/handles/pivot'
import { clickTarget } from '~~/core/level/tree'
import { findSnapPoint, SNAP_POINT_KINDS, SNAP_POINT_NAMES } from '~~/core/edit/snap/vertex'
import type { Gesture, PointerAt, StageMode } from './gesture'
import type { ToolWorld } from './tool-world'

/** What has been touched: a point of a thing's surface, or of the ground plane where there is none. */
export type Touched = { id: string | null; point: Vector3; normal: Vector3 | null }
type Found = Touched & { /** What the point is of the thing, if it is anything by itself. */ says?: string }

/** What is asked for: a thing; a point; or a thing for its middle, or with Shift a point. */
export type TouchWants = 'thing' | 'point' | 'middle'

/**
 * Asks for a thing or a point of the level by clicking on it. Near a corner or a middle of something the point is
 * caught by it; with Ctrl it is taken as it is.
 */
export class TouchTool implements StageMode {
  readonly id = { tool: 'touch' } as const
  constructor(
    private readonly world: ToolWorld,
    readonly title: string,
    private readonly wants: TouchWants,
    /** @returns the title for the next one that is asked for, or null when done */
    private readonly onTouched: (touched: Touched) => boolean,
    private readonly onEnd: () => void,
  ) {
    world.stage.setHovered(null)
  }

  hover(pointer: PointerAt): void {
    const found = this.find(pointer)
    const { stage } = this.world
    stage.setHovered(this.wants !== 'point' && !this.isPoint(pointer) ? (found?.id ?? null) : null)
    stage.hint(this.wants !== 'thing' && found ? { target: found.point } : null)
    const name = found?.id ? this.world.level().need(found.id).name : 'the ground plane'
    this.world.say(
      found && {
        at: pointer,
        title: this.title,
        value: found.says ? `${found.says} of ${name}` : name,
        notes: [
          ...(this.wants === 'thing'
            ? []
            : [
                found.point
                  .toArray()
                  .map(value => this.world.printLength(value))
                  .join('  '),
              ]),
          ...(this.wants === 'middle' && found.id !== null
            ? ['Shift: the corner or edge at the pointer, Ctrl: the very spot']
            : []),
        ],
      },
    )
  }

  press(pointer: PointerAt): Gesture | null {
    const found = this.find(pointer)
    if (found && (this.wants !== 'thing' || found.id !== null) && this.onTouched(found)) this.onEnd()
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

  /** Whether a point is meant, and not what it is of. */
  private isPoint({ shift, ctrl }: PointerAt): boolean {
    return this.wants === 'point' || (this.wants === 'middle' && (shift || ctrl))
  }

  private find(pointer: PointerAt): Found | null {
    const { world } = this
    const aim = world.stage.viewAt(pointer).aim(pointer)
    const caught =
      this.isPoint(pointer) && !pointer.ctrl
        ? findSnapPoint(world.level(), world.index(), aim, new Set(SNAP_POINT_KINDS), () => true)
        : null
    const hit = world.index().raycast(aim.ray)
    if (caught)
      return { id: caught.id, point: caught.point, normal: hit?.normal ?? null, says: SNAP_POINT_NAMES[caught.kind] }
    // Who touches ground means the spot.
    if (hit && this.wants === 'middle' && !this.isPoint(pointer) && !world.isGround(hit.id)) return this.middleOf(hit)
    if (hit) return hit
    const distance = -aim.ray.origin.y / aim.ray.direction.y
    return distance > 0 && Number.isFinite(distance)
      ? { id: null, point: aim.ray.at(distance, aim.ray.origin.clone()), normal: null }
      : null
  }

  /**
   * The middle of what a click on the spot would pick, or of the copy that is there; of what shows nothing its pivot.
   */
  private middleOf(hit: Touched & { id: string; copy?: string }): Found {
    const { world } = this
    const level = world.level()
    const id = hit.copy === undefined ? clickTarget(level, hit.id, world.selection().ids) : hit.id
    const box = new Box3()
    // In the thing's own axes: those of the world would take its middle elsewhere when it stands askew.
    if (hit.copy !== undefined)
      for (const { solid, matrix } of world.index().shownBy(hit.copy))
        box.union(solid.bounds.clone().applyMatrix4(matrix))
    else box.copy(world.index().extents.ownBox(id))
    if (box.isEmpty()) return { id, point: pivotOf(level, id), normal: hit.normal, says: 'the pivot' }
    const point = box.getCenter(new Vector3())
    return {
      id,
      point: hit.copy === undefined ? point.applyMatrix4(level.worldMatrix(id)) : point,
      normal: hit.normal,
      says: 'the middle',
    }
  }
}
