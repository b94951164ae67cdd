import { Vector3 } from 'three'
import { nearestBetweenGroups } from '../../mesh/clearance'
import { overlapOf } from '../../mesh/overlap'
import type { MeasureDefinition } from '../definition'
import type { LevelView } from '../../scene/level-view'
import { middleOf } from '../definition'
import { setClearance } from '../set-clearance'

/** The least distance between two things, or two groups of them; how deep they overlap if they do. */
export const clearance: MeasureDefinition = {
  name: 'Clearance',
  hint: 'click one thing, then the other; or take what is picked as the one',
  icon: 'M2 5h6v14H2zm14 0h6v14h-6zM9 11h1.500l1-1.500V14.500l-1-1.500H9zm6 0v2h-1.500l-1 1.500v-5l1 1.500z',
  set: {
    ways: true,
    movers: ({ sides }, level) => [1, 0].map(side => nameOf(sides[side] ?? [], level)),
    set: setClearance,
  },
  measure: (_ends, _where, { sides: [as = [], bs = []] }) => {
    const found = nearestBetweenGroups(as, bs)
    if (!found)
      return { lines: [], guides: [], numbers: [], facts: [], remarks: ['One of the two shows nothing to measure to.'] }
    let depth = 0
    // What does not cross may still be one within the other.
    for (const a of as) for (const b of bs) depth = Math.max(depth, overlapOf(a, b, depth)?.depth ?? 0)
    const [from, to] = [new Vector3(...found.nearest.a), new Vector3(...found.nearest.b)]
    if (depth > 0)
      return {
        lines: [],
        guides: [],
        numbers: [{ at: from, value: -depth, figure: 'length' }],
        facts: [{ label: 'Overlap', value: depth, figure: 'length' }],
        remarks: ['They overlap: that is how far one has to be moved.'],
      }
    const value = Math.sqrt(found.nearest.squared)
    return {
      lines: value > 0 ? [[from, to]] : [],
      guides: [],
      numbers: [{ at: middleOf(from, to), value, figure: 'length' }],
      facts: [{ label: 'Clearance', value, figure: 'length' }],
      remarks: value < 1e-5 ? ['They touch.'] : [],
    }
  },
}

const nameOf = (ids: readonly string[], level: LevelView) =>
  ids.length === 1 && level.has(ids[0]!) ? level.need(ids[0]!).name : `${ids.length} things`
