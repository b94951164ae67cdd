import Papa from 'papaparse'
import { Vector3 } from 'three'
import { baseOfShape } from '../arrange/path/bent-key'
import { blockOfKey, isBlockKey } from '../mesh/block-key'
import { meshBounds, triangleCount } from '../mesh/mesh'
import type { LevelView } from '../scene/level-view'
import { layersOf } from './out/layer-of'
import type { Scope } from './out/scope'
import { flag, scopeSchema } from './out/scope'
import type { PartSource } from './out/shapes'
import { shapeNamed } from './out/shapes'
import { shownShapes } from './out/shown'

/** How a bill of parts is handed over. */
export const billOptionsSchema = scopeSchema.extend({ perLayer: flag(true) })

/**
 * One line of a bill of parts: a part, or a kind of block; how often it is shown, its size in metres, and its triangles
 * each.
 */
export type BillLine = { name: string; layer: string; count: number; size: [number, number, number]; triangles: number }

/** What a level is made of, the most numerous first; pieces bent along a path count as what they are bent of. */
export async function billOf(
  level: LevelView,
  scope: Scope,
  partOf: PartSource,
  { perLayer, hidden }: { perLayer: boolean; hidden: boolean },
): Promise<BillLine[]> {
  const layerOf = layersOf(level)
  const counts = new Map<string, { shape: string; layer: string; count: number }>()
  for (const { id, shape: shown, matrices } of shownShapes(level, scope, hidden)) {
    const shape = baseOfShape(shown)
    const layerId = perLayer ? layerOf(id) : null
    const layer = layerId === null ? '' : (level.layers.get(layerId)?.name ?? '')
    const key = `${shape}\n${layer}`
    const line = counts.get(key)
    if (line) line.count += matrices.length / 16
    else counts.set(key, { shape, layer, count: matrices.length / 16 })
  }
  const lines: BillLine[] = []
  const facts = new Map<string, Pick<BillLine, 'name' | 'size' | 'triangles'>>()
  for (const { shape, layer, count } of counts.values()) {
    let known = facts.get(shape)
    if (!known) {
      const { name, mesh } = await shapeNamed(shape, partOf)
      const size = meshBounds(mesh).getSize(new Vector3()).toArray()
      facts.set(
        shape,
        (known = {
          name: isBlockKey(shape) ? nameOfBlock(blockOfKey(shape).shape.type, size) : name,
          size,
          triangles: triangleCount(mesh),
        }),
      )
    }
    lines.push({ ...known, layer, count })
  }
  return lines.sort((a, b) => b.count - a.count || (a.name < b.name ? -1 : 1))
}

/** Blocks are told apart by what they are and how large: "Block, box 2 × 0.5 × 1 m". */
const nameOfBlock = (type: string, size: readonly number[]) =>
  `Block, ${type} ${size.map(side => Number(side.toFixed(2))).join(' × ')} m`

/** A bill of parts as a table (RFC 4180). Cells that a spreadsheet would take for formulas are made text. */
export function billCsv(lines: readonly BillLine[]): string {
  const rows = lines.map(({ name, layer, count, size, triangles }) => [
    name,
    layer,
    count,
    ...size.map(side => Number(side.toFixed(4))),
    triangles,
    triangles * count,
  ])
  return `${Papa.unparse([['part', 'layer', 'count', 'width (m)', 'height (m)', 'depth (m)', 'triangles', 'triangles in all'], ...rows], { escapeFormulae: true })}\r\n`
}
