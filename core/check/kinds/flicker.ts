import type { CheckDefinition } from '../definition'
import { facesTogether } from '../../mesh/faces-together'
import { partnersOf } from '../partners'
import { isTwice } from './twice'

/** Faces that lie on each other and look the same way: which of them is seen changes from pixel to pixel. */
export const flicker: CheckDefinition<'apart' | 'area'> = {
  name: 'Flickering faces',
  severity: 'warning',
  explains: 'Faces of two things lie in one plane and look the same way; they flicker when the camera moves.',
  limits: {
    apart: { label: 'No farther apart', first: 0.0005, quantity: 'length', least: 0 },
    area: { label: 'Side of their area', first: 0.2, quantity: 'length', least: 0.001 },
  },
  looksAt: 'shown',
  find: (site, id, { apart, area }) => {
    const whole = site.wholeOf(id)
    const areas = new Map<string, number>()
    for (const other of partnersOf(site, id, apart)) {
      if (site.wholeOf(other.id) === whole || isTwice(site, id, other)) continue
      for (const own of site.own(id))
        areas.set(other.id, (areas.get(other.id) ?? 0) + facesTogether(own, other.placed, apart))
    }
    return [...areas]
      .filter(([, found]) => found > area * area)
      .map(([other, found]) => ({ things: [id, other], amount: Math.sqrt(found), at: site.middleOf(id) }))
  },
  says: ({ things: [id, other], amount }, { name, length }) =>
    `${name(id!)} and ${name(other!)} share faces, as much as a square of ${length(amount!)}`,
}
