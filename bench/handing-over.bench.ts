import { MeshoptEncoder } from 'meshoptimizer'
import { it } from 'vitest'
import { RULES } from '../core/arrange/rules'
import { writeLevelGlb, glbOptionsSchema } from '../core/formats/level-glb'
import type { Encoders } from '../core/formats/glb-packing'
import { writeLevelJson } from '../core/formats/level-file'
import { usdOptionsSchema, writeLevelUsda } from '../core/formats/level-usda'
import { planOptionsSchema } from '../core/formats/plan/options'
import { planSheet } from '../core/formats/plan/sheet'
import { tableOptionsSchema, writeTable } from '../core/formats/table/write-table'
import { createPlacement } from '../core/level/create'
import { recordsOf } from '../core/level/level'
import { bareView } from '../core/scene/level-view'
import { lanternQuayKit } from '../demo/kit'
import { lanternQuay } from '../demo/lantern-quay'
import { madeUpLevel } from './made-up-level'
import { reportCompared } from './report'

// A level of 100,000 copies in each format, against writing the same numbers plainly: forty bytes each.
const [GRID, SOURCE] = ['00000000-0000-7000-8000-000000000001', '00000000-0000-7000-8000-000000000002']
const COPIES = 100_000
const kit = new Map(lanternQuayKit().map(part => [part.id, part]))
const crate = [...kit.values()].find(({ name }) => name === 'Crate')!

async function timed(
  run: (count: (bytes: number) => void) => Promise<unknown>,
): Promise<{ ms: number; bytes: number }> {
  let bytes = 0
  const start = performance.now()
  await run(length => void (bytes += length))
  return { ms: performance.now() - start, bytes }
}

it('handing over 100,000 copies', async () => {
  const level = bareView([
    createPlacement({
      id: GRID,
      name: 'Rows',
      kind: 'arrangement',
      own: {
        rule: { ...RULES.grid.first, counts: [1000, 1, 100] },
        vary: { seed: 1, move: [0.1, 0, 0.1], turn: [0, 30, 0], size: [0.9, 1.1] },
      },
    }),
    createPlacement({ id: SOURCE, name: 'Crate', kind: 'part', partId: crate.id, parentId: GRID }),
  ])
  level.copies(GRID)
  const numbers = Float32Array.from({ length: COPIES * 10 }, (_, i) => i * 0.1)
  const plain = await timed(async count => {
    for (let i = 0; i < numbers.length; i += 1000) count(Buffer.from(numbers.slice(i, i + 1000).buffer).length)
  })
  const encoders = { meshopt: MeshoptEncoder as unknown as Encoders['meshopt'] }
  const glb = (options: object) =>
    timed(async count => {
      const { head } = await writeLevelGlb(
        'Rows',
        level,
        id => kit.get(id),
        { ...glbOptionsSchema.parse({}), ...options },
        { sink: bytes => count(bytes.length), pictureOf: () => '', encoders },
      )
      count(head.length)
    })
  const rows: [string, { ms: number; bytes: number }][] = [
    ['glTF, instances', await glb({ instanced: true })],
    ['glTF, instances, meshopt', await glb({ instanced: true, compression: 'meshopt' })],
    ['glTF, nodes', await glb({})],
    [
      'USD, instancer',
      await timed(count =>
        writeLevelUsda(
          'Rows',
          level,
          id => kit.get(id),
          usdOptionsSchema.parse({}),
          text => count(text.length),
        ),
      ),
    ],
    [
      'table, a row each',
      await timed(count =>
        writeTable(
          level,
          { ...tableOptionsSchema.parse({}), copies: true },
          () => 'Crate',
          text => count(text.length),
        ),
      ),
    ],
    [
      'level.json',
      await timed(async count => {
        for (const text of writeLevelJson({
          name: 'Rows',
          revision: 0,
          placements: [...level.placements()],
          records: recordsOf(level),
          parts: [],
          kept: [],
        }))
          count(text.length)
      }),
    ],
  ]
  const table = (title: string, unit: string, of: 'ms' | 'bytes', share: number) =>
    reportCompared({
      topic: 'Bringing in and handing over',
      title,
      about:
        'A grid of varied crates in each format, in memory. The reference is forty bytes for each copy, written plainly.',
      unit,
      reference: 'the numbers, plainly',
      rows: [
        { what: 'the numbers, plainly', value: plain[of] / share },
        ...rows.map(([what, taken]) => ({ what, value: taken[of] / share, against: plain[of] / share })),
      ],
    })
  table('Handing over 100,000 copies', 'ms', 'ms', 1)
  table('Sizes of files of 100,000 copies', 'bytes for each', 'bytes', COPIES)
})

it('drawing a plan of Lantern Quay and of 10,000 placements', async () => {
  const { placements, ...records } = lanternQuay()
  const rows: { what: string; value: number }[] = []
  const title = { name: 'Plan', date: '2026-11-26', revision: 0 }
  for (const [name, level] of [
    ['Lantern Quay', bareView(placements, records)],
    ['10,000 props', madeUpLevel(10_000).level],
  ] as const) {
    const { ms } = await timed(() => planSheet(level, id => kit.get(id), planOptionsSchema.parse({}), title))
    rows.push({ what: name, value: ms })
  }
  reportCompared({
    topic: 'Bringing in and handing over',
    title: 'Drawing a plan',
    about: 'From above, with lines that are hidden left out; without writing the file.',
    unit: 'ms',
    rows,
  })
})
