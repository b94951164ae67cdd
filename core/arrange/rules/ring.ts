import { Vector3 } from 'three'
import { z } from 'zod'
import { tidy } from '../../units/quantity'
import type { GripDragged, RuleDefinition, RuleGrip } from '../definition'
import { BY_ITSELF, STANDS_STRAIGHT } from '../definition'
import { FACING, gapField, withOtherwise } from '../fields'
import { choiceField, numberField } from '../../units/field'
import { firstWhere, isSizeInRange } from '../growth'
import { lineKeys } from '../keys'
import type { Out } from '../matrices'
import { AroundAxis, SteadyTurn } from '../matrices'
import {
  axis,
  count,
  degrees,
  facing,
  factor,
  FARTHEST,
  gapsAlong,
  isFullTurn,
  metres,
  MOST_COPIES,
  roundRadius,
} from '../numbers'

const schema = z.strictObject({
  type: z.literal('ring'),
  /**
   * Count and radius are given; or the radius follows from count and spacing (`spacing`, also said as the `gap` that it
   * leaves), or the count from radius and spacing (`fit`).
   */
  measure: z.enum(['radius', 'spacing', 'gap', 'fit']).optional(),
  /** Metres straight from one copy to the next; for `fit` at least. */
  spacing: metres.min(0.001, 'must be at least 1 mm').optional(),
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
  sideBySide: (rule, size) => ({
    ...rule,
    radius: Math.max(
      rule.radius,
      tidy(
        roundRadius(
          pitchOf(rule),
          tangent(rule).map(axis => size[axis]!),
          size[(rule.axis + 1) % 3]!,
        ),
      ),
    ),
  }),
  name: 'Ring',
  countedBy: 'count',
  count: rule => solved(rule).count,
  most: rule => solved(rule).count,
  firstBeyond: rule => firstWhere(solved(rule).count, i => !isSizeInRange(rule.size ** i)),
  write,
  keys: rule => lineKeys(solved(rule).count),
  nameOf: (_, [, column]) => `copy ${column + 1}`,
  grips,
  drag,
  gripsOnSurface: false,
  gripText: (rule, length) => {
    const { radius, start, arc } = solved(rule)
    return `radius ${length(radius)}  start ${start.toFixed(1)}°  arc ${arc.toFixed(1)}°`
  },
  aroundMiddle: (rule, first) => withPlace(rule, polar(rule, first)),
  keepsSources: false,
  remarks: () => [],
  ...STANDS_STRAIGHT,
  ...BY_ITSELF,
  fields: rule => [
    withOtherwise(
      choiceField(
        'By',
        'measure',
        { radius: 'count and radius', spacing: 'count and spacing', gap: 'count and gap', fit: 'as many as fit' },
        { also: choices(rule) },
      ),
      'radius',
    ),
    ...(rule.measure === 'fit' ? [] : [numberField('Count', ['count'], 'count')]),
    ...(isSpaced(rule) ? [] : [numberField('Radius', ['radius'], 'length')]),
    ...(rule.measure === 'gap' ? [withOtherwise(gapField('Gap', ['spacing'], tangent(rule)), SPACING)] : []),
    ...(rule.measure === 'spacing' || rule.measure === 'fit'
      ? [
          withOtherwise(
            numberField(rule.measure === 'fit' ? 'At least apart' : 'Spacing', ['spacing'], 'length'),
            SPACING,
          ),
        ]
      : []),
    {
      type: 'choice',
      label: 'About',
      path: ['axis'],
      options: [
        { value: 0, name: 'X' },
        { value: 1, name: 'Y' },
        { value: 2, name: 'Z' },
      ],
      ofAxes: true,
    },
    numberField('Arc', ['arc'], 'angle'),
    numberField('Start', ['start'], 'angle'),
    FACING,
    numberField('Rise each', ['rise'], 'length'),
    numberField('Turn each', ['turn'], 'angle'),
    numberField('Size each', ['size'], 'factor'),
  ],
}

/** A ring that says how far apart its copies are, but not how far that is. */
const SPACING = 1

/** Whether the radius follows from how far apart the copies are. */
const isSpaced = ({ measure }: RingRule) => measure === 'spacing' || measure === 'gap'

/**
 * Along which of their axes copies stand beside each other: those that are turned with the ring along one, others now
 * along this, now along that.
 */
const tangent = ({ axis: about, facing: looks }: RingRule) =>
  looks === 'kept' ? [(about + 1) % 3, (about + 2) % 3] : [(about + 2) % 3]

/** The ring with the count and the radius that it comes to. A chord is 2·r·sin(half the angle between its ends). */
function solved(rule: RingRule): RingRule {
  const { measure, radius, arc, spacing = SPACING } = rule
  if (isSpaced(rule)) {
    const sine = Math.abs(Math.sin((pitchOf(rule) * Math.PI) / 360))
    return { ...rule, radius: sine > 0 ? Math.min(spacing / (2 * sine), FARTHEST) : radius }
  }
  if (measure !== 'fit') return rule
  if (spacing > 2 * Math.abs(radius)) return { ...rule, count: 1 }
  const gaps = Math.floor(Math.abs(arc) / ((Math.asin(spacing / (2 * Math.abs(radius))) * 360) / Math.PI) + 1e-9)
  return { ...rule, count: Math.max(1, Math.min(isFullTurn(arc) ? gaps : gaps + 1, MOST_COPIES + 1)) }
}

/** With each choice the ring goes on standing as it does. */
function choices(rule: RingRule): Record<string, Partial<RingRule>> {
  const { count: copies, radius, arc } = solved(rule)
  const spacing = Math.max(
    tidy(2 * Math.abs(radius) * Math.abs(Math.sin((pitchOf({ ...rule, count: copies, arc }) * Math.PI) / 360))),
    0.001,
  )
  const now = { count: Math.min(copies, MOST_COPIES), radius: tidy(radius) }
  return { radius: now, spacing: { ...now, spacing }, gap: { ...now, spacing }, fit: { ...now, spacing } }
}

function grips(rule: RingRule): RuleGrip[] {
  const { count: copies } = solved(rule)
  return [
    { at: positionAt(rule, 0) },
    ...(!isFullTurn(rule.arc) && copies > 1 ? [{ at: positionAt(rule, copies - 1) }] : []),
  ]
}

/** Degrees from one copy to the next. */
const pitchOf = ({ count: copies, arc }: RingRule) => (copies === 1 ? 0 : arc / gapsAlong(arc, copies))

function write(unsolved: RingRule, out: Out): void {
  const rule = solved(unsolved)
  const { radius, start, facing: looks, rise, turn: spin, size } = rule
  const pitch = pitchOf(rule)
  // The ring begins along the axis after the next, so that about the vertical it begins at +Z, where fronts look.
  const turn = new SteadyTurn(start, pitch)
  // A copy's own heading goes on from where the ring's is, or from nothing, by its turn for each step; inwards is the
  // other way round.
  const side = looks === 'in' ? -1 : 1
  const heading =
    looks !== 'kept' && spin === 0
      ? turn
      : new SteadyTurn(looks === 'kept' ? 0 : start, (looks === 'kept' ? 0 : pitch) + spin)
  const around = new AroundAxis(out, rule.axis)
  for (let i = 0; i < rule.count; i++) {
    const { cos, sin } = turn.at(i)
    if (heading !== turn) heading.at(i)
    around.write(
      i,
      side * heading.cos,
      side * heading.sin,
      size === 1 ? 1 : size ** i,
      radius * cos,
      radius * sin,
      rise * i,
    )
  }
}

function positionAt(unsolved: RingRule, index: number): Vector3 {
  const rule = solved(unsolved)
  const angle = ((rule.start + pitchOf(rule) * index) * Math.PI) / 180
  return new Vector3()
    .setComponent((rule.axis + 1) % 3, rule.radius * Math.cos(angle))
    .setComponent((rule.axis + 2) % 3, rule.radius * Math.sin(angle))
    .setComponent(rule.axis, rule.rise * index)
}

/**
 * Radius and start with which the first copy stands at a place. As `write` places them: around X from Y towards Z, and
 * so on.
 */
function polar({ axis: about }: RingRule, to: Vector3): { radius: number; start: number } {
  const [u, v] = [to.getComponent((about + 1) % 3), to.getComponent((about + 2) % 3)]
  return { radius: tidy(Math.hypot(u, v)), start: tidy((Math.atan2(v, u) * 180) / Math.PI) }
}

/** The first grip changes radius and start; the last one radius and arc. */
function drag(rule: RingRule, index: number, to: Vector3): GripDragged<RingRule> {
  const { radius, start } = polar(rule, to)
  if (index === 0) return { rule: withPlace(rule, { radius, start }) }
  return { rule: withPlace({ ...rule, arc: tidy(nearTo(start - rule.start, rule.arc)) }, { radius }) }
}

/** With another radius, and where that follows from the spacing with the spacing that it follows from. */
function withPlace(rule: RingRule, place: { radius: number; start?: number }): RingRule {
  const sine = Math.abs(Math.sin((pitchOf(rule) * Math.PI) / 360))
  return {
    ...rule,
    ...place,
    ...(isSpaced(rule) && sine > 0 ? { spacing: Math.max(tidy(2 * place.radius * sine), 0.001) } : {}),
  }
}

/** An angle brought within half a turn of another. */
const nearTo = (angle: number, other: number) => angle + Math.round((other - angle) / 360) * 360
