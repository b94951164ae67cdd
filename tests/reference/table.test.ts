import fc from 'fast-check'
import Papa from 'papaparse'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { countOf, RULES } from '../../core/arrange/rules'
import { FormatError } from '../../core/formats/format-error'
import {
  CONVENTION_OF,
  fromNumbers,
  toNumbers,
  TURN_FORMS,
  conventionSchema,
} from '../../core/formats/table/convention'
import { readCells, readTable } from '../../core/formats/table/read-table'
import type { TableOptions } from '../../core/formats/table/write-table'
import { tableOptionsSchema, writeTable } from '../../core/formats/table/write-table'
import { applyChange } from '../../core/level/change'
import type { LevelView } from '../../core/scene/level-view'
import { bareView } from '../../core/scene/level-view'
import { anyQuat, anyScale, anyTree, anyVec3, testId, testPlacement } from '../support'

const [CRATE, POLE] = [testId(900), testId(901)]
const kit = [
  { id: CRATE, name: 'Crate', pivot: [0, 0, 0] as [number, number, number] },
  { id: POLE, name: 'Pole', pivot: [0, 0, 0] as [number, number, number] },
]
const nameOf = (id: string) => kit.find(part => part.id === id)!.name
let made = 7000
const newId = () => testId(made++)

async function textOf(level: LevelView, options: Partial<TableOptions> = {}): Promise<string> {
  let text = ''
  await writeTable(level, { ...tableOptionsSchema.parse({}), ...options }, nameOf, piece => void (text += piece))
  return text
}

function importTable(text: string, level: LevelView) {
  const table = readCells(text)
  return readTable(table, table.guess, level, kit, newId)
}

const anyConvention = fc.record({
  up: fc.constantFrom('y' as const, 'z' as const),
  hand: fc.constantFrom('right' as const, 'left' as const),
  unit: fc.constantFrom('m' as const, 'cm' as const, 'ft' as const),
  turn: fc.constantFrom(...TURN_FORMS),
  separator: fc.constantFrom('semicolon' as const, 'tab' as const),
  decimal: fc.constantFrom('point' as const, 'comma' as const),
})

const anyLevel = anyTree(8).map(tree =>
  bareView(
    tree.map((placement, i) => ({
      ...placement,
      pivot: [0, 0, 0] as [number, number, number],
      layerId: i % 3 === 0 ? testId(810) : null,
      ...(i % 2 === 0 ? { kind: 'part' as const, partId: i % 4 === 0 ? CRATE : POLE } : {}),
    })),
    {
      layers: [{ id: testId(810), name: 'Props, small', color: '#0e6e6e', visible: true, locked: false, order: 0 }],
    },
  ),
)

const near = (a: Matrix4, b: Matrix4) =>
  Math.max(...a.elements.map((value, i) => Math.abs(value - b.elements[i]!))) / Math.max(1, ...b.elements.map(Math.abs))

describe('the numbers of a table', () => {
  it('are those of other axes: a metre up, forwards and to the right in each convention', () => {
    const at = (x: number, y: number, z: number, convention: object) => {
      const { x: a, y: b, z: c } = toNumbers(new Matrix4().makeTranslation(x, y, z), conventionSchema.parse(convention))
      return [a, b, c]
    }
    // Right-handed axes keep X × Y = Z: with Z upwards, what came along +Z goes along -Y (common practice).
    expect(at(0, 1, 0, { up: 'z' })).toEqual([0, 0, 1])
    expect(at(0, 0, 1, { up: 'z' })).toEqual([0, -1, 0])
    expect(at(0, 1, 2, { hand: 'left', unit: 'cm' })).toEqual([0, 100, -200])
    expect(at(3, 1, 2, { up: 'z', hand: 'left' })).toEqual([3, 2, 1])
  })

  it('turn the other way round in axes of the left hand', () => {
    const quarter = new Matrix4().makeRotationY(Math.PI / 2)
    expect(toNumbers(quarter, conventionSchema.parse({})).ry).toBeCloseTo(90, 9)
    expect(toNumbers(quarter, conventionSchema.parse({ hand: 'left' })).ry).toBeCloseTo(-90, 9)
    expect(toNumbers(quarter, conventionSchema.parse({ up: 'z' })).rz).toBeCloseTo(90, 9)
  })

  it('are the same matrix again, whatever the convention', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyScale, anyConvention, (place, turn, size, convention) => {
        const given = conventionSchema.parse(convention)
        const matrix = new Matrix4().compose(new Vector3(...place), new Quaternion(...turn), new Vector3(...size))
        expect(near(fromNumbers(toNumbers(matrix, given), given), matrix)).toBeLessThan(1e-9)
      }),
    )
  })

  it('hold the whole of a skewed matrix as a matrix', () => {
    const given = conventionSchema.parse({ turn: 'matrix', up: 'z', hand: 'left', unit: 'in' })
    const skewed = new Matrix4().set(1, 0.3, 0, 5, 0, 2, -0.2, 1, 0.1, 0, 1, 3, 0, 0, 0, 1)
    expect(near(fromNumbers(toNumbers(skewed, given), given), skewed)).toBeLessThan(1e-12)
  })
})

describe('a level as a table and back', () => {
  it('is the same: ids, names, parts, layers, what hangs from what, and every matrix', async () => {
    await fc.assert(
      fc.asyncProperty(anyLevel, anyConvention, async (level, convention) => {
        const text = await textOf(level, { ...convention, space: 'parent' })
        const back = bareView()
        const { operations, errors, added } = importTable(text, back)
        expect([errors, added]).toEqual([[], level.size])
        applyChange(back, operations)
        for (const before of level.placements()) {
          const after = back.need(before.id)
          expect([
            after.name,
            after.kind,
            after.partId,
            after.parentId,
            after.layerId && back.layers.get(after.layerId)!.name,
          ]).toEqual([before.name, before.kind, before.partId, before.parentId, before.layerId && 'Props, small'])
          expect(near(back.worldMatrix(before.id), level.worldMatrix(before.id))).toBeLessThan(1e-6)
        }
        // Brought in again, nothing differs.
        const again = importTable(text, level)
        expect([again.operations, again.same]).toEqual([[], level.size])
      }),
      { numRuns: 60 },
    )
  })

  it('says where every copy is as well, and leaves those to their rule when it comes back', async () => {
    const level = bareView([
      testPlacement(1, {
        kind: 'arrangement',
        own: { rule: { ...RULES.line.first, count: 3 }, exceptions: { 1: { hidden: true } } },
        translation: [1, 0, 0],
      }),
      testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1) }),
    ])
    const text = await textOf(level, { copies: true })
    const { data } = Papa.parse<string[]>(text.replace(/^#[^\n]*\n/, ''), { skipEmptyLines: true })
    expect(data.slice(1).map(([id, , , part]) => [id!.split('#')[1] ?? null, part])).toEqual([
      [null, ''],
      ['0', 'Crate'],
      ['2', 'Crate'],
      [null, 'Crate'],
    ])
    expect(importTable(text, level)).toMatchObject({ operations: [], copies: 2, same: 2, errorCount: 0 })
  })

  it('holds the world matrix of everything, copies and skewed ones too, as it is seen', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(RULES.line.first, RULES.ring.first, RULES.grid.first),
        anyQuat,
        anyScale,
        anyScale,
        async (rule, rotation, scale, inner) => {
          const level = bareView([
            testPlacement(1, { kind: 'arrangement', own: { rule }, rotation, scale, translation: [1, 2, 3] }),
            testPlacement(2, {
              kind: 'part',
              partId: CRATE,
              parentId: testId(1),
              scale: inner,
              rotation,
              pivot: [0.1, 0, 0.2],
            }),
          ])
          const text = await textOf(level, { copies: true, turn: 'matrix', up: 'z', hand: 'left', unit: 'cm' })
          const [headings, ...rows] = Papa.parse<string[]>(text.replace(/^#[^\n]*\n/, ''), {
            skipEmptyLines: true,
          }).data
          const given = conventionSchema.parse({ turn: 'matrix', up: 'z', hand: 'left', unit: 'cm' })
          expect(rows.length).toBe(2 + countOf(rule))
          for (const row of rows) {
            const numbers = Object.fromEntries(headings!.map((heading, i) => [heading, Number(row[i])]))
            expect(near(fromNumbers(numbers, given), level.worldMatrix(row[0]!))).toBeLessThan(1e-9)
          }
        },
      ),
      { numRuns: 30 },
    )
  })

  it('updates by id what its columns give, and leaves the rest; adds rows without one', () => {
    const level = bareView([
      testPlacement(1, {
        kind: 'part',
        partId: CRATE,
        translation: [1, 2, 3],
        rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
      }),
    ])
    const { operations, updated, added } = importTable(
      `id;name;part;x;y\n${testId(1)};;;7,5;\n;New pole;pole;1,25;0\n`,
      level,
    )
    expect([updated, added]).toEqual([1, 1])
    applyChange(level, operations)
    expect(level.need(testId(1)).translation.map(value => Math.round(value * 1e9) / 1e9)).toEqual([7.5, 2, 3])
    expect(Math.abs(level.need(testId(1)).rotation[1])).toBeCloseTo(Math.SQRT1_2, 12)
    const fresh = [...level.placements()].find(({ name }) => name === 'New pole')!
    expect([fresh.partId, fresh.translation]).toEqual([POLE, [1.25, 0, 0]])
  })
})

describe('reading cells', () => {
  it('is that of RFC 4180, section 2: quotes, quotes in quotes, separators and line ends within, with or without an end of line', () => {
    for (const [text, expected] of [
      ['name,x\r\n"aaa",1\r\n', [['aaa', '1']]],
      ['name,x\r\n"b ""CRLF"" bb",2', [['b "CRLF" bb', '2']]],
      [
        'name,x\r\n"a,b",3\r\n"c\r\nd",4\r\n',
        [
          ['a,b', '3'],
          ['c\r\nd', '4'],
        ],
      ],
    ] as const) {
      expect(readCells(text).rows.map(({ cells }) => cells)).toEqual(expected)
      expect(Papa.parse<string[]>(text, { skipEmptyLines: true }).data.slice(1)).toEqual(expected)
    }
  })

  it('knows other names for columns, and what separates them', () => {
    expect(readCells('Label\tPos X\tPosition_Y\tLoc (Z)\tYaw\n').guess.columns).toEqual(['name', 'x', 'y', null, 'ry'])
    expect(readCells('a;b\n1,5;2,5\n').headings).toEqual(['a', 'b'])
    // What somebody writes stands where the table says nothing.
    const z = (text: string) => readCells(text, CONVENTION_OF.z).guess
    expect([z('name,x\n'), z('# up=y turn=XYZ\nname,x\n'), z('name,qw\n')]).toMatchObject([
      { up: 'z', turn: 'ZXY' },
      { up: 'y', turn: 'XYZ' },
      { up: 'z', turn: 'quaternion' },
    ])
  })

  it('says on which line and in which column something is wrong, counted as in the file', () => {
    const level = bareView()
    const text = `# a comment\n# another\nname,part,x,sx\n"two\nlines",Crate,1,1\nBad,Crate,1;2,1\nFlat,Crate,0,0\nLost,Nothing,0,1\nFar,Crate,1e12,1\n`
    const { errors, unmatched } = importTable(text, level)
    expect(errors.map(({ line, column, message }) => [line, column, message])).toEqual([
      [6, 3, '"1;2" is no number'],
      [7, 4, 'has no size'],
      [8, 2, 'is the name of no part of the kit'],
      [9, 3, expect.any(String)],
    ])
    expect(unmatched).toEqual([{ name: 'Nothing', rows: 1, candidates: [] }])
  })

  it('takes two rows with one new id as one thing, of which the later says what it says', () => {
    const level = bareView()
    const [one, two] = [testId(5001), testId(5002)]
    const { operations, joined, added, errors } = importTable(
      `id,name,part,x,y\n${one},One,Crate,1,2\n${two},Two,Crate,3,4\n${one.toUpperCase()},,,9,\n`,
      level,
    )
    expect([errors, joined, added]).toEqual([[], 1, 2])
    applyChange(level, operations)
    expect([level.size, level.need(one).name, level.need(one).translation]).toEqual([2, 'One', [9, 2, 0]])
    // One that is there already is meant, in whatever letters its id is written.
    const again = importTable(`id,x\n${one.toUpperCase()},5\n`, level)
    expect([again.added, again.updated]).toEqual([0, 1])
  })

  it('refuses names that are too long, wherever they are', () => {
    const level = bareView([testPlacement(1)])
    const long = 'n'.repeat(201)
    for (const text of [`name,x\n${long},1\n`, `id,name\n${testId(1)},${long}\n`, `name,layer\nA,${long}\n`]) {
      expect(importTable(text, level).errors).toEqual([
        expect.objectContaining({ line: 2, message: 'must be at most 200 characters' }),
      ])
    }
    expect(importTable(`name,layer\n${'n'.repeat(200)},${'l'.repeat(200)}\n`, level).errors).toEqual([])
  })

  it('refuses what is none, and never does more than that', () => {
    for (const text of [
      `name\n${','.repeat(5_000_000)}`,
      '',
      '   \n\n',
      'a\u0000b,c\n',
      '# only a comment\n',
      '"open quote,1\n',
    ])
      expect(() => readCells(text)).toThrow(FormatError)
    fc.assert(
      fc.property(
        fc.array(
          fc.constantFrom('"', ',', ';', '\n', '#', 'x', '1', '-', '=', '\r', '\t', 'é', '1e999', 'NaN', testId(1)),
          { maxLength: 60 },
        ),
        pieces => {
          try {
            importTable(`id,name,part,x,y\n${pieces.join('')}`, bareView([testPlacement(1)]))
          } catch (error) {
            if (!(error instanceof FormatError)) throw error
          }
        },
      ),
      { numRuns: 500 },
    )
  })
})

describe('cells', () => {
  it('that a spreadsheet would take for formulas are text, and come back as they were; negative numbers stay numbers', async () => {
    const level = bareView([
      testPlacement(1, { name: '=HYPERLINK("x")', translation: [-1.5, 0, 0] }),
      testPlacement(2, { name: '-2+3' }),
      testPlacement(3, { name: '@x' }),
      testPlacement(4, { name: "'=x" }),
    ])
    for (const decimal of ['point', 'comma'] as const) {
      const text = await textOf(level, { separator: 'semicolon', decimal })
      expect(text).not.toMatch(/(^|;|")[=@]/m)
      expect(text).toContain(decimal === 'comma' ? ';-1,5;' : ';-1.5;')
      const back = bareView()
      applyChange(back, importTable(text, back).operations)
      expect([...back.placements()].map(({ name }) => name)).toEqual(['=HYPERLINK("x")', '-2+3', '@x', "'=x"])
    }
  })
})
