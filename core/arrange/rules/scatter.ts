import { Vector3 } from 'three'
import type { Vec3 } from '../../math/vectors'
import { tidy } from '../../units/quantity'
import type { RuleDefinition, RuleGrip } from '../definition'
import { STANDS_STRAIGHT } from '../definition'
import type { RuleField } from '../fields'
import { choiceField, numberField, switchField } from '../../units/field'
import { dealtKeys, nameOfDealt } from '../scatter/keys'
import type { Area, ScatterRule } from '../scatter/rule'
import { scatterSchema } from '../scatter/rule'

/**
 * Many parts over surfaces. By itself it makes nothing: what it deals depends on the surfaces it lies on, and is worked
 * out with them.
 */
export const scatter: RuleDefinition<ScatterRule> = {
  schema: scatterSchema,
  first: {
    type: 'scatter',
    seed: 1,
    on: [],
    plane: false,
    facing: 'above',
    areas: [],
    measure: 'density',
    count: 100,
    density: 1,
    apart: 0,
    keepRoom: true,
    spread: 'free',
    clump: { size: 2, share: 0.8 },
    mix: [],
    limits: [],
    paint: { begins: 'everywhere', strokes: [] },
  },
  sideBySide: rule => rule,
  name: 'Scatter',
  countedBy: 'count',
  count: () => 0,
  most: ({ measure, count }) => (measure === 'count' ? count : 0),
  firstBeyond: () => null,
  write: () => {},
  keys: () => dealtKeys(null),
  nameOf: (_rule, place) => nameOfDealt(place),
  grips,
  drag: (rule, index, to) => ({ rule: dragPoint(rule, index, to) }),
  gripsOnSurface: true,
  gripText: () => '',
  aroundMiddle: null,
  keepsSources: false,
  remarks: () => [],
  ...STANDS_STRAIGHT,
  scattered: rule => rule,
  refersTo: ({ on, limits }) => [
    ...on.map(({ id }) => id),
    ...limits.flatMap(limit => (limit.type === 'things' && limit.which.by === 'chosen' ? limit.which.ids : [])),
  ],
  referringTo: (rule, idOf) => ({
    ...rule,
    on: rule.on.map(each => ({ ...each, id: idOf(each.id) })),
    mix: rule.mix.map(each => ({ ...each, source: idOf(each.source) })),
    limits: rule.limits.map(limit =>
      limit.type === 'things' && limit.which.by === 'chosen'
        ? { ...limit, which: { ...limit.which, ids: limit.which.ids.map(idOf) } }
        : limit,
    ),
  }),
  fields,
}

/** Each corner of each area, and one between each two, which makes a new one. */
function grips({ areas }: ScatterRule): RuleGrip[] {
  return areas.flatMap(area => [
    ...area.points.map((point): RuleGrip => ({ at: new Vector3(...point) })),
    ...sidesOf(area).map(([a, b]): RuleGrip => ({ at: new Vector3(...a).lerp(new Vector3(...b), 0.5), between: true })),
  ])
}

const sidesOf = ({ type, points }: Area): [Vec3, Vec3][] =>
  points
    .slice(type === 'loop' ? 0 : 1)
    .map((_, i) => (type === 'loop' ? [points[i]!, points[(i + 1) % points.length]!] : [points[i]!, points[i + 1]!]))

function dragPoint(rule: ScatterRule, index: number, to: Vector3): ScatterRule {
  let first = 0
  const point = to.toArray().map(tidy) as Vec3
  return {
    ...rule,
    areas: rule.areas.map(area => {
      const at = index - first
      const [corners, sides] = [area.points.length, sidesOf(area).length]
      first += corners + sides
      if (at < 0 || at >= corners + sides) return area
      return {
        ...area,
        points: at < corners ? area.points.with(at, point) : area.points.toSpliced(at - corners + 1, 0, point),
      }
    }),
  }
}

function fields({ measure, spread, keepRoom }: ScatterRule): RuleField[] {
  return [
    choiceField('Measured by', 'measure', { density: 'so many per m²', count: 'a count' }),
    measure === 'count' ? numberField('Count', ['count'], 'count') : numberField('Per m²', ['density'], 'number'),
    choiceField('Spread', 'spread', { free: 'free', even: 'evenly', clumps: 'in clumps' }),
    ...(spread === 'clumps'
      ? [
          numberField('Clumps across', ['clump', 'size'], 'length'),
          numberField('Share in clumps', ['clump', 'share'], 'share'),
        ]
      : []),
    numberField(keepRoom ? 'At least apart' : 'Smallest distance', ['apart'], 'length'),
    switchField('No two overlap', 'keepRoom'),
    choiceField('Seen', 'facing', { above: 'from above', normals: 'from every side' }),
  ]
}
