import type { LevelView } from '../../scene/level-view'

/** The layer a thing is on, by itself or by what it hangs from; null if it is on none. */
export function layerOf(level: LevelView, id: string): string | null {
  for (let at: string | null = id; at !== null; at = level.need(at).parentId) {
    const { layerId } = level.need(at)
    if (layerId !== null) return layerId
  }
  return null
}
