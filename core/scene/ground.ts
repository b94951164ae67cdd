import type { Level } from '../level/level'

/**
 * Whether a placement is ground: a part tagged so, a slab, or an arrangement of nothing else.
 *
 * @param tagsOf the tags of a part
 */
export function isGround(level: Level, tagsOf: (partId: string) => readonly string[], id: string): boolean {
  const waiting = [id]
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    const { kind, partId, blockId } = level.need(at)
    if (kind === 'arrangement') {
      if (!level.hasChildren(at)) return false
      for (const source of level.children(at)) waiting.push(source)
    } else if (
      partId !== null
        ? !tagsOf(partId).includes('ground')
        : blockId === null || level.blocks.get(blockId)?.shape.type !== 'slab'
    )
      return false
  }
  return true
}
