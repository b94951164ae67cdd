import { Vector3 } from 'three'
import type { Vec3 } from '../../math/vectors'
import { tidy } from '../../units/quantity'
import type { RuleDefinition, RuleGrip } from '../definition'
import { BY_ITSELF } from '../definition'
import type { RuleField } from '../fields'
import { gapField } from '../fields'
import { choiceField, numberField, switchField } from '../../units/field'
import type { CopyKeys, CopyPlace } from '../keys'
import { checked, lastAtMost, lineKeys, numbersOf } from '../keys'
import { writeMatrix } from '../matrices'
import { writeCopies } from '../path/copies'
import { PathCurve } from '../path/curve'
import { settle } from '../path/ground'
import { countOnPath, hasCorners, isStraight, layoutOfPath, mostOnPath } from '../path/layout'
import type { PathRule } from '../path/rule'
import { pathSchema } from '../path/rule'

/** The least spacing, in metres. */
const LEAST = 0.01

/** Copies, or pieces end to end, along a path through points. */
export const path: RuleDefinition<PathRule> = {
  schema: pathSchema,
  first: {
    type: 'path',
    points: [
      [0, 0, 0],
      [6, 0, 0],
    ],
    smooth: true,
    closed: false,
    measure: 'count',
    count: 7,
    spacing: 1,
    begins: -0.5,
    fitted: true,
    stand: 'upright',
    hug: false,
    offset: 0,
    turn: 0,
    bent: false,
  },
  sideBySide: (rule, size) => ({ ...rule, spacing: size[0] >= LEAST ? tidy(size[0]) : rule.spacing }),
  name: 'Path',
  countedBy: 'count',
  count: countOnPath,
  most: mostOnPath,
  firstBeyond: () => null,
  write: (rule, out) => writeCopies(rule, (i, matrix) => writeMatrix(out, i, matrix)),
  keys: rule => (hasCorners(rule) ? corneredKeys(rule) : lineKeys(countOnPath(rule))),
  nameOf: (rule, [row, column, layer]) =>
    !hasCorners(rule)
      ? `copy ${column + 1}`
      : layer === CORNER
        ? `corner ${row + 1}`
        : `stretch ${row + 1}, piece ${column + 1}`,
  grips,
  drag: (rule, index, to) => ({ rule: dragPoint(rule, index, to) }),
  gripsOnSurface: true,
  gripText: () => '',
  aroundMiddle: null,
  keepsSources: false,
  hugsGround: rule => rule.hug,
  settle,
  remarks: (rule, length) => {
    if (rule.measure !== 'ends') return []
    const { curve, miss } = layoutOfPath(rule)
    return [
      ...(Math.abs(miss) > 1e-3
        ? [
            `No number of whole pieces ends where the path does; the last one ends ${length(Math.abs(miss))} ${miss > 0 ? 'beyond' : 'before'} it.`,
          ]
        : []),
      ...(curve.isFlat && rule.points.some(([, y]) => y !== rule.points[0]![1])
        ? ['Upright pieces are measured in plan, so that they meet on a slope.']
        : []),
    ]
  },
  bentAlong: rule => (rule.measure === 'ends' && rule.bent ? rule : null),
  ...BY_ITSELF,
  fields,
}

/** The path without a point; null if too few would be left. */
export function withoutPoint(rule: PathRule, index: number): PathRule | null {
  return rule.points.length > 2 && index < rule.points.length
    ? { ...rule, points: rule.points.toSpliced(index, 1) }
    : null
}

/** Each point, and one between each two, which makes a new point. */
function grips(rule: PathRule): RuleGrip[] {
  const curve = new PathCurve(rule)
  const ways = curve.wayOfGiven()
  const ends = [...ways.slice(1), ...(rule.closed && rule.points.length > 2 ? [curve.length] : [])]
  return [
    ...rule.points.map(point => ({ at: new Vector3(...point) })),
    ...ends.map((end, i) => ({ at: curve.at((ways[i]! + end) / 2), between: true as const })),
  ]
}

function dragPoint(rule: PathRule, index: number, to: Vector3): PathRule {
  const [many, point] = [rule.points.length, to.toArray().map(tidy) as Vec3]
  return {
    ...rule,
    points: index < many ? rule.points.with(index, point) : rule.points.toSpliced(index - many + 1, 0, point),
  }
}

/** The layer of corners: they are beside the stretches, by the number of their point. */
const CORNER = 1

/** Keys are `stretch,place,0`, and `point,0,1` at corners. */
function corneredKeys(rule: PathRule): CopyKeys {
  const { curve, runs, pieces, corners } = layoutOfPath(rule)
  const starts = runs.map(run => run.first)
  const count = pieces + corners.length
  const at = (index: number): CopyPlace => {
    if (index >= pieces) return [corners[index - pieces]!, 0, CORNER]
    const stretch = lastAtMost(starts, index)
    return [stretch, index - starts[stretch]!, 0]
  }
  return {
    count,
    at,
    partAt: index => {
      if (index >= pieces) return 'corner'
      // Round a closed path there is no end.
      if (curve.isRound) return 'middle'
      return index === 0 ? 'first' : index === pieces - 1 ? 'last' : 'middle'
    },
    keyAt: index => at(index).join(','),
    indexOf: key =>
      checked(numbersOf(key, 3), count, ([row, column, layer]) => {
        if (layer === CORNER) return column === 0 && corners.includes(row!) ? pieces + corners.indexOf(row!) : count
        const end = starts[row! + 1] ?? pieces
        return layer === 0 && row! < starts.length && starts[row!]! + column! < end ? starts[row!]! + column! : count
      }),
  }
}

function fields(rule: PathRule): RuleField[] {
  const { measure, closed, corners } = rule
  return [
    choiceField('By', 'measure', {
      count: 'count',
      spacing: 'spacing',
      gap: 'gap',
      fit: 'as many as fit',
      points: 'one at each point',
      ends: 'end to end',
    }),
    ...(measure === 'count' ? [numberField('Count', ['count'], 'count')] : []),
    ...(measure === 'gap' ? [gapField('Gap', ['spacing'], [0])] : []),
    ...(measure === 'spacing' || measure === 'fit'
      ? [numberField(measure === 'fit' ? 'At least apart' : 'Spacing', ['spacing'], 'length')]
      : []),
    ...(measure === 'ends'
      ? [
          numberField('Length of a piece', ['spacing'], 'length'),
          numberField('It begins at', ['begins'], 'length'),
          switchField('Fit whole pieces', 'fitted'),
          switchField('Bend them along the path', 'bent'),
          ...(isStraight(rule) ? [switchField('A part at each corner', ['corners'], { room: 0, ends: false })] : []),
          ...(hasCorners(rule) && corners
            ? [
                numberField('Room at corners', ['corners', 'room'], 'length'),
                ...(closed ? [] : [switchField('At both ends as well', ['corners', 'ends'])]),
              ]
            : []),
        ]
      : []),
    switchField('Smooth', 'smooth'),
    switchField('Closed', 'closed'),
    choiceField('They stand', 'stand', {
      upright: 'upright',
      banked: 'with the slope',
      surface: 'with the ground',
      kept: 'as they are',
    }),
    switchField('Hug the ground', 'hug'),
    numberField('To the right', ['offset'], 'length'),
    numberField('Turned by', ['turn'], 'angle'),
  ]
}
