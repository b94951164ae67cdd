import type { Matrix4 } from 'three'
import type { Ways } from '../arrange/scatter/carry'
import { carried, isSameWay, wayBetween } from '../arrange/scatter/carry'
import type { Dealt } from '../arrange/scatter/deal'
import type { ScatterRule } from '../arrange/scatter/rule'
import type { LevelView } from './level-view'
import { addedTo, scatterOf } from './scatter-site'

/** Of scatters only some of whose surfaces are moved, no more copies than this go along at once, of all together. */
const MOST_CARRIED = 20_000

/** Scatters whose surfaces are moved: those that go along whole, and of others how their copies would stand. */
export type CarriedScatters = { matrices: Map<string, Matrix4>; dealt: Map<string, Dealt> }

/**
 * How scatters go along with what they stand on while that is moved or turned; those that are moved themselves are left
 * out. The work grows with the scatters, and with the copies of those of which only some go along.
 *
 * @param moved where placements would stand, in the world
 */
export function carriedScatters(level: LevelView, moved: ReadonlyMap<string, Matrix4>): CarriedScatters {
  const found: CarriedScatters = { matrices: new Map(), dealt: new Map() }
  let left = MOST_CARRIED
  for (const id of level.scatters) {
    const rule = moved.has(id) ? null : scatterOf(level, id)
    const dealt = rule && level.dealt(id)
    if (!dealt) continue
    const ways = waysOf(level, rule, moved)
    const [first] = ways.values()
    if (!first) continue
    const toWorld = level.worldMatrix(id)
    if (goesWhole(level, rule, ways, first)) found.matrices.set(id, first.clone().multiply(toWorld))
    else if (dealt.count <= left) {
      left -= dealt.count
      found.dealt.set(id, carried(dealt, addedTo(level, id), ways, toWorld, toWorld))
    }
  }
  return found
}

function waysOf(level: LevelView, { on }: ScatterRule, moved: ReadonlyMap<string, Matrix4>): Ways {
  const ways = new Map<number, Matrix4>()
  for (const { id, stream } of on) {
    const after = moved.get(id)
    const way = after && level.has(id) ? wayBetween(level.worldMatrix(id), after) : null
    if (way) ways.set(stream, way)
  }
  return ways
}

/** Whether all that a scatter is on goes the same way. */
function goesWhole(level: LevelView, { on, plane }: ScatterRule, ways: Ways, first: Matrix4): boolean {
  return (
    !plane
    && on.every(({ id, stream }) => {
      const way = ways.get(stream)
      return way ? isSameWay(way, first) : !level.has(id)
    })
  )
}
