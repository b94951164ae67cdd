import { Vector3 } from 'three'
import type { Given, RelationDefinition } from '../definition'
import { axesOf, differs, turnedBy } from '../definition'
import { heightOf } from '../reach'

/** The sizes along a thing's axes in the world. */
function sizeOf({ standing }: Given<'same'>, id: string): Vector3 {
  const axes = [new Vector3(), new Vector3(), new Vector3()] as const
  standing.matrixOf(id).extractBasis(...axes)
  return new Vector3(...axes.map(axis => axis.length()))
}

/** The thing's size over the holder's, along each axis or, of the height, along its own Y alone; null if unknown. */
function ratios(given: Given<'same'>): Vector3 | null {
  const { standing, finder, relation, rule } = given
  const holder = relation.holders[0]!.on
  if (holder === null || !standing.has(holder)) return null
  if (rule.of === 'size') return sizeOf(given, relation.held).divide(sizeOf(given, holder))
  const [own, other] = [heightOf(standing, finder, relation.held), heightOf(standing, finder, holder)]
  return own && other ? new Vector3(1, own / other, 1) : null
}

/** A thing keeps the size, turn or height of another. */
export const same: RelationDefinition<'same'> = {
  says: ({ of, times }, [holder]) =>
    `the ${of} of ${holder}${times === 1 || of === 'turn' ? '' : ` times ${Number(times.toPrecision(4))}`}`,
  number: {
    label: 'Times',
    quantity: 'factor',
    of: ({ of, times }) => (of === 'turn' ? null : times),
    with: (rule, times) => ({ ...rule, times }),
  },
  takes: ({ of }) => [of === 'turn' ? 'turn' : 'size'],
  takesOf: ({ of }) => (of === 'height' ? [1] : [0, 1, 2]),
  turn: given => {
    const { standing, relation } = given
    const { held, holders } = relation
    const holder = holders[0]!.on
    if (holder === null || !standing.has(holder)) return null
    return turnedBy(given, axesOf(standing, holder).multiply(axesOf(standing, held).invert()))
  },
  size: given => {
    const now = ratios(given)
    if (!now) return null
    const { of, times } = given.rule
    return of === 'size' ? new Vector3(times, times, times).divide(now) : new Vector3(1, times / now.y, 1)
  },
  adopt: (given, { isTurned, isSized }) => {
    const { rule } = given
    if (rule.of === 'turn') return isTurned ? 'let go' : {}
    if (!isSized) return {}
    const now = ratios(given)
    if (!now) return {}
    const isEven = !differs(now.x, now.y) && !differs(now.y, now.z)
    if (rule.of === 'size' && !isEven) return 'let go'
    return differs(now.y, rule.times) ? { rule: { ...rule, times: now.y } } : {}
  },
}
