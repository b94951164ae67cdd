import type { Box3 } from 'three'
import type { Chunk } from './chunked-matrices'

/**
 * What can be drawn of one shape: its chunks, and meshes of fewer and fewer triangles with how far each lies from the
 * whole one, in metres.
 */
export type ChunkSource = {
  chunks: readonly Chunk[]
  levels: readonly { triangles: number; error: number }[]
  /** Whether some of it can be looked through. */
  isClear: boolean
}

/** How chunks are seen. */
export type ChunkView = {
  isSeen: (box: Box3) => boolean
  /** Metres from the eye to the nearest point of a box. */
  distanceTo: (box: Box3) => number
  /** Pixels that a metre has at a distance. */
  pixelsAt: (distance: number) => number
}

/** So many instances of a chunk, by a mesh. */
export type Chosen = { source: number; chunk: Chunk; level: number; count: number }

export type Choice = {
  chosen: Chosen[]
  triangles: number
  /** Pixels that what is drawn lies off at most; infinite where boxes had to do. */
  error: number
  /** Of the instances in sight, those that are drawn. */
  share: number
}

/** Pixels that a mesh may lie off: the first for which there are few enough triangles is taken. */
const ERRORS = [1.5, 3, 6, 12, 24, 48, Infinity]
/**
 * Of the triangles, where not all can be drawn, the share that goes to the largest in the picture, and with the large
 * ones.
 */
const [LARGEST, LARGE] = [0.4, 0.85]
/** The pixels by which the largest may lie off, and the quarter of its size in pixels below which nothing is large. */
const [BETTER, SMALL] = [6, 4]

type Seen = { source: number; chunk: Chunk; distance: number; pixels: number }

function seenOf(sources: readonly ChunkSource[], view: ChunkView): Seen[] {
  const seen: Seen[] = []
  sources.forEach(({ chunks }, source) => {
    for (const chunk of chunks) {
      if (!view.isSeen(chunk.box)) continue
      const distance = view.distanceTo(chunk.box)
      seen.push({ source, chunk, distance, pixels: view.pixelsAt(distance) })
    }
  })
  return seen
}

/** The coarsest mesh that lies off by no more than some pixels. */
function levelFor({ levels }: ChunkSource, pixels: number, error: number): number {
  let level = levels.length - 1
  while (level > 0 && levels[level]!.error * pixels > error) level--
  return level
}

/**
 * All that is in sight, each chunk by the coarsest mesh that lies off by no more than some pixels: what is large in the
 * picture first, which is what is near and hides others.
 */
export function chooseAll(sources: readonly ChunkSource[], view: ChunkView, error: number): Chosen[] {
  return seenOf(sources, view)
    .map(each => ({ each, size: sources[each.source]!.levels.at(-1)!.error * each.pixels }))
    .sort((a, b) => b.size - a.size)
    .map(({ each: { source, chunk, pixels } }) => ({
      source,
      chunk,
      level: levelFor(sources[source]!, pixels, error),
      count: chunk.count,
    }))
}

/**
 * What to draw of many instances within a number of triangles: what is out of sight not at all; each chunk by the
 * coarsest mesh that lies off by no more than some pixels; and if that is still too much, what is large in the picture,
 * and the rest thinned evenly.
 */
export function chooseChunks(sources: readonly ChunkSource[], view: ChunkView, limit: number): Choice {
  const seen = seenOf(sources, view)
  const trianglesOf = (each: Seen, level: number) => each.chunk.count * sources[each.source]!.levels[level]!.triangles
  for (const error of ERRORS) {
    const chosen = seen.map(each => ({
      source: each.source,
      chunk: each.chunk,
      level: levelFor(sources[each.source]!, each.pixels, error),
      count: each.chunk.count,
    }))
    const triangles = seen.reduce((sum, each, i) => sum + trianglesOf(each, chosen[i]!.level), 0)
    if (triangles <= limit) return { chosen, triangles, error, share: 1 }
  }
  return thinned()

  /**
   * What is largest in the picture is drawn well, what is large by its coarsest mesh, and the rest of it thinned out
   * evenly.
   */
  function thinned(): Choice {
    const sizeOf = ({ source, pixels }: Seen) => sources[source]!.levels.at(-1)!.error * pixels
    const ordered = seen.map(each => ({ ...each, size: sizeOf(each) })).sort((a, b) => b.size - a.size)
    const chosen: Chosen[] = []
    let [spent, at] = [0, 0]
    const take = (share: number, error: number, least: number) => {
      for (; at < ordered.length; at++) {
        const each = ordered[at]!
        const level = levelFor(sources[each.source]!, each.pixels, error)
        if (each.size < least || spent + trianglesOf(each, level) > limit * share) return
        spent += trianglesOf(each, level)
        chosen.push({ source: each.source, chunk: each.chunk, level, count: each.chunk.count })
      }
    }
    take(LARGEST, BETTER, 0)
    take(LARGE, Infinity, SMALL)
    const rest = ordered.slice(at)
    const coarsest = ({ source }: Seen) => sources[source]!.levels.length - 1
    const share = Math.min(1, (limit - spent) / rest.reduce((sum, each) => sum + trianglesOf(each, coarsest(each)), 0))
    // What is left over of one chunk goes to the next, so that small ones get their share as well.
    let over = 0
    for (const each of rest) {
      over += each.chunk.count * share
      const count = Math.min(Math.floor(over), each.chunk.count)
      over -= count
      if (count === 0) continue
      chosen.push({ source: each.source, chunk: each.chunk, level: coarsest(each), count })
      spent += (trianglesOf(each, coarsest(each)) / each.chunk.count) * count
    }
    const count = (of: readonly { count: number }[]) => of.reduce((sum, each) => sum + each.count, 0)
    return { chosen, triangles: spent, error: Infinity, share: count(chosen) / count(seen.map(({ chunk }) => chunk)) }
  }
}
