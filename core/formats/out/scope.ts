import { z } from 'zod'
import { idSchema, thingIdSchema } from '../../level/fields'
import { copyOf } from '../../scene/copy-id'
import type { LevelView } from '../../scene/level-view'

/** Things that can be named in an address. */
export const MOST_NAMED = 300

/** A choice as an address has it. @param first what it is when left out */
export const flag = (first: boolean) =>
  z
    .enum(['true', 'false'])
    .default(first ? 'true' : 'false')
    .transform(value => value === 'true')

/** Which of a level's placements go into a file. */
export const scopeSchema = z.object({
  /** Only these and what hangs below them: ids with commas between them; all when left out. */
  only: z
    .string()
    .max(MOST_NAMED * 60)
    .default('')
    .transform(text => (text === '' ? [] : text.split(',')))
    .pipe(z.array(thingIdSchema).max(MOST_NAMED)),
  /** Only what is on this layer, and what hangs below that. */
  layer: idSchema.optional(),
  blocks: flag(true),
  hidden: flag(true),
})

export type ScopeChoice = z.output<typeof scopeSchema>

/** All of a level. */
export const WHOLE: ScopeChoice = { only: [], blocks: true, hidden: true }

/** What of a level goes into a file. */
export class Scope {
  private readonly wanted: ReadonlySet<string>
  /** What is wanted, and what it hangs from. */
  private readonly kept: ReadonlySet<string>
  /** What was left out, by why. */
  readonly leftOut = { elsewhere: 0, blocks: 0, hidden: 0 }

  constructor(
    private readonly level: LevelView,
    { only, layer, blocks, hidden }: ScopeChoice,
  ) {
    const tops = new Set(only.map(id => copyOf(id)?.arrangementId ?? id))
    const [wanted, kept] = [new Set<string>(), new Set<string>()]
    // From the top downwards, so that each only has to look at what it hangs from.
    const waiting = level
      .children(null)
      .map(id => ({ id, isNamed: tops.size === 0, onLayer: layer === undefined, shown: true }))
    for (let at = waiting.pop(); at; at = waiting.pop()) {
      const placement = level.need(at.id)
      const isNamed = at.isNamed || tops.has(at.id)
      const onLayer = at.onLayer || placement.layerId === layer
      const shown =
        at.shown
        && !placement.hidden
        && (placement.layerId === null || level.layers.get(placement.layerId)?.visible !== false)
      if (!isNamed || !onLayer) this.leftOut.elsewhere++
      else if (!blocks && placement.blockId !== null) this.leftOut.blocks++
      else if (!hidden && !shown) this.leftOut.hidden++
      else {
        wanted.add(at.id)
        for (let up: string | null = at.id; up !== null && !kept.has(up); up = level.need(up).parentId) kept.add(up)
      }
      for (const id of level.children(at.id)) waiting.push({ id, isNamed, onLayer, shown })
    }
    this.wanted = wanted
    this.kept = kept
  }

  /** How many things are shown in the file, and copies of arrangements. @param copies whether these count */
  size(copies = true): number {
    let count = this.wanted.size
    if (!copies) return count
    for (const id of this.level.arrangementIds)
      if (this.wanted.has(id) && !this.level.isSource(id)) count += this.level.countOf(id)
    return count
  }

  /** Whether a thing is shown in the file. */
  wants(id: string): boolean {
    return this.wanted.has(id)
  }

  /** Whether it has a node, be it only to hold others. */
  keeps(id: string): boolean {
    return this.kept.has(id)
  }

  /** What of a thing's children have nodes, in their order. */
  children(id: string | null): readonly string[] {
    return this.level.children(id).filter(child => this.kept.has(child))
  }
}
