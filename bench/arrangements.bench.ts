import { Matrix4, Quaternion, Vector3 } from 'three'
import { it } from 'vitest'
import type { Rule } from '../core/arrange/rules'
import type { GridRule } from '../core/arrange/rules/grid'
import { countOf, definitionOf, RULES } from '../core/arrange/rules'
import { createPlacement } from '../core/level/create'
import { bareView } from '../core/scene/level-view'
import { median } from './made-up-level'
import { reportCompared } from './report'

// A million copies of each rule, against a bare loop of three's Matrix4.compose that writes as long an array.
const MILLION = 1_000_000
const [GRID, PART] = ['00000000-0000-7000-8000-000000000001', '00000000-0000-7000-8000-000000000002']

const rules: Record<string, Rule> = {
  'line': { ...RULES.line.first, count: MILLION },
  'line, turned and sized': { ...RULES.line.first, count: MILLION, turn: [0, 1, 0], size: 1.0000001 },
  'line in local axes': { ...RULES.line.first, count: MILLION, turn: [0, 1, 0], axes: 'local' },
  'grid': { ...RULES.grid.first, counts: [1000, 1, 1000], stagger: 0.5, rise: { by: 'rows', height: 0.1, every: 1 } },
  'ring': { ...RULES.ring.first, count: MILLION },
  'grid by an expression': {
    ...RULES.grid.first,
    counts: [1000, 1, 1000],
    rise: { by: 'expression', text: '0.3 * row + 0.1 * random' },
  },
  'path': {
    ...RULES.path.first,
    points: [
      [0, 0, 0],
      [500, 3, 200],
      [900, 0, -300],
      [2000, 5, 0],
    ],
    count: MILLION,
  },
  'fan': { ...RULES.fan.first, rows: 1000, first: 1000 },
}

it('evaluating a million copies', () => {
  const out = new Float64Array(MILLION * 16)
  const [matrix, position, rotation, scale] = [new Matrix4(), new Vector3(), new Quaternion(), new Vector3(1, 1, 1)]
  const bare = median(5, () => {
    for (let i = 0; i < MILLION; i++) {
      matrix.compose(position.set(i, 0, i), rotation, scale)
      matrix.toArray(out as unknown as number[], i * 16)
    }
  })
  const rows = Object.entries(rules).map(([name, rule]) => {
    const time = median(5, () => definitionOf(rule).write(rule, out))
    return { what: `${name}, ${countOf(rule).toLocaleString('en')}`, value: time, against: bare }
  })
  reportCompared({
    topic: 'Repeating and scattering',
    title: 'Copies of an arrangement',
    about:
      'All matrices of a rule worked out, about a million each; the loop composes a million matrices and does nothing else.',
    unit: 'ms',
    reference: 'the bare loop',
    rows: [{ what: 'a bare loop of compose', value: bare }, ...rows],
  })
})

it('the next data after a number of a 100,000-copy grid has changed', () => {
  const rule: GridRule = { ...RULES.grid.first, counts: [250, 4, 100] }
  const out = new Float64Array(100_000 * 16)
  const time = median(40, i => RULES.grid.write({ ...rule, stagger: (i % 2) / 2 }, out))
  const part = createPlacement({ id: PART, name: 'Source', kind: 'part', partId: PART, parentId: GRID })
  const shown = median(20, i => {
    const level = bareView([
      createPlacement({
        id: GRID,
        name: 'Grid',
        kind: 'arrangement',
        own: { rule: { ...rule, stagger: (i % 2) / 2 } },
      }),
      part,
    ])
    level.shapes(GRID)
  })
  const bytes = (of: Rule) => JSON.stringify({ do: 'put', id: '', fields: { own: { rule: of } } }).length
  reportCompared({
    topic: 'Repeating and scattering',
    title: 'A number of a grid of 100,000 copies changes',
    about: `What a step of a count or a spacing takes. The change that is saved has ${bytes(rule)} bytes; for a grid of 12 copies it has ${bytes(RULES.grid.first)}.`,
    unit: 'ms',
    rows: [
      { what: 'the next matrices', value: time },
      { what: 'with their source, as the stage draws them', value: shown },
    ],
  })
})
