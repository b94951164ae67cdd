import type { LevelView } from '../../scene/level-view'

/**
 * Tells the layer a thing is on, by itself or by what it hangs from; null if it is on none. No way up is gone twice, as
 * long as the level stays as it is.
 */
export function layersOf(level: LevelView): (id: string) => string | null {
  const known = new Map<string, string | null>()
  return id => {
    const way: string[] = []
    let layer: string | null = null
    for (let at: string | null = id; at !== null; at = level.need(at).parentId) {
      const found = known.get(at) ?? level.need(at).layerId
      if (found !== null || known.has(at)) {
        layer = found
        break
      }
      way.push(at)
    }
    for (const at of way) known.set(at, layer)
    return layer
  }
}
