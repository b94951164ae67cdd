import { turnTo } from '../../edit/aim'
import { turnOfFront } from '../../edit/snap/face'
import type { RelationDefinition } from '../definition'
import { axesOf, turnedBy } from '../definition'

/** Nearer than this, in metres, there is no way to look. */
const TOO_NEAR = 1e-6

/** A thing stays turned to another. */
export const facing: RelationDefinition<'facing'> = {
  says: (_rule, [holder]) => `facing ${holder}`,
  takes: () => ['turn'],
  takesOf: ({ upright }) => (upright ? [1] : [0, 1, 2]),
  turn: given => {
    const { standing, relation, rule } = given
    const { held, holders } = relation
    const eye = standing.pivotOf(held)
    const target = standing.placeOf(holders[0]!)
    const { kind, scale } = standing.placement(held)
    if (rule.upright) {
      const towards = target.sub(eye)
      if (Math.hypot(towards.x, towards.z) < TOO_NEAR) return null
      const turn = turnOfFront(axesOf(standing, held), kind, towards, true)
      return turn && turnedBy(given, turn)
    }
    // Cameras and lights look along -Z, everything else along +Z: that points to a place if -Z points away from it.
    const looksBack = kind === 'camera' || kind === 'light'
    return turnTo(
      eye,
      looksBack ? target : eye.clone().multiplyScalar(2).sub(target),
      standing.parentMatrix(held),
      scale,
    )
  },
  // Turned in the course of being moved it stays turned to it.
  adopt: (_given, { isTurned, moved }) => (isTurned && moved.length() < TOO_NEAR ? 'let go' : {}),
}
