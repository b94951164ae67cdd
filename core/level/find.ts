import type { Part } from './part'
import type { Level } from './level'
import type { Placement } from './schema'

/** What finding looks into besides the level itself. */
export type FindContext = { part: (id: string) => Part | undefined }

/** The placements that show a part or a block, in the level's order of records. */
export function instancesOf(level: Level, shape: string): string[] {
  return [...level.placements()]
    .filter(({ partId, blockId }) => partId === shape || blockId === shape)
    .map(({ id }) => id)
}

/**
 * The placements whose name, part, tags, kind or layer have every word of the text in them, in the level's order of
 * records. Capitals do not count.
 */
export function findPlacements(level: Level, text: string, { part }: FindContext): string[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  if (words.length === 0) return []
  const partTexts = new Map<string, string>()
  const textOfPart = (id: string) => {
    let known = partTexts.get(id)
    if (known === undefined) {
      const found = part(id)
      known = found ? [found.name, found.kind, ...found.tags].join(' ').toLowerCase() : ''
      partTexts.set(id, known)
    }
    return known
  }
  const found: string[] = []
  for (const { id, name, kind, partId, layerId } of level.placements()) {
    const own = name.toLowerCase()
    const rest = partId === null ? kind : textOfPart(partId)
    const layer = layerId === null ? '' : (level.layers.get(layerId)?.name.toLowerCase() ?? '')
    if (words.every(word => own.includes(word) || rest.includes(word) || layer.includes(word))) found.push(id)
  }
  return found
}

/** What has to be alike, and how nearly. */
export type Likeness = {
  part: boolean
  kind: boolean
  layer: boolean
  material: boolean
  size: boolean
  /** Of the size, in percent. */
  tolerance: number
}

export type LikenessContext = {
  /** Width, height and depth in the thing's own axes; null if it shows nothing. */
  sizeOf: (id: string) => readonly number[] | null
  /** Names of the finishes a part has, sorted and joined. */
  materialsOf: (partId: string | null) => string
}

/** The placements that are like one in everything ticked, itself among them; nothing if nothing is ticked. */
export function findSimilar(
  level: Level,
  id: string,
  likeness: Likeness,
  { sizeOf, materialsOf }: LikenessContext,
): string[] {
  const model = level.need(id)
  const size = sizeOf(id)
  const alike = (other: Placement) =>
    (!likeness.part || other.partId === model.partId)
    && (!likeness.kind || other.kind === model.kind)
    && (!likeness.layer || other.layerId === model.layerId)
    && (!likeness.material || materialsOf(other.partId) === materialsOf(model.partId))
    && (!likeness.size || sizesAlike(size, sizeOf(other.id), likeness.tolerance / 100))
  if (!likeness.part && !likeness.kind && !likeness.layer && !likeness.material && !likeness.size) return []
  return [...level.placements()].filter(alike).map(other => other.id)
}

function sizesAlike(a: readonly number[] | null, b: readonly number[] | null, tolerance: number): boolean {
  if (!a || !b) return a === b
  return a.every((side, i) => Math.abs(side - b[i]!) <= tolerance * side + 1e-9)
}
