import { removeWithChildren } from '../../level/edit'
import type { CheckDefinition } from '../definition'
import { FixError } from '../definition'
import { partnersOf } from '../partners'
import type { CheckSite, Neighbour } from '../site'

/** Metres within which every point of two things has to lie for them to be the same. */
const SAME = 0.001

/** The same shape in the same place. */
export const twice: CheckDefinition = {
  name: 'Twice in one place',
  severity: 'error',
  explains: 'Two things of one shape stand in the same place; one is too many.',
  limits: {},
  looksAt: 'shown',
  find: (site, id) =>
    [
      ...new Set(
        partnersOf(site, id)
          .filter(other => isTwice(site, id, other))
          .map(other => other.id),
      ),
    ].map(other => ({ things: [id, other], amount: null, at: site.middleOf(id) })),
  says: ({ things: [id, other] }, { name }) => `${name(id!)} and ${name(other!)} are the same, in the same place`,
  fix: {
    does: 'Delete the double',
    by: 'operations',
    operations: ({ level }, { things }) => {
      const [double] = things
        .filter(id => !level.arrangementIds.has(id) && !level.isLocked(id) && !level.hasChildren(id))
        .sort((a, b) => level.need(b).order - level.need(a).order || (a < b ? 1 : -1))
      if (!double) throw new FixError('Both are locked, arrangements, or hold others.')
      return removeWithChildren(level, [double])
    },
  },
}

/** Whether something around a thing is the same shape in the same place. */
export function isTwice(site: CheckSite, id: string, other: Neighbour): boolean {
  return site.own(id).some(({ solid, matrix }) => {
    if (solid !== other.placed.solid) return false
    const { min, max } = solid.bounds
    // If the corners of the box are where the other's are, all points are.
    return [0, 1, 2, 3, 4, 5, 6, 7].every(corner => {
      const at = min.clone().set(corner & 1 ? max.x : min.x, corner & 2 ? max.y : min.y, corner & 4 ? max.z : min.z)
      return at.clone().applyMatrix4(matrix).distanceTo(at.applyMatrix4(other.placed.matrix)) < SAME
    })
  })
}
