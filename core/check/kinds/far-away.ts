import { Vector3 } from 'three'
import type { CheckDefinition } from '../definition'

/** So far from the origin that single precision no longer tells places apart. */
export const farAway: CheckDefinition<'exact'> = {
  name: 'Far from the origin',
  severity: 'warning',
  explains:
    'Engines keep places in single precision, whose steps grow with the distance from the origin (IEEE 754: 24 bits); so far out things jump by more than may be.',
  limits: { exact: { label: 'Steps no larger than', first: 0.001, quantity: 'length', least: 1e-7 } },
  looksAt: 'placement',
  find: ({ level }, id, { exact }) => {
    if (level.need(id).kind === 'group' || level.isSource(id)) return []
    const at = new Vector3().setFromMatrixPosition(level.worldMatrix(id))
    const step = singleStep(Math.max(Math.abs(at.x), Math.abs(at.y), Math.abs(at.z)))
    return step > exact ? [{ things: [id], amount: step, at: at.toArray() }] : []
  },
  says: ({ things: [id], amount }, { name, length }) =>
    `${name(id!)} is so far out that its place is exact to ${length(amount!)} only`,
}

/** How far apart neighbouring numbers of single precision are at a value. */
export function singleStep(value: number): number {
  return value < 2 ** -126 ? 2 ** -149 : 2 ** (Math.floor(Math.log2(value)) - 23)
}
