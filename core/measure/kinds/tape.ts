import type { Vector3 } from 'three'
import type { MeasureDefinition, Measured } from '../definition'
import { alongAxes, middleOf } from '../definition'
import { setTape } from '../set-tape'

/** From point to point: each leg, and all of them together. */
export const tape: MeasureDefinition = {
  name: 'Tape',
  hint: 'click from point to point; Enter or a click on the last point ends it',
  icon: 'M3 8h18v8H3zm2 2v2h1.500v-2zm3 0v3.500h1.500V10zm3 0v2h1.500v-2zm3 0v3.500h1.500V10zm3 0v2h1.500v-2z',
  set: { ways: true, movers: () => [], set: setTape },
  measure: (ends, { axes }) => chain(ends, axes),
}

/** The legs of a chain of points, with their lengths. */
export function chain(ends: readonly Vector3[], axes: Parameters<typeof alongAxes>[1]): Measured {
  const legs = ends.slice(1).map((to, i) => [ends[i]!, to] as const)
  const lengths = legs.map(([from, to]) => from.distanceTo(to))
  const way = ends.at(-1)!.clone().sub(ends[0]!)
  return {
    lines: legs,
    guides: [],
    numbers: legs.map(([from, to], leg) => ({ at: middleOf(from, to), value: lengths[leg]!, figure: 'length', leg })),
    facts: [
      {
        label: legs.length > 1 ? 'All legs' : 'Length',
        value: lengths.reduce((sum, length) => sum + length, 0),
        figure: 'length',
      },
      ...(legs.length > 1 ? [{ label: 'End to end', value: way.length(), figure: 'length' as const }] : []),
      ...alongAxes(way, axes),
    ],
    remarks: [],
  }
}
