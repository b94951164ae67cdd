import type { Box3, Ray } from 'three'
import type { PlaneEquation } from '../mesh/frame'
import { idAround } from './elsewhere'
import type { LevelHit, LevelIndex } from './level-index'
import type { Shown } from './shown'

/** What snapping and resting ask of what is there: of a level, or of one with another around it. */
export type Finder = Pick<LevelIndex, 'raycast' | 'across' | 'near' | 'shownBy' | 'extents'>

/** Finds things in a level and in the one around it. */
export class FinderWithAround implements Finder {
  /** @param around of the level around, where it lies as seen from the other */
  constructor(
    private readonly own: LevelIndex,
    private readonly around: LevelIndex,
  ) {}

  get extents() {
    return this.own.extents
  }

  shownBy(id: string): readonly Shown[] {
    const around = idAround(id)
    return around === null ? this.own.shownBy(id) : this.around.shownBy(around)
  }

  raycast(ray: Ray, accept?: (id: string) => boolean): LevelHit | null {
    const [one, other] = [this.own.raycast(ray, accept), this.around.raycast(ray, accept)]
    return one && other ? (one.distance <= other.distance ? one : other) : (one ?? other)
  }

  near(box: Box3, visit: (shown: Shown) => void, accept?: (id: string) => boolean): void {
    this.own.near(box, visit, accept)
    this.around.near(box, visit, accept)
  }

  across(planes: readonly PlaneEquation[], visit: (shown: Shown) => void): void {
    this.own.across(planes, visit)
    this.around.across(planes, visit)
  }
}
