import type { LevelView } from './level-view'

/**
 * All that looks otherwise because of what was written: what is on a layer, the instances of a block, the arrangements
 * above a source, and what hugs the ground where that was changed.
 *
 * @param isGround whether a placement is ground
 */
export function affectedBy(
  level: LevelView,
  written: ReadonlySet<string>,
  isGround: (id: string) => boolean,
): Set<string> {
  const all = new Set(written)
  if ([...written].some(id => level.layers.has(id) || level.blocks.has(id))) {
    for (const { id, layerId, blockId } of level.placements())
      if ((layerId !== null && written.has(layerId)) || (blockId !== null && written.has(blockId))) all.add(id)
  }
  const { arrangementIds } = level
  if (arrangementIds.size === 0) return all
  const hugging = [...arrangementIds].filter(id => level.hugsGround(id))
  if (hugging.length > 0 && [...all].some(id => !level.has(id) || level.subtree(id).some(isGround)))
    for (const id of hugging) all.add(id)
  for (const id of [...all]) {
    // Of something removed it is not known any more what it hung from.
    if (!level.has(id)) for (const arrangement of arrangementIds) all.add(arrangement)
    else for (let at = level.arrangementAbove(id); at !== null; at = level.arrangementAbove(at)) all.add(at)
  }
  return all
}
