import type { LevelDocument } from './document'

/**
 * Whether a placement is ground: a part tagged so, a slab, or an arrangement of nothing else.
 *
 * @param tagsOf the tags of a part
 */
export function isGround(document: LevelDocument, tagsOf: (partId: string) => readonly string[], id: string): boolean {
  const { kind, partId, blockId } = document.need(id)
  if (kind === 'arrangement') return document.hasChildren(id) && document.children(id).every(source => isGround(document, tagsOf, source))
  if (partId !== null) return tagsOf(partId).includes('ground')
  return blockId !== null && document.blocks.get(blockId)?.shape.shape === 'slab'
}
