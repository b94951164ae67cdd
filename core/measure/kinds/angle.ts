import { MathUtils, Quaternion } from 'three'
import type { MeasureDefinition } from '../definition'
import { middleOf } from '../definition'

/** At a corner between two others, or between two edges wherever they are: three ends, or four. */
export const angle: MeasureDefinition = {
  name: 'Angle',
  hint: 'click a point, the corner and another point; or with Shift two edges, each by its ends',
  icon: 'M4 20L15 4l1.600 1.100L8.400 17H20v3zm9.500-3a7 7 0 0 0-2-4.800l1.200-1.600A9 9 0 0 1 15.500 17z',
  set: 'An angle is not typed: turn one of the things it is on, by its handles or in the ledger.',
  measure: ends => {
    const [corner, one, other] =
      ends.length === 3
        ? [ends[1]!, ends[0]!.clone().sub(ends[1]!), ends[2]!.clone().sub(ends[1]!)]
        : [
            middleOf(middleOf(ends[0]!, ends[1]!), middleOf(ends[2]!, ends[3]!)),
            ends[1]!.clone().sub(ends[0]!),
            ends[3]!.clone().sub(ends[2]!),
          ]
    if (one.length() < 1e-9 || other.length() < 1e-9)
      return { lines: [], guides: [], numbers: [], facts: [], remarks: ['Two of its points are at the same place.'] }
    const degrees = MathUtils.radToDeg(one.angleTo(other))
    const radius = Math.min(one.length(), other.length()) / 2
    const axis = one.clone().cross(other)
    const turn = axis.lengthSq() > 1e-18 ? axis.normalize() : one.clone().cross({ x: 0.3, y: 0.5, z: 0.8 }).normalize()
    const arc = Array.from({ length: 25 }, (_, i) =>
      one
        .clone()
        .setLength(radius)
        .applyQuaternion(new Quaternion().setFromAxisAngle(turn, (MathUtils.degToRad(degrees) * i) / 24))
        .add(corner),
    )
    const sides =
      ends.length === 3
        ? [[corner, ends[0]!] as const, [corner, ends[2]!] as const]
        : [[ends[0]!, ends[1]!] as const, [ends[2]!, ends[3]!] as const]
    return {
      lines: sides,
      guides: arc.slice(1).map((to, i) => [arc[i]!, to] as const),
      numbers: [{ at: arc[12]!, value: degrees, figure: 'angle' }],
      facts: [
        { label: 'Angle', value: degrees, figure: 'angle' },
        { label: 'To straight', value: 180 - degrees, figure: 'angle' },
      ],
      remarks: [],
    }
  },
}
