import { turnOfFront } from '../../edit/snap/face'
import type { RelationDefinition } from '../definition'
import { axesOf } from '../definition'

/** Nearer than this, in metres, there is no way to look. */
const TOO_NEAR = 1e-6

/** A thing stays turned to another. */
export const facing: RelationDefinition<'facing'> = {
  says: (_rule, [holder]) => `facing ${holder}`,
  takes: () => ['turn'],
  turn: ({ standing, relation: { held, holders }, rule }) => {
    const towards = standing.placeOf(holders[0]!).sub(standing.pivotOf(held))
    if ((rule.upright ? Math.hypot(towards.x, towards.z) : towards.length()) < TOO_NEAR) return null
    return turnOfFront(axesOf(standing, held), standing.placement(held).kind, towards, rule.upright)
  },
  adopt: (_given, { isTurned }) => (isTurned ? 'let go' : {}),
}
