import type { Level } from '../level/level'
import { KINDS } from '../level/kinds'
import { picturesOf } from '../mesh/mesh'
import type { Solid } from '../mesh/solid'
import type { LevelView } from '../scene/level-view'

/** What a level may cost, each with what is asked of it at first. */
export const BUDGETS = {
  triangles: { name: 'Triangles', first: 2_000_000, unit: '' },
  draws: { name: 'Draws', first: 1000, unit: '' },
  meshes: { name: 'Meshes', first: 256, unit: 'MB' },
  textures: { name: 'Textures', first: 512, unit: 'MB' },
  lights: { name: 'Lights', first: 64, unit: '' },
  placements: { name: 'Placements', first: 20_000, unit: '' },
} as const
export type Budget = keyof typeof BUDGETS
export const BUDGET_NAMES = Object.keys(BUDGETS) as Budget[]

/** What one part, layer or group costs, and the placements that do. */
export type BudgetRow = { id: string; name: string; costs: Record<Budget, number>; things: string[] }

/** What has to be known besides the level. */
export type BudgetFacts = {
  solidOf: (shape: string) => Solid | undefined
  partName: (id: string) => string
  /** In memory; 0 while it is not known. */
  pictureBytes: (picture: string) => number
}

/** The limits in force: what is kept in the level, else what is asked at first. */
export function budgetLimits(level: Level): Record<Budget, number> {
  const set = [...level.limits.values()].findLast(({ of }) => of === 'budget')?.values ?? {}
  return Object.fromEntries(BUDGET_NAMES.map(name => [name, set[name] ?? BUDGETS[name].first])) as Record<
    Budget,
    number
  >
}

/**
 * What a level costs, divided by parts, layers or groups at the top. Copies count as what they show; a mesh counts once
 * in each row that shows it, a draw for each of its materials.
 */
export function budgetRows(level: LevelView, by: 'part' | 'layer' | 'group', facts: BudgetFacts): BudgetRow[] {
  const rows = new Map<string, { row: BudgetRow; shapes: Set<string>; pictures: Set<string> }>()
  const add = (id: string, shape: string | null, count: number) => {
    const [key, name] = rowOf(level, by, id, shape, facts)
    let known = rows.get(key)
    if (!known)
      rows.set(
        key,
        (known = {
          row: {
            id: key,
            name,
            costs: { triangles: 0, draws: 0, meshes: 0, textures: 0, lights: 0, placements: 0 },
            things: [],
          },
          shapes: new Set(),
          pictures: new Set(),
        }),
      )
    const {
      row: { costs, things },
      shapes,
      pictures,
    } = known
    const solid = shape === null ? undefined : facts.solidOf(shape)
    if (solid) {
      costs.triangles += solid.triangles * count
      if (!shapes.has(shape!)) {
        shapes.add(shape!)
        costs.draws += solid.mesh.primitives.length
        costs.meshes += solid.bytes / 1e6
        for (const picture of picturesOf(solid.mesh)) {
          if (pictures.has(picture)) continue
          pictures.add(picture)
          costs.textures += facts.pictureBytes(picture) / 1e6
        }
      }
    }
    if (things.at(-1) !== id) things.push(id)
    return costs
  }
  for (const { id, kind } of level.placements()) {
    if (level.isHidden(id)) continue
    if (kind === 'arrangement') {
      if (!level.isSource(id)) for (const { shape, indices } of level.shapes(id)) add(id, shape, indices.length)
      if (by !== 'part') add(id, null, 0).placements++
      continue
    }
    const shape = level.isSource(id) ? null : level.shapeOf(id)
    if (by === 'part' && shape === null && !KINDS[kind].isMark) continue
    const costs = add(id, shape, 1)
    costs.placements++
    if (kind === 'light') costs.lights++
  }
  return [...rows.values()].map(({ row }) => row)
}

/** All rows together; meshes and textures once each. */
export function budgetTotals(level: LevelView, facts: BudgetFacts): Record<Budget, number> {
  const sums = { triangles: 0, draws: 0, meshes: 0, textures: 0, lights: 0, placements: 0 }
  for (const { costs } of budgetRows(level, 'part', facts)) for (const name of BUDGET_NAMES) sums[name] += costs[name]
  sums.placements = level.size
  return sums
}

function rowOf(
  level: LevelView,
  by: 'part' | 'layer' | 'group',
  id: string,
  shape: string | null,
  { partName }: BudgetFacts,
): [string, string] {
  const placement = level.need(id)
  if (by === 'part') {
    if (shape === null) return [placement.kind, `${placement.kind}s`]
    return placement.blockId !== null || shape.length > 36
      ? ['blocks', 'blocks and bent pieces']
      : [shape, partName(shape)]
  }
  if (by === 'layer') {
    for (
      let at: typeof placement | undefined = placement;
      at;
      at = at.parentId === null ? undefined : level.get(at.parentId)
    ) {
      if (at.layerId !== null) return [at.layerId, level.layers.get(at.layerId)?.name ?? '']
    }
    return ['none', 'no layer']
  }
  let top = placement
  while (top.parentId !== null) top = level.need(top.parentId)
  return top.kind === 'group' ? [top.id, top.name] : ['top', 'at the top']
}
