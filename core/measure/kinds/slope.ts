import type { Vector3 } from 'three'
import type { MeasureDefinition, Measured } from '../definition'
import { middleOf } from '../definition'

/** Of a way between two points, or of a face by three of its corners. */
export const slope: MeasureDefinition = {
  name: 'Slope',
  hint: 'click two points; or with Shift a face',
  icon: 'M3 20L21 6v14zm5.500-2H19V9.800z',
  set: 'A slope is not typed: move or turn the things it is on.',
  measure: ends => {
    if (ends.length === 2) return ofWay(ends[0]!, ends[1]!)
    const normal = ends[1]!.clone().sub(ends[0]!).cross(ends[2]!.clone().sub(ends[0]!)).normalize()
    const middle = ends[0]!.clone().add(ends[1]!).add(ends[2]!).divideScalar(3)
    const run = Math.hypot(normal.x, normal.z)
    // Straight down the face, as far as its corners reach.
    const down =
      run < 1e-9
        ? ends[1]!.clone().sub(ends[0]!).normalize()
        : normal
            .clone()
            .multiplyScalar(normal.y)
            .setY(normal.y * normal.y - 1)
            .normalize()
    const reach = Math.max(...ends.map(end => Math.abs(end.clone().sub(middle).dot(down))), 0.05)
    return ofWay(middle.clone().addScaledVector(down, -reach), middle.clone().addScaledVector(down, reach))
  },
}

function ofWay(from: Vector3, to: Vector3): Measured {
  const [rise, run] = [Math.abs(to.y - from.y), Math.hypot(to.x - from.x, to.z - from.z)]
  const corner = from.y < to.y ? to.clone().setY(from.y) : from.clone().setY(to.y)
  const value = run > 0 ? rise / run : Infinity
  return {
    lines: [[from, to]],
    guides:
      rise > 1e-9 && run > 1e-9
        ? [
            [from, corner],
            [corner, to],
          ]
        : [],
    numbers: [{ at: middleOf(from, to), value, figure: 'slope' }],
    facts: [
      { label: 'Slope', value, figure: 'slope' },
      { label: 'Rise', value: rise, figure: 'length' },
      { label: 'Run', value: run, figure: 'length' },
      { label: 'Length', value: from.distanceTo(to), figure: 'length' },
    ],
    remarks: [],
  }
}
