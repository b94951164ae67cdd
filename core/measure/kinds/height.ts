import type { MeasureDefinition } from '../definition'
import { middleOf } from '../definition'
import { setHeight } from '../set-height'

/** How high a point is above what is straight below it; the thing it is on does not count. */
export const height: MeasureDefinition = {
  name: 'Height above',
  hint: 'click a point; it is measured to what is straight below',
  icon: 'M5 20h14v2H5zM11 6v10H8.500L12 19.500 15.500 16H13V6zM9 2h6v2H9z',
  set: { ways: false, movers: () => [], set: setHeight },
  measure: ([end], { below }, { ons: [on] }) => {
    const ground = below(end!, on ?? null)
    if (!ground) return { lines: [], guides: [], numbers: [], facts: [], remarks: ['Nothing is below this point.'] }
    const value = end!.y - ground.point.y
    return {
      lines: [[ground.point, end!]],
      guides: [],
      numbers: [{ at: middleOf(ground.point, end!), value, figure: 'length' }],
      facts: [{ label: 'Height', value, figure: 'length' }],
      remarks: [],
    }
  },
}
