import { fieldWord } from '~~/core/level/field-words'
import type { LevelAxis, WrittenAxes } from '~~/core/units/height'

/** Leaves of values, each by the way to it. Goes as deep as what presets hold. */
function leavesOf(values: object): Map<string, unknown> {
  const leaves = new Map<string, unknown>()
  for (const waiting: [string, unknown][] = [['', values]]; waiting.length > 0; ) {
    const [path, value] = waiting.pop()!
    if (typeof value === 'object' && value !== null)
      for (const [key, below] of Object.entries(value)) waiting.push([path === '' ? key : `${path}/${key}`, below])
    else if (value !== undefined) leaves.set(path, value)
  }
  return leaves
}

/** The ways to what differs in two sets of values, such as `along/2`, in their order. */
export function differing(a: object, b: object): string[] {
  const [first, second] = [leavesOf(a), leavesOf(b)]
  return [...new Set([...first.keys(), ...second.keys()])]
    .filter(path => !Object.is(first.get(path), second.get(path)))
    .toSorted()
}

/** A way in words: `rule/along/2` is "along Z", `rule/count` "count". */
export function pathInWords(path: string, axes: WrittenAxes): string {
  const steps = path.split('/').filter(step => step !== 'rule' && step !== 'own')
  const [last] = steps.slice(-1)
  const isAxis = last !== undefined && /^[012]$/.test(last) && steps.length > 1
  const named = steps.filter(step => !/^\d+$/.test(step)).map(fieldWord)
  return `${named.slice(-2).join(', ')}${isAxis ? ` ${axes.letter(Number(last) as LevelAxis)}` : ''}`.trim() || path
}
