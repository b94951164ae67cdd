import { hasCorners, isStraight } from '~~/core/arrange/path-layout'
import type { PathRule, Rule, RuleKind } from '~~/core/arrange/rule'
import { ruleSchema } from '~~/core/arrange/rule'
import type { Quantity } from '~~/core/units/quantity'

type Path = readonly (string | number)[]

export type RuleField =
  | { type: 'number', label: string, path: Path, quantity: Quantity | 'count' | 'share', axis?: number }
  | { type: 'choice', label: string, path: Path, options: readonly { value: string | number, name: string }[] }
  /** `on`: what is there while it is on, and nothing while it is not; without it the switch is itself the value. */
  | { type: 'switch', label: string, path: Path, on?: object }
  /** Whole numbers one after the other. */
  | { type: 'counts', label: string, path: Path }
  | { type: 'rise', label: string, path: Path }

const number = (label: string, path: Path, quantity: Extract<RuleField, { type: 'number' }>['quantity'], axis?: number): RuleField => ({ type: 'number', label, path, quantity, axis })
const three = (label: string, key: string, quantity: Extract<RuleField, { type: 'number' }>['quantity']) => [0, 1, 2].map(axis => number(`${label} ${'XYZ'[axis]}`, [key, axis], quantity, axis))
const FACING: RuleField = { type: 'choice', label: 'Facing', path: ['facing'], options: [{ value: 'kept', name: 'kept' }, { value: 'in', name: 'inwards' }, { value: 'out', name: 'outwards' }] }

const RISE: RuleField = { type: 'rise', label: 'Rise', path: ['rise'] }

function pathFields(rule: PathRule): RuleField[] {
  const { measure, closed, corners } = rule
  return [
    { type: 'choice', label: 'By', path: ['measure'], options: [{ value: 'count', name: 'count' }, { value: 'spacing', name: 'spacing' }, { value: 'points', name: 'one at each point' }, { value: 'ends', name: 'end to end' }] },
    ...measure === 'count' ? [number('Count', ['count'], 'count')] : [],
    ...measure === 'spacing' ? [number('Spacing', ['spacing'], 'length')] : [],
    ...measure === 'ends' ? [
      number('Length of a piece', ['spacing'], 'length'), number('It begins at', ['begins'], 'length', 0),
      { type: 'switch' as const, label: 'Fit whole pieces', path: ['fitted'] }, { type: 'switch' as const, label: 'Bend them along the path', path: ['bent'] },
      ...isStraight(rule) ? [{ type: 'switch' as const, label: 'A part at each corner', path: ['corners'], on: { room: 0, ends: false } }] : [],
      ...hasCorners(rule) && corners ? [
        number('Room at corners', ['corners', 'room'], 'length'),
        ...closed ? [] : [{ type: 'switch' as const, label: 'At both ends as well', path: ['corners', 'ends'] }],
      ] : [],
    ] : [],
    { type: 'switch', label: 'Smooth', path: ['smooth'] }, { type: 'switch', label: 'Closed', path: ['closed'] },
    { type: 'choice', label: 'They stand', path: ['stand'], options: [{ value: 'upright', name: 'upright' }, { value: 'banked', name: 'with the slope' }, { value: 'surface', name: 'with the ground' }, { value: 'kept', name: 'as they are' }] },
    { type: 'switch', label: 'Hug the ground', path: ['hug'] },
    number('To the right', ['offset'], 'length'), number('Turned by', ['turn'], 'angle'),
  ]
}

const FIELDS: Record<RuleKind, (rule: Rule) => RuleField[]> = {
  line: rule => rule.rule !== 'line' ? [] : [
    { type: 'choice', label: 'By', path: ['measure'], options: [{ value: 'spacing', name: 'spacing' }, { value: 'span', name: 'span, both ends' }, { value: 'fit', name: 'as many as fit' }] },
    ...rule.measure === 'fit' ? [number('At least apart', ['least'], 'length')] : [number('Count', ['count'], 'count')],
    ...three(rule.measure === 'spacing' ? 'Spacing' : 'Span', 'along', 'length'),
    number('Ratio of gaps', ['ratio'], 'factor'),
    ...three('Turn each', 'turn', 'angle'),
    number('Size each', ['size'], 'factor'),
    { type: 'choice', label: 'Steps along', path: ['axes'], options: [{ value: 'world', name: 'its own axes' }, { value: 'local', name: 'those of the copy before' }] },
    { type: 'switch', label: 'Centred', path: ['centred'] },
  ],
  grid: () => [
    number('Columns', ['counts', 0], 'count', 0), number('Layers', ['counts', 1], 'count', 1), number('Rows', ['counts', 2], 'count', 2),
    { type: 'choice', label: 'By', path: ['measure'], options: [{ value: 'spacing', name: 'spacing' }, { value: 'span', name: 'span, both ends' }] },
    ...three('Spacing', 'spacing', 'length'),
    number('Stagger odd rows', ['stagger'], 'share'),
    { type: 'switch', label: 'Odd layers as well (running bond)', path: ['bond'] },
    { type: 'switch', label: 'Centred', path: ['centred'] },
    RISE,
  ],
  ring: () => [
    number('Count', ['count'], 'count'), number('Radius', ['radius'], 'length'),
    { type: 'choice', label: 'About', path: ['axis'], options: [{ value: 0, name: 'X' }, { value: 1, name: 'Y' }, { value: 2, name: 'Z' }] },
    number('Arc', ['arc'], 'angle'), number('Start', ['start'], 'angle'), FACING, number('Rise each', ['rise'], 'length'), number('Turn each', ['turn'], 'angle'), number('Size each', ['size'], 'factor'),
  ],
  fan: rule => [
    number('Rows', ['rows'], 'count'), ...rule.rule === 'fan' && rule.counts === 'given' ? [] : [number('In first row', ['first'], 'count')], number('First radius', ['radius'], 'length'), number('Row depth', ['depth'], 'length'), number('Arc', ['arc'], 'angle'),
    { type: 'choice', label: 'Further rows', path: ['counts'], options: [{ value: 'same', name: 'as many' }, { value: 'spacing', name: 'as far apart' }, { value: 'given', name: 'as given' }] },
    ...rule.rule === 'fan' && rule.counts === 'given' ? [{ type: 'counts' as const, label: 'In each row', path: ['given'] }] : [],
    number('Stagger odd rows', ['stagger'], 'share'), FACING, RISE,
  ],
  path: rule => rule.rule === 'path' ? pathFields(rule) : [],
  mirror: () => [],
}

/** The numbers and choices of a rule as fields of a form. */
export const ruleFields = (rule: Rule): RuleField[] => FIELDS[rule.rule](rule)

export function valueAt(rule: Rule, path: Path): unknown {
  return path.reduce<unknown>((at, key) => (at as Record<string | number, unknown>)[key], rule)
}

/** The rule with another value, or what is wrong with it in words. */
export function withValue(rule: Rule, path: Path, value: unknown): { ok: true, rule: Rule } | { ok: false, error: string } {
  const next = structuredClone(rule) as unknown as Record<string | number, unknown>
  const [last, ...above] = [...path].reverse()
  const target = above.reverse().reduce<Record<string | number, unknown>>((at, key) => at[key] as Record<string | number, unknown>, next)
  if (value === undefined) delete target[last!]
  else target[last!] = value
  const parsed = ruleSchema.safeParse(next)
  return parsed.success ? { ok: true, rule: parsed.data } : { ok: false, error: `It ${parsed.error.issues[0]!.message}.` }
}
