import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import Papa from 'papaparse'
import { BoxGeometry, CylinderGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { billCsv, billOf } from '../../core/formats/bill'
import { levelFileJsonSchema } from '../../core/formats/level-file'
import type { PartToHandOver } from '../../core/formats/out/shapes'
import { Scope, WHOLE } from '../../core/formats/out/scope'
import type { PlanOptions } from '../../core/formats/plan/options'
import { PAPERS, planOptionsSchema } from '../../core/formats/plan/options'
import type { Sheet } from '../../core/formats/plan/sheet'
import { planSheet } from '../../core/formats/plan/sheet'
import { writeSvg } from '../../core/formats/plan/svg'
import { RULES } from '../../core/arrange/rules'
import { lightOwn } from '../../core/level/create'
import type { RelationRule } from '../../core/level/relation'
import type { Relation } from '../../core/level/schema'
import { bareView } from '../../core/scene/level-view'
import { testId, testPlacement, testSolid } from '../support'

type Box = { x: number; y: number; z: number; w: number; h: number; d: number }
const fonts = { regular: new Uint8Array(3), bold: new Uint8Array(3) }
const title = { name: 'Quay & <bridge>', date: '2026-11-26', revision: 48 }

function levelOf(boxes: readonly Box[]) {
  const parts = new Map<string, PartToHandOver>()
  const level = bareView(
    boxes.map(({ x, y, z, w, h, d }, i) => {
      const partId = testId(900 + i)
      parts.set(partId, { name: `Box ${i}`, mesh: testSolid(new BoxGeometry(w, h, d).translate(0, h / 2, 0)).mesh })
      return testPlacement(i + 1, { kind: 'part', partId, translation: [x, y, z] })
    }),
  )
  return { level, partOf: (id: string) => parts.get(id) }
}

const sheetOf = ({ level, partOf }: ReturnType<typeof levelOf>, options: Partial<PlanOptions> = {}) =>
  planSheet(level, partOf, { ...planOptionsSchema.parse({}), names: false, ...options }, title)

/** What is drawn of the level, in millimetres. */
const linesOf = ({ groups }: Sheet) =>
  groups
    .filter(({ name }) => !['Sheet', 'Names', 'Measures'].includes(name))
    .flatMap(({ items }) =>
      items.flatMap(item =>
        item.type === 'lines'
          ? Array.from(
              { length: item.at.length / 4 },
              (_, i) => item.at.slice(i * 4, i * 4 + 4) as [number, number, number, number],
            )
          : [],
      ),
    )
const extent = (lines: readonly number[][], axis: 0 | 1) => {
  const all = lines.flatMap(line => [line[axis]!, line[axis + 2]!])
  return Math.max(...all) - Math.min(...all)
}

describe('a plan sheet', () => {
  it('is to scale: a piece of 4 m at 1:100 is 40 mm long on paper, from above and from the side', async () => {
    const made = levelOf([{ x: 0, y: 0, z: 0, w: 4, h: 1.5, d: 2 }])
    for (const [view, wide, high] of [
      ['top', 40, 20],
      ['front', 40, 15],
      ['left', 20, 15],
      ['back', 40, 15],
      ['right', 20, 15],
    ] as const) {
      const lines = linesOf(await sheetOf(made, { view, scale: 100 }))
      expect([view, extent(lines, 0), extent(lines, 1)]).toEqual([
        view,
        expect.closeTo(wide, 6),
        expect.closeTo(high, 6),
      ])
    }
  })

  it('has the sizes of ISO 216, each the half of the one before', async () => {
    const { level, partOf } = levelOf([{ x: 0, y: 0, z: 0, w: 1, h: 1, d: 1 }])
    for (const [paper, [long, short]] of Object.entries(PAPERS)) {
      const sheet = await planSheet(level, partOf, { ...planOptionsSchema.parse({ paper }), upright: true }, title)
      expect([sheet.width, sheet.height]).toEqual([short, long])
      // One square metre halved n times, the sides as 1 to the square root of 2, rounded to whole millimetres.
      const n = Number(paper.slice(1))
      expect(
        [Math.abs(long - 1000 * 2 ** (0.25 - n / 2)), Math.abs(short - 1000 * 2 ** (-0.25 - n / 2))].every(
          off => off < 1,
        ),
      ).toBe(true)
    }
  })

  it('does not show what is hidden, and shows it where what hides it is cut away', async () => {
    const made = levelOf([
      { x: 0, y: 2, z: 0, w: 6, h: 0.2, d: 6 },
      { x: 0.3, y: 0, z: 0.2, w: 1, h: 1, d: 1 },
    ])
    expect(linesOf(await sheetOf(made, { scale: 100 }))).toHaveLength(4)
    const cut = linesOf(await sheetOf(made, { scale: 100, cut: 1.5 }))
    expect([extent(cut, 0), extent(cut, 1)]).toEqual([expect.closeTo(10, 3), expect.closeTo(10, 3)])
    // Cut through, it is drawn where it is cut, with the heaviest line.
    const through = await sheetOf(made, { scale: 100, cut: 0.5 })
    const heavy = through.groups[0]!.items.filter(item => item.type === 'lines' && item.width === 0.5)
    expect(heavy).toHaveLength(1)
  })

  it('shows of boxes what a sum over all of them says is seen: no more, and no less', async () => {
    const side = fc.integer({ min: 2, max: 12 }).map(value => value / 4)
    const box = fc.record({
      x: fc.integer({ min: -12, max: 12 }).map(value => value / 3),
      z: fc.integer({ min: -12, max: 12 }).map(value => value / 3),
      w: side,
      d: side,
    })
    await fc.assert(
      fc.asyncProperty(fc.array(box, { minLength: 2, maxLength: 6 }), async given => {
        // One above the other, so that it is clear which is nearer.
        const boxes = given.map((each, i) => ({ ...each, y: i * 1.5, h: 1 }))
        const sheet = await sheetOf(levelOf(boxes), { scale: 50 })
        const lines = linesOf(sheet)
        const [all] = [
          lines.flatMap(([a, b, c, d]) => [
            [a, b],
            [c, d],
          ]),
        ]
        const [left, top] = [Math.min(...all.map(([x]) => x!)), Math.min(...all.map(([, y]) => y!))]
        const [x0, z0] = [
          Math.min(...boxes.map(({ x, w }) => x - w / 2)),
          Math.min(...boxes.map(({ z, d }) => z - d / 2)),
        ]
        const isDrawn = (x: number, z: number) =>
          lines.some(([ax, ay, bx, by]) => {
            const [px, py] = [left + (x - x0) * 20, top + (z - z0) * 20]
            const [dx, dy] = [bx - ax, by - ay]
            const share = Math.max(0, Math.min(1, ((px - ax) * dx + (py - ay) * dy) / (dx * dx + dy * dy || 1)))
            return Math.hypot(px - ax - share * dx, py - ay - share * dy) < 0.02
          })
        const covers = ({ x, z, w, d }: Box, px: number, pz: number, by: number) =>
          Math.abs(px - x) < w / 2 - by && Math.abs(pz - z) < d / 2 - by
        const onEdge = ({ x, z, w, d }: Box, px: number, pz: number) =>
          Math.abs(px - x) < w / 2 + 0.03
          && Math.abs(pz - z) < d / 2 + 0.03
          && !covers({ x, z, w, d } as Box, px, pz, 0.03)
        for (const [i, { x, z, w, d }] of boxes.entries()) {
          for (let step = 1; step < 20; step++) {
            for (const [px, pz] of [
              [x - w / 2 + (w * step) / 20, z - d / 2],
              [x + w / 2, z - d / 2 + (d * step) / 20],
            ] as const) {
              const above = boxes.slice(i + 1)
              // Right at the edge of another it may be either.
              if (boxes.some((other, k) => k !== i && onEdge(other, px, pz))) continue
              expect(isDrawn(px, pz)).toBe(!above.some(other => covers(other, px, pz, 0)))
            }
          }
        }
      }),
      { numRuns: 40 },
    )
  }, 60_000)

  it('shows the outline of round things only where they turn away', async () => {
    const part: PartToHandOver = {
      name: 'Post',
      mesh: testSolid(new CylinderGeometry(0.5, 0.5, 3, 32).translate(0, 1.5, 0)).mesh,
    }
    const level = bareView([testPlacement(1, { kind: 'part', partId: testId(900) })])
    const front = linesOf(
      await planSheet(
        level,
        () => part,
        { ...planOptionsSchema.parse({ view: 'front', scale: 20 }), names: false },
        title,
      ),
    )
    // Two upright sides; the rims above and below come together as level lines.
    expect(front.filter(([x0, y0, x1, y1]) => Math.abs(x0 - x1) < 1e-6 && Math.abs(y0 - y1) > 100)).toHaveLength(2)
    expect(extent(front, 1)).toBeCloseTo(150, 3)
  })

  it('fits by the largest usual scale of ISO 5455, and says so where a scale is too large', async () => {
    const made = levelOf([{ x: 0, y: 0, z: 0, w: 30, h: 1, d: 5 }])
    const { scale, remarks } = await sheetOf(made)
    expect([scale, remarks]).toEqual([100, []])
    const large = await sheetOf(made, { scale: 20 })
    expect(large.remarks.join()).toContain('1:100 would fit')
    expect(Math.max(...linesOf(large).flatMap(([x0, , x1]) => [x0, x1]))).toBeLessThanOrEqual(420 - 10 - 4 - 62)
  })

  it("has a bar whose length is what it says, an arrow to where the level's sun has north, a name for what is seen, and tapes", async () => {
    const { level, partOf } = levelOf([{ x: 0, y: 0, z: 0, w: 8, h: 1, d: 6 }])
    const sun = lightOwn({
      light: 'sun',
      place: { latitude: 50, longitude: 10, time: '2026-06-21T12:00', zone: 2, north: 90 },
    })
    const end = (x: number) => ({
      at: [x, 1, 0] as [number, number, number],
      on: null,
      point: [x, 1, 0] as [number, number, number],
    })
    const whole = bareView([...level.placements(), testPlacement(20, { kind: 'light', own: sun })], {
      measures: [
        {
          id: testId(50),
          name: 'Tape 1',
          order: 0,
          hidden: false,
          kind: 'tape',
          ends: [end(-4), end(4)],
          sides: [],
          connected: false,
        },
      ],
    })
    const sheet = await planSheet(whole, partOf, planOptionsSchema.parse({ scale: 100 }), title)
    const texts = sheet.groups.flatMap(({ items }) => items.flatMap(item => (item.type === 'text' ? [item] : [])))
    const [none, most] = [
      texts.find(({ text }) => text === '0' && true)!,
      texts.find(({ text }) => / m$/.test(text) && Number.parseFloat(text) > 0 && text.length < 6)!,
    ]
    expect(((most.x - none.x) * 100) / 1000).toBeCloseTo(Number.parseFloat(most.text), 6)
    expect(texts.map(({ text }) => text)).toEqual(expect.arrayContaining(['Thing 1', '8.000 m', '1:100 (A3)', '48']))
    // Seen from above, 90° clockwise from up is to the right.
    const arrow = sheet.groups.at(-1)!.items.find(item => item.type === 'shape' && item.at.length === 6)!
    const [tipX, tipY, , , baseX, baseY] =
      'at' in arrow ? (arrow.at as [number, number, number, number, number, number]) : [0, 0, 0, 0, 0, 0]
    expect([tipX > baseX + 5, Math.abs(tipY - baseY) < 0.01]).toEqual([true, true])
  })

  it('draws what is kept as dimensions to scale with a mark: along an axis, straight, and by a gap; seen from its end nothing', async () => {
    const { level, partOf } = levelOf([
      { x: 0, y: 0, z: 0, w: 1, h: 1, d: 1 },
      { x: 3, y: 0, z: 4, w: 1, h: 1, d: 1 },
    ])
    const relation = (id: number, rule: RelationRule): Relation => ({
      id: testId(700 + id),
      held: testId(2),
      point: [0, 0, 0],
      holders: [{ at: [0, 0, 0], on: testId(1), point: [0, 0, 0] }],
      rule,
    })
    const kept = async (...rules: RelationRule[]) => {
      const whole = bareView([...level.placements()], { relations: rules.map((rule, i) => relation(i, rule)) })
      const sheet = await planSheet(whole, partOf, planOptionsSchema.parse({ scale: 50 }), title)
      const items = sheet.groups.find(({ name }) => name === 'Kept')?.items ?? []
      const lengths = items.flatMap(item => {
        if (item.type !== 'lines' || item.width !== 0.25 || item.at.length !== 4) return []
        const [x0, y0, x1, y1] = item.at as [number, number, number, number]
        return [(Math.hypot(x1 - x0, y1 - y0) * 50) / 1000]
      })
      return { lengths, texts: items.flatMap(item => (item.type === 'text' ? [item.text] : [])) }
    }
    const along = await kept({ kind: 'apart', along: [1, 0, 0], distance: 3 })
    expect([along.lengths.map(each => Number(each.toFixed(3))), along.texts]).toEqual([[3], ['3.000 m kept']])
    const straight = await kept({ kind: 'apart', along: null, distance: 5 })
    expect([straight.lengths.map(each => Number(each.toFixed(3))), straight.texts]).toEqual([[5], ['5.000 m kept']])
    const gap = await kept({
      kind: 'flush',
      against: [0, 0, 1],
      face: [0, 0, -1],
      opposite: true,
      gap: 4,
      turns: false,
    })
    expect([gap.lengths.map(each => Number(each.toFixed(3))), gap.texts]).toEqual([[4], ['4.000 m kept']])
    const none = await kept({ kind: 'apart', along: [0, 1, 0], distance: 0 }, { kind: 'facing', upright: true })
    expect(none).toEqual({ lengths: [], texts: [] })
  })

  it('as SVG is well-formed, in millimetres, with layers as groups, text as text, and fonts within', async () => {
    const { level, partOf } = levelOf([{ x: 0, y: 0, z: 0, w: 4, h: 1, d: 2 }])
    const layered = bareView(
      [...level.placements()].map(each => ({ ...each, layerId: testId(810) })),
      {
        layers: [
          { id: testId(810), name: 'Props <&> "more"', color: '#0e6e6e', visible: true, locked: false, order: 0 },
        ],
      },
    )
    const svg = [
      ...writeSvg(await planSheet(layered, partOf, planOptionsSchema.parse({ scale: 100 }), title), fonts),
    ].join('')
    expect(svg).toContain('width="420mm" height="297mm" viewBox="0 0 420 297"')
    expect(svg).toContain('data-name="Props &lt;&amp;&gt; &quot;more&quot;"')
    expect(svg).toContain('>Quay &amp; &lt;bridge&gt;</text>')
    expect(svg).toContain('url(data:font/woff2;base64,')
    // Every element that is opened is closed, in order.
    const open: string[] = []
    for (const [, close, name, self] of svg.matchAll(/<(\/?)([a-z]+)[^<>]*?(\/?)>/g)) {
      if (close) expect(open.pop()).toBe(name)
      else if (!self) open.push(name!)
    }
    expect(open).toEqual([])
  })
})

describe('a bill of parts', () => {
  it('counts copies, by layer, with sizes and triangles', async () => {
    const part: PartToHandOver = { name: '=Crate', mesh: testSolid(new BoxGeometry(0.8, 0.6, 0.5)).mesh }
    const level = bareView(
      [
        testPlacement(1, {
          kind: 'arrangement',
          own: { rule: { ...RULES.grid.first, counts: [4, 1, 3] } },
          layerId: testId(810),
        }),
        testPlacement(2, { kind: 'part', partId: testId(900), parentId: testId(1) }),
        testPlacement(3, { kind: 'part', partId: testId(900) }),
        testPlacement(4, { kind: 'part', partId: testId(900), hidden: true }),
      ],
      { layers: [{ id: testId(810), name: 'Props', color: '#0e6e6e', visible: true, locked: false, order: 0 }] },
    )
    const lines = await billOf(level, new Scope(level, { ...WHOLE, hidden: false }), () => part, {
      perLayer: true,
      hidden: false,
    })
    expect(
      lines.map(({ layer, count, triangles, size }) => [
        layer,
        count,
        triangles,
        size.map(side => Math.round(side * 1e6) / 1e6),
      ]),
    ).toEqual([
      ['Props', 12, 12, [0.8, 0.6, 0.5]],
      ['', 1, 12, [0.8, 0.6, 0.5]],
    ])
    expect(Papa.parse<string[]>(billCsv(lines)).data[1]![0]).toBe("'=Crate")
  })
})

it('the schema of level files is published as it is', () => {
  expect(JSON.parse(readFileSync('docs/level.schema.json', 'utf8'))).toEqual(
    JSON.parse(JSON.stringify(levelFileJsonSchema())),
  )
})
