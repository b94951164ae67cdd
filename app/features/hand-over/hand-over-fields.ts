import type { Field } from '~~/core/units/field'
import { choiceField, numberField, switchField } from '~~/core/units/field'
import type { FormatName } from '~~/core/formats/formats'
import { TEXT_COLUMNS } from '~~/core/formats/table/columns'
import { EULER_ORDERS, TABLE_UNITS } from '~~/core/formats/table/convention'
import { VIEW_NAMES, VIEWS } from '~~/core/formats/plan/view'

/** One choice of a format as a form has it, and what stands at first; its values are those of the address. */
export type HandOverField = Field & { first: string | null }

const tick = (key: string, label: string, first: boolean): HandOverField => ({
  ...switchField(label, key),
  first: String(first),
})
const choice = (
  key: string,
  label: string,
  options: Record<string, string>,
  first = Object.keys(options)[0]!,
): HandOverField => ({ ...choiceField(label, key, options), first })

const SHARES = { 1: 'as they are', 0.5: 'half', 0.25: 'a quarter', 0.1: 'a tenth' }
const shares = choice(
  'triangles',
  'Triangles',
  { '1': SHARES[1], '0.5': SHARES[0.5], '0.25': SHARES[0.25], '0.1': SHARES[0.1] },
  '1',
)
const what = [tick('blocks', 'Blocks', true), tick('hidden', 'Hidden things', true)]
const usd = [tick('instanced', 'Copies by point instancers', true), shares, ...what]
/** Metres above the ground; null for not at all. */
export const CUT: HandOverField = {
  ...numberField('Cut at', ['cut'], 'length', { empty: 'not cut\u00a0' }),
  first: null,
}

const plan = [
  choice('view', 'Seen', Object.fromEntries(VIEWS.map(view => [view, VIEW_NAMES[view]]))),
  choice(
    'scale',
    'Scale',
    { 'fit': 'fitted', '20': '1:20', '50': '1:50', '100': '1:100', '200': '1:200', '500': '1:500' },
    'fit',
  ),
  choice('paper', 'Paper', { A4: 'A4', A3: 'A3', A2: 'A2', A1: 'A1' }, 'A3'),
  tick('upright', 'Upright', false),
  CUT,
  tick('names', 'Names', true),
  tick('measures', 'Measures', true),
  tick('legend', 'Parts beside', true),
  tick('blocks', 'Blocks', true),
]

/** What can be chosen of each format, beside what of the level. */
export const HAND_OVER_FIELDS: Record<FormatName, HandOverField[]> = {
  glb: [
    tick('instanced', 'Copies as instances, without names', false),
    choice('compression', 'Compression', { none: 'none', meshopt: 'meshopt', draco: 'Draco' }),
    tick('quantised', 'Fewer bits for numbers', false),
    shares,
    choice(
      'merge',
      'Meshes put together',
      {
        0: 'not',
        5: 'in squares of 5 m',
        10: 'in squares of 10 m',
        25: 'in squares of 25 m',
        100: 'in squares of 100 m',
      },
      '0',
    ),
    ...what,
  ],
  usdz: usd,
  usda: usd,
  table: [
    choice('up', 'Points upwards', { y: 'Y', z: 'Z' }),
    choice('hand', 'Axes', { right: 'right-handed', left: 'left-handed' }),
    choice('unit', 'Lengths in', Object.fromEntries(TABLE_UNITS.map(unit => [unit, unit]))),
    choice(
      'turn',
      'Turns',
      {
        ...Object.fromEntries(EULER_ORDERS.map(order => [order, `degrees, ${order.split('').join(' ')}`])),
        quaternion: 'quaternion',
        matrix: 'all as a matrix',
      },
      'YXZ',
    ),
    choice('space', 'Where', { world: 'in the world', parent: 'in what it hangs from' }),
    choice('separator', 'Between columns', { comma: 'comma', semicolon: 'semicolon', tab: 'tab' }),
    choice('decimal', 'Decimals', { point: 'point', comma: 'comma' }),
    {
      type: 'several',
      path: ['columns'],
      label: 'Columns beside the numbers',
      empty: 'all',
      options: TEXT_COLUMNS,
      first: null,
    },
    tick('copies', 'A row for each copy', false),
    ...what,
  ],
  level: [tick('journal', 'With all changes so far', false)],
  svg: plan,
  pdf: [...plan, tick('bill', 'Bill of parts on a page', false)],
  bill: [tick('perLayer', 'By layer', true), ...what],
  notes: [tick('done', 'Those that are done as well', true)],
}
