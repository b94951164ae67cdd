import { Vector3 } from 'three'
import { loopArea } from '../../mesh/figures'
import { flatFaceAt } from '../../mesh/flat-face'
import type { MeasureDefinition, Measured } from '../definition'

/** Of a loop of points, or of the flat face of a thing that its one end is on. */
export const area: MeasureDefinition = {
  name: 'Area',
  hint: 'click a face, with Shift all faces it goes over into; or with Alt the corners of a loop, Enter ends it',
  icon: 'M4 4h16v16H4zm2 2v12h12V6zm2 9.500L15.500 8H17v1.500L9.500 17H8z',
  set: 'An area is not typed: change the size of the thing, or the corners of the loop.',
  measure: (ends, { matrixOf, shownBy }, { ons: [on], connected }) => {
    if (ends.length > 2) return ofLoop(ends)
    const [shown] = on ? shownBy(on) : []
    if (!on || !shown)
      return { lines: [], guides: [], numbers: [], facts: [], remarks: ['The thing it was on is gone.'] }
    const face = flatFaceAt(shown.solid, ends[0]!.clone().applyMatrix4(matrixOf(on).clone().invert()), connected)
    let sum = 0
    const middle = new Vector3()
    for (const corners of face.triangles) {
      const [a, b, c] = corners.map(corner => corner.clone().applyMatrix4(shown.matrix)) as [Vector3, Vector3, Vector3]
      const part = b.clone().sub(a).cross(c.clone().sub(a)).length() / 2
      sum += part
      middle.addScaledVector(a.add(b).add(c), part / 3)
    }
    return {
      lines: [],
      guides: face.outline.map(
        ([a, b]) => [a.clone().applyMatrix4(shown.matrix), b.clone().applyMatrix4(shown.matrix)] as const,
      ),
      numbers: [{ at: sum > 0 ? middle.divideScalar(sum) : ends[0]!, value: sum, figure: 'area' }],
      facts: [{ label: connected ? 'Area of the faces' : 'Area of the face', value: sum, figure: 'area' }],
      remarks: [],
    }
  },
}

function ofLoop(ends: readonly Vector3[]): Measured {
  const { area: value } = loopArea(ends)
  const sides = ends.map((end, i) => [end, ends[(i + 1) % ends.length]!] as const)
  const middle = ends.reduce((sum, end) => sum.add(end), new Vector3()).divideScalar(ends.length)
  return {
    lines: [],
    guides: sides,
    numbers: [{ at: middle, value, figure: 'area' }],
    facts: [
      { label: 'Area', value, figure: 'area' },
      { label: 'Around', value: sides.reduce((sum, [a, b]) => sum + a.distanceTo(b), 0), figure: 'length' },
    ],
    remarks: [],
  }
}
