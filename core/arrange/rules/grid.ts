import { Vector3 } from 'three'
import { z } from 'zod'
import type { Vec3 } from '../../math/vectors'
import { tidy } from '../../units/quantity'
import type { GripDragged, RuleDefinition } from '../definition'
import { BY_ITSELF, STANDS_STRAIGHT } from '../definition'
import { gapField, riseOver } from '../fields'
import { choiceField, numberField, switchField, threeFields } from '../../units/field'
import { LEVEL_AXES } from '../../units/height'
import { gridKeys } from '../keys'
import type { Out } from '../matrices'
import { writePlace } from '../matrices'
import { count, place, share } from '../numbers'
import { riseOf, riseSchema } from '../rise'

const schema = z.strictObject({
  type: z.literal('grid'),
  /** Along X (columns), Y (layers), Z (rows). */
  counts: z.tuple([count, count, count]),
  /** Between neighbours along X, Y, Z (`gap`: said as what it leaves free), or from the first to the last. */
  spacing: place,
  measure: z.enum(['spacing', 'gap', 'span']),
  /** Shift of every other row, as a share of the spacing along X. */
  stagger: share,
  /** Every other layer is shifted as well, as bricks are laid. */
  bond: z.boolean(),
  centred: z.boolean(),
  rise: riseSchema,
})

export type GridRule = z.infer<typeof schema>

const countOf = ({ counts: [columns, layers, rows] }: GridRule) => columns * layers * rows

/** Copies in rows, columns and layers. The first one of a grid that is not centred is the source as it stands. */
export const grid: RuleDefinition<GridRule> = {
  schema,
  first: {
    type: 'grid',
    counts: [4, 1, 3],
    spacing: [1.5, 1.5, 1.5],
    measure: 'spacing',
    stagger: 0,
    bond: false,
    centred: false,
    rise: { by: 'rows', height: 0, every: 1 },
  },
  sideBySide: (rule, size) => ({
    ...rule,
    spacing: rule.spacing.map((spacing, axis) => (size[axis]! > 0 ? tidy(size[axis]!) : spacing)) as Vec3,
  }),
  name: 'Grid',
  countedBy: 'counts',
  count: countOf,
  most: countOf,
  firstBeyond: () => null,
  write,
  keys: ({ counts }) => gridKeys(...counts),
  nameOf: (_, [row, column, layer]) => `row ${row + 1}, column ${column + 1}${layer > 0 ? `, layer ${layer + 1}` : ''}`,
  grips: rule => [{ at: lastPlace(rule) }],
  drag,
  gripsOnSurface: false,
  gripText: ({ measure, spacing }, length, axes) =>
    `${measure === 'span' ? 'span' : 'spacing'} ${axes.numbers(spacing).map(length).join(' × ')}`,
  aroundMiddle: null,
  keepsSources: false,
  remarks: () => [],
  ...STANDS_STRAIGHT,
  ...BY_ITSELF,
  fields: ({ measure }) => [
    numberField('Columns', ['counts', 0], 'count', { axis: 0 }),
    numberField('Layers', ['counts', 1], 'count', { axis: 1 }),
    numberField('Rows', ['counts', 2], 'count', { axis: 2 }),
    choiceField('By', 'measure', { spacing: 'spacing', gap: 'gap', span: 'span, both ends' }),
    ...(measure === 'gap'
      ? LEVEL_AXES.map(axis => gapField(`Gap ${'XYZ'[axis]}`, ['spacing', axis], [axis], axis))
      : threeFields(measure === 'span' ? 'Span' : 'Spacing', 'spacing', 'length')),
    numberField('Stagger odd rows', ['stagger'], 'share'),
    switchField('Odd layers as well (running bond)', 'bond'),
    switchField('Centred', 'centred'),
    riseOver(['counts', 2]),
  ],
}

function write(rule: GridRule, out: Out): void {
  const {
    counts: [columns, layers, rows],
    stagger,
    bond,
    centred,
  } = rule
  const [dx, dy, dz] = rule.spacing.map((value, axis) =>
    rule.measure !== 'span' ? value : value / Math.max(rule.counts[axis]! - 1, 1),
  ) as Vec3
  const [left, low, back] = centred
    ? [((columns - 1) * dx) / 2, ((layers - 1) * dy) / 2, ((rows - 1) * dz) / 2]
    : [0, 0, 0]
  const heightOf = riseOf(rule.rise, { rows, columns, layers, count: countOf(rule) })
  const perCopy = rule.rise.by === 'expression'
  let i = 0
  for (let row = 0; row < rows; row++) {
    const rowHeight = perCopy ? 0 : heightOf(row, 0, 0, i)
    for (let layer = 0; layer < layers; layer++) {
      const odd = (row + (bond ? layer : 0)) % 2
      const [first, y, depth] = [odd * stagger * dx - left, layer * dy + rowHeight - low, row * dz - back]
      for (let column = 0; column < columns; column++, i++) {
        writePlace(out, i, column * dx + first, perCopy ? y + heightOf(row, column, layer, i) : y, depth)
      }
    }
  }
}

/** The last copy of a grid that is not staggered. */
function lastPlace(rule: GridRule): Vector3 {
  const { counts, spacing, measure, centred, rise } = rule
  const [columns, layers, rows] = counts
  const copies = countOf(rule)
  const span = new Vector3(...spacing).multiply(
    measure === 'span'
      ? new Vector3(...counts.map(value => (value > 1 ? 1 : 0)))
      : new Vector3(columns - 1, layers - 1, rows - 1),
  )
  if (centred) span.divideScalar(2)
  return span.add(
    new Vector3(
      0,
      riseOf(rise, { rows, columns, layers, count: copies })(rows - 1, columns - 1, layers - 1, copies - 1),
      0,
    ),
  )
}

/** The far grip changes the spacing, or the span. */
function drag(rule: GridRule, _index: number, to: Vector3): GripDragged<GridRule> {
  const moved = to.clone().sub(lastPlace(rule))
  const spacing = rule.spacing.map((value, axis) => {
    const steps = rule.measure === 'span' ? 1 : rule.counts[axis]! - 1
    if (rule.counts[axis] === 1) return value
    return tidy(value + (moved.getComponent(axis) / steps) * (rule.centred ? 2 : 1))
  }) as Vec3
  return { rule: { ...rule, spacing } }
}
