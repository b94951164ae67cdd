import { Vector3 } from 'three'
import { isArrangement } from '../../arrange/arrangement'
import { PathCurve } from '../../arrange/path/curve'
import type { MeasureDefinition } from '../definition'

/** Pieces that a metre of a path is measured in, and the fewest and the most of one path. */
const [PER_METRE, FEWEST, MOST] = [20, 64, 4000]

/** Of the path that an arrangement follows. */
export const length: MeasureDefinition = {
  name: 'Length of a path',
  hint: 'click an arrangement along a path',
  icon: 'M4 18a3 3 0 1 1 2.800 3H6.500A3 3 0 0 1 4 18zm2.500-4C7 8 11 12 13 9s1-6 6-6v2c-3 0-2.500 3-4.300 5.500S9 12 8.500 14.500z',
  set: 'The length of a path is not typed: drag its points.',
  measure: (_ends, { level, matrixOf }, { things: [[id = ''] = []] }) => {
    const own = level.get(id)?.own
    if (!own || !isArrangement(own) || own.rule.type !== 'path')
      return { lines: [], guides: [], numbers: [], facts: [], remarks: ['The path it measured is gone.'] }
    const curve = new PathCurve(own.rule)
    const pieces = Math.min(MOST, Math.max(FEWEST, Math.ceil(curve.length * PER_METRE)))
    const matrix = matrixOf(id)
    const at = (i: number) => curve.at((curve.length * i) / pieces).applyMatrix4(matrix)
    const points = Array.from({ length: pieces + 1 }, (_, i) => at(i))
    const [x, y, z] = new Vector3().setFromMatrixScale(matrix).toArray()
    // Of one that is not sized otherwise along one axis than along another it is known exactly.
    const value =
      Math.max(x, y, z) - Math.min(x, y, z) < 1e-9 * x
        ? curve.length * x
        : points.slice(1).reduce((sum, point, i) => sum + point.distanceTo(points[i]!), 0)
    return {
      lines: [],
      guides: points.slice(1).map((to, i) => [points[i]!, to] as const),
      numbers: [{ at: points[pieces >> 1]!, value, figure: 'length' }],
      facts: [{ label: 'Length', value, figure: 'length' }],
      remarks: [],
    }
  },
}
