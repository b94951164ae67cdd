import type { Level } from '../level/level'

/**
 * Whether a placement is ground: a part tagged so, a slab, or an arrangement of nothing else.
 *
 * @param tagsOf the tags of a part
 */
export function isGround(level: Level, tagsOf: (partId: string) => readonly string[], id: string): boolean {
  const { kind, partId, blockId } = level.need(id)
  if (kind === 'arrangement') return level.hasChildren(id) && level.children(id).every(source => isGround(level, tagsOf, source))
  if (partId !== null) return tagsOf(partId).includes('ground')
  return blockId !== null && level.blocks.get(blockId)?.shape.type === 'slab'
}
