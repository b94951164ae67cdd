import type { Box3 } from 'three'
import type { Chunk } from './chunked-matrices'

/** What can be drawn of one shape: its chunks, and meshes of fewer and fewer triangles with how far each lies from the whole one, in metres. */
export type ChunkSource = { chunks: readonly Chunk[], levels: readonly { triangles: number, error: number }[] }

/** How chunks are seen. */
export type ChunkView = {
  isSeen: (box: Box3) => boolean
  /** Metres from the eye to the nearest point of a box. */
  distanceTo: (box: Box3) => number
  /** Pixels that a metre has at a distance. */
  pixelsAt: (distance: number) => number
}

/** So many instances of a chunk, by a mesh. */
export type Chosen = { source: number, chunk: Chunk, level: number, count: number }

export type Choice = { chosen: Chosen[], triangles: number, /** Pixels that what is drawn lies off at most; infinite where boxes had to do. */ error: number }

/** Pixels that a mesh may lie off: the first for which there are few enough triangles is taken. */
const ERRORS = [1.5, 3, 6, 12, 24, Infinity]
/** Of the triangles, the share that goes to what is near, when not all can be drawn. */
const NEAR = 0.5

/**
 * What to draw of many instances within a number of triangles: what is out of sight not at all; each chunk by the coarsest mesh that
 * lies off by no more than some pixels; and if that is still too much, what is near whole and the rest thinned evenly.
 */
export function chooseChunks(sources: readonly ChunkSource[], view: ChunkView, limit: number): Choice {
  const seen: { source: number, chunk: Chunk, distance: number, pixels: number }[] = []
  sources.forEach(({ chunks }, source) => {
    for (const chunk of chunks) {
      if (!view.isSeen(chunk.box)) continue
      const distance = view.distanceTo(chunk.box)
      seen.push({ source, chunk, distance, pixels: view.pixelsAt(distance) })
    }
  })
  const levelFor = ({ source, pixels }: { source: number, pixels: number }, error: number) => {
    const { levels } = sources[source]!
    let level = levels.length - 1
    while (level > 0 && levels[level]!.error * pixels > error) level--
    return level
  }
  const trianglesOf = (each: typeof seen[number], level: number) => each.chunk.count * sources[each.source]!.levels[level]!.triangles
  for (const error of ERRORS) {
    const chosen = seen.map(each => ({ source: each.source, chunk: each.chunk, level: levelFor(each, error), count: each.chunk.count }))
    const triangles = seen.reduce((sum, each, i) => sum + trianglesOf(each, chosen[i]!.level), 0)
    if (triangles <= limit) return { chosen, triangles, error }
  }
  return thinned()

  function thinned(): Choice {
    seen.sort((a, b) => a.distance - b.distance)
    const chosen: Chosen[] = []
    let [spent, at] = [0, 0]
    for (; at < seen.length; at++) {
      const each = seen[at]!
      const level = levelFor(each, ERRORS[1]!)
      if (spent + trianglesOf(each, level) > limit * NEAR) break
      spent += trianglesOf(each, level)
      chosen.push({ source: each.source, chunk: each.chunk, level, count: each.chunk.count })
    }
    const rest = seen.slice(at)
    const wanted = rest.reduce((sum, each) => sum + trianglesOf(each, levelFor(each, Infinity)), 0)
    const share = (limit - spent) / wanted
    // What is left over of one chunk goes to the next, so that small ones get their share as well.
    let over = 0
    for (const each of rest) {
      const level = levelFor(each, Infinity)
      over += each.chunk.count * share
      const count = Math.min(Math.floor(over), each.chunk.count)
      over -= count
      if (count === 0) continue
      chosen.push({ source: each.source, chunk: each.chunk, level, count })
      spent += count * sources[each.source]!.levels[level]!.triangles
    }
    return { chosen, triangles: spent, error: Infinity }
  }
}
