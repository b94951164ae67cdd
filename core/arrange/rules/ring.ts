import { Vector3 } from 'three'
import { z } from 'zod'
import { tidy } from '../../units/quantity'
import type { GripDragged, RuleDefinition } from '../definition'
import { STANDS_STRAIGHT } from '../definition'
import { FACING, numberField } from '../fields'
import { firstWhere, isSizeInRange } from '../growth'
import { lineKeys } from '../keys'
import type { Out } from '../matrices'
import { AroundAxis, SteadyTurn } from '../matrices'
import { axis, count, degrees, facing, factor, gapsAlong, isFullTurn, metres } from '../numbers'

const schema = z.strictObject({
  type: z.literal('ring'),
  count,
  /** Metres from the middle, which is the arrangement's pivot. */
  radius: metres,
  axis,
  /** Degrees. A full ring has no copy on top of the first; of a part both ends have one. */
  start: degrees,
  arc: degrees,
  facing,
  /** Metres along the axis, degrees about the axis on the spot, and factor of size, for each step. */
  rise: metres,
  turn: degrees,
  size: factor,
})

export type RingRule = z.infer<typeof schema>

/** Copies around a middle. */
export const ring: RuleDefinition<RingRule> = {
  schema,
  first: { type: 'ring', count: 8, radius: 3, axis: 1, start: 0, arc: 360, facing: 'out', rise: 0, turn: 0, size: 1 },
  name: 'Ring',
  countedBy: 'count',
  count: rule => rule.count,
  most: rule => rule.count,
  firstBeyond: rule => firstWhere(rule.count, i => !isSizeInRange(rule.size ** i)),
  write,
  keys: rule => lineKeys(rule.count),
  nameOf: (_, [, column]) => `copy ${column + 1}`,
  grips: rule => [{ at: positionAt(rule, 0) }, ...!isFullTurn(rule.arc) && rule.count > 1 ? [{ at: positionAt(rule, rule.count - 1) }] : []],
  drag,
  gripsOnSurface: false,
  gripText: ({ radius, start, arc }, length) => `radius ${length(radius)}  start ${start.toFixed(1)}°  arc ${arc.toFixed(1)}°`,
  aroundMiddle: (rule, first) => ({ ...rule, ...polar(rule, first) }),
  keepsSources: false,
  remarks: () => [],
  ...STANDS_STRAIGHT,
  fields: () => [
    numberField('Count', ['count'], 'count'), numberField('Radius', ['radius'], 'length'),
    { type: 'choice', label: 'About', path: ['axis'], options: [{ value: 0, name: 'X' }, { value: 1, name: 'Y' }, { value: 2, name: 'Z' }] },
    numberField('Arc', ['arc'], 'angle'), numberField('Start', ['start'], 'angle'), FACING,
    numberField('Rise each', ['rise'], 'length'), numberField('Turn each', ['turn'], 'angle'), numberField('Size each', ['size'], 'factor'),
  ],
}

/** Degrees from one copy to the next. */
const pitchOf = ({ count: copies, arc }: RingRule) => copies === 1 ? 0 : arc / gapsAlong(arc, copies)

function write(rule: RingRule, out: Out): void {
  const { radius, start, facing: looks, rise, turn: spin, size } = rule
  const pitch = pitchOf(rule)
  // The ring begins along the axis after the next, so that about the vertical it begins at +Z, where fronts look.
  const turn = new SteadyTurn(start, pitch)
  // A copy's own heading goes on from where the ring's is, or from nothing, by its turn for each step.
  const heading = looks === 'out' && spin === 0 ? turn : new SteadyTurn((looks === 'kept' ? 0 : start) + (looks === 'in' ? 180 : 0), (looks === 'kept' ? 0 : pitch) + spin)
  const around = new AroundAxis(out, rule.axis)
  for (let i = 0; i < rule.count; i++) {
    const { cos, sin } = turn.at(i)
    if (heading !== turn) heading.at(i)
    around.write(i, heading, size === 1 ? 1 : size ** i, radius * cos, radius * sin, rise * i)
  }
}

function positionAt(rule: RingRule, index: number): Vector3 {
  const angle = (rule.start + pitchOf(rule) * index) * Math.PI / 180
  return new Vector3()
    .setComponent((rule.axis + 1) % 3, rule.radius * Math.cos(angle))
    .setComponent((rule.axis + 2) % 3, rule.radius * Math.sin(angle))
    .setComponent(rule.axis, rule.rise * index)
}

/** Radius and start with which the first copy stands at a place. As `write` places them: around X from Y towards Z, and so on. */
function polar({ axis: about }: RingRule, to: Vector3): { radius: number, start: number } {
  const [u, v] = [to.getComponent((about + 1) % 3), to.getComponent((about + 2) % 3)]
  return { radius: tidy(Math.hypot(u, v)), start: tidy(Math.atan2(v, u) * 180 / Math.PI) }
}

/** The first grip changes radius and start; the last one radius and arc. */
function drag(rule: RingRule, index: number, to: Vector3): GripDragged<RingRule> {
  const { radius, start } = polar(rule, to)
  if (index === 0) return { rule: { ...rule, radius, start } }
  return { rule: { ...rule, radius, arc: tidy(nearTo(start - rule.start, rule.arc)) } }
}

/** An angle brought within half a turn of another. */
const nearTo = (angle: number, other: number) => angle + Math.round((other - angle) / 360) * 360
