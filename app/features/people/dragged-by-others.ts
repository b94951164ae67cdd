import { Quaternion, Vector3 } from 'three'
import type { Dragged, Presence } from '~~/core/api/people'
import type { Operation, Placement } from '~~/core/level/schema'
import type { Quat, Vec3 } from '~~/core/math/vectors'

/** Milliseconds in which what is seen comes most of the way to what was told. */
const SMOOTH = 70
/** Milliseconds for which something stays where somebody let go of it, until the change comes that puts it there. */
export const STAYS = 2000
/** Metres, and parts of a turn or a size, by which something counts as there. */
const THERE = 1e-4

type Seen = { by: string; told: Dragged; now: Dragged; leftAt: number | null }

/** How a level is looked at, as far as it matters to what others hold in it. */
export type DraggedLevel = { get: (id: string) => Pick<Placement, 'parentId' | keyof Moved> | undefined }
type Moved = Pick<Placement, 'translation' | 'rotation' | 'scale' | 'pivot'>

/** What others hold, as it is seen: it goes smoothly from one place they tell to the next. */
export class DraggedByOthers {
  private readonly seen = new Map<string, Seen>()
  /** Whether something was told, or is gone, that was not shown yet. */
  private isNew = true

  /** @param calm whether all goes to its place at once */
  constructor(
    private readonly level: DraggedLevel,
    private readonly calm: boolean,
  ) {}

  /** Who drags what. */
  get movers(): Map<string, string> {
    return new Map([...this.seen].filter(([, { leftAt }]) => leftAt === null).map(([id, { by }]) => [id, by]))
  }

  /** Where things are seen that somebody drags. */
  *dragged(): Generator<{ id: string; by: string; now: Dragged }> {
    for (const [id, { by, now, leftAt }] of this.seen) if (leftAt === null) yield { id, by, now }
  }

  /** Somebody drags something else, or has let go. @param now milliseconds */
  tell(by: string, drags: Presence['drags'], now: number): void {
    this.isNew = true
    const ids = new Set(drags?.things.map(({ id }) => id))
    for (const [id, seen] of this.seen) if (seen.by === by && !ids.has(id)) seen.leftAt ??= now
    for (const told of drags?.things ?? []) {
      if (!this.canBe(told)) continue
      const seen = this.seen.get(told.id)
      const stands = this.level.get(told.id)
      const from = seen?.now ?? (stands && !this.calm ? { ...told, ...movedOf(stands) } : told)
      this.seen.set(told.id, { by, told, now: this.calm ? told : from, leftAt: null })
    }
  }

  /** Some things are otherwise in the level now: what was let go of is there. */
  touched(ids: ReadonlySet<string>): void {
    for (const [id, { leftAt }] of this.seen) {
      if (leftAt === null || !ids.has(id)) continue
      this.seen.delete(id)
      this.isNew = true
    }
  }

  /** Somebody has left, and drags nothing any more. */
  forget(by: string): void {
    for (const [id, seen] of this.seen) if (seen.by === by) this.seen.delete(id)
    this.isNew = true
  }

  /**
   * Goes on towards what was told.
   *
   * @param elapsed milliseconds since the last step
   * @returns whether anything is seen otherwise now, and whether there is farther to go
   */
  step(elapsed: number, now: number): { moved: boolean; goesOn: boolean } {
    const share = 1 - Math.exp(-elapsed / SMOOTH)
    let [moved, goesOn] = [this.isNew, false]
    this.isNew = false
    for (const [id, seen] of this.seen) {
      if ((seen.leftAt !== null && now - seen.leftAt > STAYS) || !this.canBe(seen.told)) {
        this.seen.delete(id)
        moved = true
        continue
      }
      if (seen.now === seen.told) continue
      seen.now = between(seen.now, seen.told, share)
      moved = true
      goesOn ||= seen.now !== seen.told
    }
    return { moved, goesOn }
  }

  /** What would put things where they are seen. */
  operations(): Operation[] {
    return [...this.seen.values()].map(({ now: { id, partId, parentId, ...moved } }) => ({
      do: 'put',
      id,
      fields: this.level.get(id) ? moved : { ...moved, parentId, partId },
    }))
  }

  /** Whether something can be shown as it is told: it hangs from what it does here, or is new. */
  private canBe({ id, parentId, partId }: Dragged): boolean {
    const stands = this.level.get(id)
    if (stands) return stands.parentId === parentId
    return partId !== null && (parentId === null || this.level.get(parentId) !== undefined)
  }
}

const movedOf = ({ translation, rotation, scale, pivot }: Moved): Moved => ({ translation, rotation, scale, pivot })

/** A part of the way from one place to another; the other itself once it is near enough. */
function between(from: Dragged, to: Dragged, share: number): Dragged {
  const way = (a: Vec3, b: Vec3) => new Vector3(...a).lerp(new Vector3(...b), share).toArray() as Vec3
  const rotation = new Quaternion(...from.rotation).slerp(new Quaternion(...to.rotation), share)
  const next = {
    ...to,
    translation: way(from.translation, to.translation),
    scale: way(from.scale, to.scale),
    pivot: way(from.pivot, to.pivot),
    rotation: rotation.toArray() as Quat,
  }
  const away = Math.max(
    ...(['translation', 'scale', 'pivot'] as const).map(field =>
      new Vector3(...next[field]).distanceTo(new Vector3(...to[field])),
    ),
    rotation.angleTo(new Quaternion(...to.rotation)),
  )
  return away < THERE ? to : next
}
