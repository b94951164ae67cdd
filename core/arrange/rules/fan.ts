import { Vector3 } from 'three'
import { z } from 'zod'
import type { Vec3 } from '../../math/vectors'
import { tidy } from '../../units/quantity'
import type { GripDragged, RuleDefinition, RuleGrip } from '../definition'
import { BY_ITSELF, STANDS_STRAIGHT } from '../definition'
import type { RuleField } from '../fields'
import { FACING, gapField, riseOver, withOtherwise } from '../fields'
import { choiceField, numberField } from '../../units/field'
import { rowKeys } from '../keys'
import type { Out } from '../matrices'
import { AroundAxis, SteadyTurn } from '../matrices'
import {
  count,
  degrees,
  facing,
  FARTHEST,
  gapsAlong,
  isFullTurn,
  metres,
  MOST_COPIES,
  roundRadius,
  share,
} from '../numbers'
import { riseOf, riseSchema } from '../rise'

const schema = z.strictObject({
  type: z.literal('fan'),
  rows: count,
  /** Copies in the first row. */
  first: count,
  /** Of the first row, from the middle, and what each further row adds. */
  radius: metres,
  depth: metres,
  /** Degrees that the rows span about the vertical, in the middle of which lies +Z. */
  arc: degrees,
  /**
   * The first row's radius is given, or follows from its count and `spacing`, also said as the `gap` that it leaves.
   */
  measure: z.enum(['radius', 'spacing', 'gap']).optional(),
  /** Metres along the arc from one copy to the next; for `fit` at least. */
  spacing: metres.min(0.001, 'must be at least 1 mm').optional(),
  /**
   * The same count in each row; as many as stand at the first row's spacing along the arc; as given; or as many as fit
   * at `spacing`.
   */
  counts: z.enum(['same', 'spacing', 'given', 'fit']),
  /** For `given`: of each row; rows beyond the last one have as many as that. */
  given: z.array(count).min(1, 'needs a number').max(1000, 'may have 1000 numbers'),
  /** Shift of every other row, as a share of the spacing along its arc. */
  stagger: share,
  facing,
  rise: riseSchema,
})

export type FanRule = z.infer<typeof schema>

/** Copies in arcs around a middle, one behind the other. */
export const fan: RuleDefinition<FanRule> = {
  schema,
  first: {
    type: 'fan',
    rows: 4,
    first: 9,
    radius: 5,
    depth: 1.2,
    arc: 120,
    counts: 'same',
    given: [9],
    stagger: 0,
    facing: 'in',
    rise: { by: 'rows', height: 0.3, every: 1 },
  },
  sideBySide,
  name: 'Fan',
  countedBy: 'rows',
  count: countOf,
  most: countOf,
  firstBeyond: () => null,
  write,
  keys: rule => rowKeys(rowStarts(rule), countOf(rule)),
  nameOf: (_, [row, column]) => `row ${row + 1}, column ${column + 1}`,
  grips,
  drag,
  gripsOnSurface: false,
  gripText: (rule, length) =>
    `radius ${length(radiusOf(rule))}  depth ${length(rule.depth)}  arc ${rule.arc.toFixed(1)}°`,
  aroundMiddle: (rule, { x, z: depth }) => withRadius(rule, tidy(Math.hypot(x, depth))),
  keepsSources: false,
  remarks: () => [],
  ...STANDS_STRAIGHT,
  ...BY_ITSELF,
  fields,
}

function fields(rule: FanRule): RuleField[] {
  const { counts, measure } = rule
  const now = asItStands(rule)
  return [
    numberField('Rows', ['rows'], 'count'),
    ...(counts === 'given' || (counts === 'fit' && !isSpaced(rule))
      ? []
      : [numberField('In first row', ['first'], 'count')]),
    withOtherwise(
      choiceField(
        'Radius by',
        'measure',
        { radius: 'length', spacing: 'spacing in the first row', gap: 'gap in the first row' },
        { also: { radius: now, spacing: now, gap: now } },
      ),
      'radius',
    ),
    ...(isSpaced(rule) ? [] : [numberField('First radius', ['radius'], 'length')]),
    ...(measure === 'gap' ? [withOtherwise(gapField('Gap', ['spacing'], [0]), SPACING)] : []),
    ...(measure === 'spacing' || (counts === 'fit' && measure !== 'gap')
      ? [
          withOtherwise(
            numberField(measure === 'spacing' ? 'Spacing' : 'At least apart', ['spacing'], 'length'),
            SPACING,
          ),
        ]
      : []),
    measure === 'gap' ? gapField('Gap of rows', ['depth'], [2]) : numberField('Row depth', ['depth'], 'length'),
    numberField('Arc', ['arc'], 'angle'),
    choiceField(
      'Further rows',
      'counts',
      { same: 'as many', spacing: 'as far apart', fit: 'as many as fit', given: 'as given' },
      { also: { fit: now } },
    ),
    ...(counts === 'given' ? [{ type: 'counts' as const, label: 'In each row', path: ['given'] }] : []),
    numberField('Stagger odd rows', ['stagger'], 'share'),
    FACING,
    riseOver(['rows']),
  ]
}

/** A fan that says how far apart its copies are, but not how far that is. */
const SPACING = 1

/** With rows so far apart that the corners of one stay clear of the fronts of the next, which look another way. */
function sideBySide(rule: FanRule, [wide, , deep]: Vec3): FanRule {
  const radius = Math.max(rule.radius, tidy(roundRadius(rowOf(rule, 0).pitch, [wide], deep)))
  return {
    ...rule,
    radius,
    depth: Math.max(rule.depth, tidy(Math.hypot(radius + deep / 2, wide / 2) - radius + deep / 2)),
  }
}

/** Whether the first radius follows from how far apart the copies are. */
const isSpaced = ({ measure }: FanRule) => measure === 'spacing' || measure === 'gap'

/** The radius of the first row, in metres. */
function radiusOf(rule: FanRule): number {
  const { radius, first, arc, spacing = SPACING } = rule
  const gaps = gapsAlong(arc, first)
  return isSpaced(rule) && arc !== 0 && gaps > 0
    ? Math.min((spacing * gaps) / Math.abs((arc * Math.PI) / 180), FARTHEST)
    : radius
}

/** Radius, first row and spacing as they come out now, so that another choice goes on from there. */
function asItStands(rule: FanRule): Partial<FanRule> {
  const [radius, first] = [radiusOf(rule), Math.min(rowCount(rule, 0), MOST_COPIES)]
  const gaps = gapsAlong(rule.arc, first)
  return {
    radius: tidy(radius),
    first,
    ...(gaps > 0 ? { spacing: Math.max(tidy(Math.abs((radius * rule.arc * Math.PI) / 180) / gaps), 0.001) } : {}),
  }
}

/** How many copies stand in a row. */
function rowCount(rule: FanRule, row: number): number {
  const { first, counts, given, depth, arc, spacing = SPACING } = rule
  const radius = radiusOf(rule)
  if (counts === 'fit')
    return Math.max(
      1,
      Math.min(
        Math.floor((Math.abs(arc * (radius + row * depth)) * Math.PI) / 180 / spacing + 1e-9)
          + (isFullTurn(arc) ? 0 : 1),
        MOST_COPIES + 1,
      ),
    )
  if (counts === 'given') return given[Math.min(row, given.length - 1)]!
  if (counts === 'same' || first === 1 || radius === 0) return first
  return Math.max(
    1,
    Math.floor(gapsAlong(rule.arc, first) * Math.abs((radius + row * depth) / radius) + 1e-9)
      + (isFullTurn(rule.arc) ? 0 : 1),
  )
}

/** As many as it makes; where that is too many, some number that is. */
function countOf(rule: FanRule): number {
  if (rule.counts === 'same') return rule.rows * rule.first
  let sum = 0
  for (let row = 0; row < rule.rows && sum <= MOST_COPIES; row++) sum += rowCount(rule, row)
  return sum
}

/** The index of the first copy of each row. */
function rowStarts(rule: FanRule): number[] {
  const starts: number[] = []
  for (let row = 0, start = 0; row < rule.rows; row++) {
    starts.push(start)
    start += rowCount(rule, row)
  }
  return starts
}

function write(rule: FanRule, out: Out): void {
  const { rows, depth, facing: looks } = rule
  const radius = radiusOf(rule)
  const perCopy = rule.rise.by === 'expression'
  const heightOf = riseOf(rule.rise, { rows, columns: rule.first, layers: 1, count: perCopy ? countOf(rule) : 0 })
  const around = new AroundAxis(out, 1)
  const side = looks === 'kept' ? 0 : looks === 'in' ? -1 : 1
  let i = 0
  for (let row = 0; row < rows; row++) {
    const { copies, start, pitch } = rowOf(rule, row)
    const far = radius + row * depth
    const rowHeight = perCopy ? 0 : heightOf(row, 0, 0, i)
    const turn = new SteadyTurn(start, pitch)
    for (let column = 0; column < copies; column++, i++) {
      const { cos, sin } = turn.at(column)
      around.write(
        i,
        side === 0 ? 1 : side * cos,
        side * sin,
        1,
        far * cos,
        far * sin,
        perCopy ? heightOf(row, column, 0, i) : rowHeight,
      )
    }
  }
}

/** Where a row begins and how far apart its copies are, in degrees. */
function rowOf(rule: FanRule, row: number): { copies: number; start: number; pitch: number } {
  const copies = rowCount(rule, row)
  const pitch = copies > 1 ? rule.arc / gapsAlong(rule.arc, copies) : 0
  return { copies, pitch, start: (copies > 1 ? -rule.arc / 2 : 0) + (row % 2) * rule.stagger * pitch }
}

/** The first copy of the first row; and behind the middle the last row. */
function grips(rule: FanRule): RuleGrip[] {
  const { depth, rise, rows } = rule
  const radius = radiusOf(rule)
  const last = rows - 1
  const heightOf = riseOf(rise, { rows, columns: rule.first, layers: 1, count: countOf(rule) })
  const angle = (rowOf(rule, 0).start * Math.PI) / 180
  const back =
    rows > 1 ? [{ at: new Vector3(0, heightOf(last, 0, 0, rowStarts(rule)[last]!), radius + last * depth) }] : []
  return [{ at: new Vector3(radius * Math.sin(angle), heightOf(0, 0, 0, 0), radius * Math.cos(angle)) }, ...back]
}

/** The first grip changes radius and arc; the back one the rows' depth. */
function drag(rule: FanRule, index: number, to: Vector3): GripDragged<FanRule> {
  const far = Math.hypot(to.x, to.z)
  if (index === 1) return { rule: { ...rule, depth: tidy((far - radiusOf(rule)) / (rule.rows - 1)) } }
  const angle = (Math.atan2(to.x, to.z) * 180) / Math.PI
  return { rule: withRadius({ ...rule, arc: rowCount(rule, 0) > 1 ? tidy(Math.abs(angle) * 2) : rule.arc }, tidy(far)) }
}

/** With another first radius, and where that follows from the spacing with the spacing that it follows from. */
function withRadius(rule: FanRule, radius: number): FanRule {
  const gaps = gapsAlong(rule.arc, rule.first)
  return {
    ...rule,
    radius,
    ...(isSpaced(rule) && gaps > 0
      ? { spacing: Math.max(tidy(Math.abs((radius * rule.arc * Math.PI) / 180) / gaps), 0.001) }
      : {}),
  }
}
