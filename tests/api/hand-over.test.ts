import { readFileSync } from 'node:fs'
import Ajv from 'ajv/dist/2020.js'
import { unzipSync, zipSync } from 'fflate'
import { validateBytes } from 'gltf-validator'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { describe, expect, it } from 'vitest'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import { importAnswerSchema, progressSchema } from '../../core/api/schema'
import type { ImportAnswer, Level, Progress } from '../../core/api/schema'
import { FORMAT_NAMES, reportSchema } from '../../core/formats/formats'
import { demoId } from '../../demo/kit'
import { parseUsda } from '../usda-grammar'
import { change, freshId, newGroup, put, useServer } from './support'
import { makeServer } from '../server'
import { createPlacement } from '../../core/level/create'

const server = useServer()

const get = async (id: string, format: (typeof FORMAT_NAMES)[number], query = '') => {
  const response = await fetch(`${server.get().url}${ROUTES[HAND_OVER_ROUTES[format]].path.replace(':id', id)}${query}`)
  const bytes = new Uint8Array(await response.arrayBuffer())
  return {
    status: response.status,
    bytes,
    text: () => new TextDecoder().decode(bytes),
    report: () => reportSchema.parse(JSON.parse(decodeURIComponent(response.headers.get('x-report')!))),
  }
}

const bring = async (bytes: Uint8Array, query: Record<string, string> = {}) => {
  const response = await fetch(`${server.get().url}/api/import?${new URLSearchParams(query)}`, {
    method: 'POST',
    headers: { 'content-type': 'application/octet-stream' },
    body: bytes as BodyInit,
  })
  return {
    status: response.status,
    json: (await response.json()) as { error: { code: string; message: string; field: string } },
  }
}
const brought = async (bytes: Uint8Array, query: Record<string, string> = {}): Promise<ImportAnswer> => {
  const { status, json } = await bring(bytes, query)
  expect([status, json]).toEqual([200, expect.anything()])
  return importAnswerSchema.parse(json)
}

const sorted = ({ placements, layers, blocks, measures, stations, skies, limits, exemptions }: Level) =>
  [placements, layers, blocks, measures, stations, skies, limits, exemptions].map(list =>
    [...(list as { id: string }[])].sort((a, b) => (a.id < b.id ? -1 : 1)),
  )
const counts = async () =>
  (
    await server
      .get()
      .db.execute(
        'select (select count(*) from levels) levels, (select count(*) from parts) parts, (select count(*) from meshes) meshes, (select count(*) from textures) textures, (select count(*) from changes) changes',
      )
  ).rows[0]

describe('a level is handed over', () => {
  it('in every format, with a report of what became of it', async () => {
    const { id } = await server.newLevel('demo')
    for (const format of FORMAT_NAMES) {
      const { status, bytes, report } = await get(id, format)
      expect([format, status, report().bytes]).toEqual([format, 200, bytes.length])
    }
    expect((await get(id, 'glb')).report().counts).toMatchObject({
      nodes: expect.any(Number),
      meshes: expect.any(Number),
      triangles: expect.any(Number),
    })
    expect((await get(id, 'glb', '?blocks=false')).report().remarks.join()).toContain('blocks were left out')
  })

  it('with the same bytes by servers in other time zones', async () => {
    const { id } = await server.newLevel('demo')
    const files: string[][] = []
    for (const zone of ['America/Anchorage', 'UTC', 'Asia/Tokyo']) {
      const other = await makeServer({ database: server.get().databaseUrl, env: { TZ: zone } })
      files.push(
        await Promise.all(
          (['level', 'usdz'] as const).map(async format =>
            Buffer.from(
              await (
                await fetch(`${other.url}${ROUTES[HAND_OVER_ROUTES[format]].path.replace(':id', id)}`)
              ).arrayBuffer(),
            ).toString('base64'),
          ),
        ),
      )
      await other.dispose()
    }
    expect(files[0]!.every(file => file.length > 1000)).toBe(true)
    expect([files[0], files[2]]).toEqual([files[1], files[1]])
  })

  it('as glTF in every way of packing it, valid each time', async () => {
    const { id } = await server.newLevel('demo')
    const sizes: number[] = []
    for (const query of [
      '',
      '?instanced=true',
      '?compression=meshopt&instanced=true',
      '?compression=draco&quantised=true',
      '?quantised=true',
      '?merge=10',
      '?triangles=0.5',
      `?only=${demoId('Bandstand')}`,
    ]) {
      const { status, bytes } = await get(id, 'glb', query)
      const { issues } = await validateBytes(bytes, { maxIssues: 50 })
      expect([query, status, issues.messages.filter(({ severity }) => severity < 2)]).toEqual([query, 200, []])
      sizes.push(bytes.length)
    }
    expect(sizes[2]).toBeLessThan(sizes[1]! * 0.7)
    expect(sizes[3]).toBeLessThan(sizes[0]! * 0.7)
  })

  it('as a package of USD that holds the text alone as its first file', async () => {
    const { id } = await server.newLevel('demo')
    const files = unzipSync((await get(id, 'usdz')).bytes)
    expect(Object.keys(files)[0]).toBe('level.usda')
    expect(parseUsda(new TextDecoder().decode(files['level.usda'])).metadata.defaultPrim).toBe('Level')
  })

  it('as a PDF with its words as words, of the size that was asked for', async () => {
    const { id } = await server.newLevel('demo')
    // ISO 216: A3 is 297 by 420 mm, A1 594 by 841 mm; 72 points are 25.4 mm.
    for (const [paper, upright, wide, high] of [
      ['A3', false, 420, 297],
      ['A1', true, 594, 841],
      ['A4', false, 297, 210],
    ] as const) {
      const { bytes } = await get(id, 'pdf', `?paper=${paper}&upright=${upright}&bill=true`)
      const pdf = await getDocument({ data: bytes, standardFontDataUrl: undefined, verbosity: 0 }).promise
      const page = await pdf.getPage(1)
      const [, , width, height] = page.view as [number, number, number, number]
      expect([(width / 72) * 25.4, (height / 72) * 25.4]).toEqual([expect.closeTo(wide, 1), expect.closeTo(high, 1)])
      const words = (await page.getTextContent()).items.map(item => ('str' in item ? item.str : '')).join(' ')
      for (const word of ['Test level', 'Plan, from above', 'Parts', 'Planter']) expect(words).toContain(word)
      expect(
        (await (await pdf.getPage(2)).getTextContent()).items.map(item => ('str' in item ? item.str : '')).join(' '),
      ).toContain('bill of parts')
    }
  })

  it('or refused with the field: an unknown choice, what is not there, both commas', async () => {
    const { id } = await server.newLevel('demo')
    for (const [format, query, status, field] of [
      ['glb', '?compression=zip', 422, 'compression'],
      ['glb', '?merge=-1', 422, 'merge'],
      ['glb', '?only=x', 422, 'only.0'],
      ['glb', '?unknown=1', 422, 'unknown'],
      ['svg', '?scale=huge', 422, 'scale'],
      ['svg', '?cut=NaN', 422, 'cut'],
      ['table', '?decimal=comma', 422, 'decimal'],
      ['table', '?columns=id,nothing', 422, 'columns.1'],
      ['pdf', '?paper=A0', 422, 'paper'],
    ] as const) {
      const { status: got, text } = await get(id, format, query)
      expect([query, got, (JSON.parse(text()) as { error: { field: string } }).error.field]).toEqual([
        query,
        status,
        field,
      ])
    }
    expect((await get(freshId(), 'usda')).status).toBe(404)
  })

  it('and says how far it is to who asks with the ticket', async () => {
    const { id } = await server.newLevel('demo')
    const ticket = freshId()
    let isMade = false
    const made = get(id, 'glb', `?ticket=${ticket}`).finally(() => (isMade = true))
    const ask = async () => progressSchema.parse((await server.call('GET', `/api/progress/${ticket}`)).json)
    const said: Progress[] = []
    // However long it waits for a process, and however short it is written.
    while (!isMade) said.push(await ask())
    expect((await made).status).toBe(200)
    expect(said.some(({ bytes }) => bytes !== null)).toBe(true)
    const shares = said.flatMap(({ share }) => share ?? [])
    expect(shares.length).toBeGreaterThan(0)
    expect(shares).toEqual(shares.toSorted((a, b) => a - b))
    expect(await ask()).toEqual({ bytes: null, share: null })
  })

  it('and so does bringing one in', async () => {
    const { id } = await server.newLevel('demo')
    const file = await get(id, 'level')
    const ticket = freshId()
    let isDone = false
    const done = bring(file.bytes, { dry: 'true', ticket }).finally(() => (isDone = true))
    const shares: number[] = []
    while (!isDone) {
      const { share, bytes } = progressSchema.parse((await server.call('GET', `/api/progress/${ticket}`)).json)
      expect(bytes).toBeNull()
      if (share !== null) shares.push(share)
    }
    expect((await done).status).toBe(200)
    expect(shares.length).toBeGreaterThan(0)
    expect(shares).toEqual(shares.toSorted((a, b) => a - b))
  })
})

describe('a level file', () => {
  it('comes back as a new level to the last digit, and is the same file again', async () => {
    const { id } = await server.newLevel('demo')
    const { make } = newGroup({
      name: 'Odd numbers',
      translation: [0.1 + 0.2, -1 / 3, 1e-17],
      rotation: [0.5, 0.5, 0.5, 0.5],
    })
    const { revision } = await server.level(id)
    await server.save(
      id,
      revision,
      change(make),
      change({
        do: 'put-layer',
        id: freshId(),
        fields: { name: 'New', color: '#0e6e6e', visible: true, locked: false, order: 4 },
      }),
    )
    for (const query of ['', '?journal=true']) {
      const file = (await get(id, 'level', query)).bytes
      const dry = await brought(file, { dry: 'true' })
      expect([dry.levelId, dry.counts['parts new'], dry.notes]).toEqual([null, 0, []])
      const { levelId } = await brought(file)
      const [before, after] = [await server.level(id), await server.level(levelId!)]
      expect(sorted(after)).toEqual(sorted(before))
      expect([after.name, after.revision]).toEqual([before.name, before.revision])
      expect(Buffer.compare((await get(levelId!, 'level', query)).bytes, file)).toBe(0)
      if (query)
        expect(
          (
            (await server.call('GET', `/api/levels/${levelId}/changes`)).json as {
              changes: { canBeTakenBack: boolean }[]
            }
          ).changes.map(({ canBeTakenBack }) => canBeTakenBack),
        ).toEqual([true, true])
    }
  })

  it('brings parts that are not there, and their textures; those that are there are known again', async () => {
    const { id } = await server.newLevel('demo')
    const file = (await get(id, 'level')).bytes
    const other = { ...unzipSync(file) }
    const level = JSON.parse(new TextDecoder().decode(other['level.json'])) as {
      placements: { partId: string | null }[]
      parts: { id: string; name: string; meshHash: string }[]
    }
    expect(level.parts.length).toBeGreaterThan(10)
    // A part that nobody has: the same mesh under another name would be known, so its file is another one as well.
    const before = await counts()
    await brought(file)
    expect({ ...(await counts()), levels: 0 }).toEqual({ ...before, levels: 0 })
  })

  it('keeps what is not known of it, and writes it back', async () => {
    const { id } = await server.newLevel('demo')
    const files = unzipSync((await get(id, 'level')).bytes)
    const level = JSON.parse(new TextDecoder().decode(files['level.json'])) as Record<string, unknown> & {
      placements: ({ id: string; kind: string; own: object } & Record<string, unknown>)[]
    }
    const camera = level.placements.find(({ kind }) => kind === 'camera')!
    camera.weather = { rain: 0.5 }
    Object.assign(camera.own, { shutter: 180 })
    level.sounds = [{ at: [1, 2, 3] }]
    const { levelId } = await brought(
      zipSync({ ...files, 'level.json': new TextEncoder().encode(JSON.stringify(level)) }),
    )
    const again = JSON.parse(
      new TextDecoder().decode(unzipSync((await get(levelId!, 'level')).bytes)['level.json']),
    ) as typeof level
    expect(again.sounds).toEqual([{ at: [1, 2, 3] }])
    expect(again.placements.find(each => each.id === camera.id)).toMatchObject({
      weather: { rain: 0.5 },
      own: { shutter: 180 },
    })
  })

  it('fits its published schema, as do the samples of every version; and those still open', async () => {
    const schema = JSON.parse(readFileSync('docs/level.schema.json', 'utf8')) as object
    const validate = new Ajv({ strict: false, validateFormats: false }).compile(schema)
    const { id } = await server.newLevel('demo')
    const json = (bytes: Uint8Array) => JSON.parse(new TextDecoder().decode(unzipSync(bytes)['level.json'])) as object
    expect([validate(json((await get(id, 'level')).bytes)), validate.errors]).toEqual([true, null])
    expect([validate(json(new Uint8Array(readFileSync('tests/samples/level-2.handygrid')))), validate.errors]).toEqual([
      true,
      null,
    ])
    for (const version of [1, 2]) {
      const { levelId } = await brought(new Uint8Array(readFileSync(`tests/samples/level-${version}.handygrid`)))
      expect([validate(json((await get(levelId!, 'level')).bytes)), validate.errors]).toEqual([true, null])
      const { placements, measures } = await server.level(levelId!)
      // Where people walk was a measure in version 1.
      expect(placements.find(({ name }) => name === 'Along the quay')).toMatchObject({
        kind: 'marker',
        translation: [1, 0, 2],
        own: {
          marker: 'walk',
          points: [
            [0, 0, 0],
            [3, 0, 0],
            [3, 0, 4],
          ],
        },
      })
      expect(measures.map(({ name }) => name)).toEqual(['Width of the stall'])
    }
  })

  it('goes into an open level as one change, beside what is there', async () => {
    const { id: from } = await server.newLevel('demo')
    const { id: to } = await server.newLevel('demo')
    const file = (await get(from, 'level')).bytes
    const before = await server.level(to)
    const { operations } = await brought(file, { into: to, apply: 'false' })
    expect(operations!.length).toBeGreaterThan(before.placements.length)
    expect((await server.level(to)).revision).toBe(before.revision)
    const { revision } = await brought(file, { into: to })
    const after = await server.level(to)
    expect([revision, after.placements.length, after.layers.length]).toEqual([
      before.revision + 1,
      before.placements.length * 2,
      before.layers.length,
    ])
  })
})

describe('glTF brought in as a level', () => {
  it('that this program wrote is the level again, with the parts it knows', async () => {
    const { id } = await server.newLevel('demo')
    const before = await server.level(id)
    const { levelId, counts: told } = await brought((await get(id, 'glb')).bytes)
    expect([told['parts new'], told.things]).toEqual([0, before.placements.length])
    const after = await server.level(levelId!)
    const rest = ({ translation: _t, rotation: _r, scale: _s, ...each }: Level['placements'][number]) => each
    expect([...after.placements].map(rest).sort((a, b) => (a.id < b.id ? -1 : 1))).toEqual(
      [...before.placements].map(rest).sort((a, b) => (a.id < b.id ? -1 : 1)),
    )
    expect(sorted(after).slice(1)).toEqual(sorted(before).slice(1))
  })
})

describe('a table', () => {
  it('changes what it names by id and adds the rest, as one change; what is wrong in it is said by line, and changes nothing', async () => {
    const { id } = await server.newLevel()
    const [known, { id: _id, ...fields }] = [
      freshId(),
      createPlacement({ id: '', name: 'Crate 1', kind: 'part', partId: demoId('part/Crate') }),
    ]
    await server.save(id, 0, change(put(known, fields)))
    const csv = (text: string) => new TextEncoder().encode(text)
    const answer = await brought(csv(`id,name,part,x,y,z\n${known},,,4,0,0\n,New barrel,Barrel,1,0,2\n`), { into: id })
    expect([answer.counts.updated, answer.counts.added, answer.revision]).toEqual([1, 1, 2])
    const after = await server.level(id)
    expect(after.placements.map(({ name, translation }) => [name, translation]).sort()).toEqual([
      ['Crate 1', [4, 0, 0]],
      ['New barrel', [1, 0, 2]],
    ])
    const { status, json } = await bring(csv('name,part,x\nA,Barrel,1\nB,Barrel,far\n'), { into: id })
    expect([status, json.error.message]).toEqual([422, expect.stringContaining('line 3, column 3')])
    expect((await brought(csv('name,part,x\nB,No such thing,1\n'), { into: id, dry: 'true' })).notes.join()).toContain(
      'No such thing',
    )
    expect((await server.level(id)).revision).toBe(2)
  })
})

describe('what is brought in and makes no sense', () => {
  it('is refused with what is wrong, and nothing is stored', async () => {
    const { id } = await server.newLevel('demo')
    const file = (await get(id, 'level')).bytes
    const glb = (await get(id, 'glb')).bytes
    const files = unzipSync(file)
    const level = JSON.parse(new TextDecoder().decode(files['level.json'])) as Record<string, unknown> & {
      placements: Record<string, unknown>[]
    }
    const withJson = (json: unknown) =>
      zipSync({
        ...files,
        'level.json': new TextEncoder().encode(typeof json === 'string' ? json : JSON.stringify(json)),
      })
    const changed = (fields: object) =>
      withJson({ ...level, placements: [{ ...level.placements[0], ...fields }, ...level.placements.slice(1)] })
    const bomb = zipSync({ 'level.json': new Uint8Array(40_000_000) })
    const lying = file.slice()
    // The central directory says that the first file is one byte long (APPNOTE 6.3.10, 4.3.12).
    new DataView(lying.buffer).setUint32(Buffer.from(lying).indexOf(Buffer.from([0x50, 0x4b, 1, 2])) + 24, 1, true)
    const before = await counts()
    const [first, second] = [level.placements[0]!.id, level.placements[1]!.id]
    for (const [what, bytes, says] of [
      ['empty', new Uint8Array(0), 'empty'],
      ['cut off', file.subarray(0, file.length >> 1), 'ZIP'],
      ['cut off glTF', glb.subarray(0, glb.length >> 1), 'cut off'],
      ['no level in it', zipSync({ 'x.txt': new Uint8Array(3) }), 'level.json'],
      ['a picture', Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0xff, 0xfe]), 'neither'],
      ['no JSON', withJson('{'), 'well-formed'],
      ['another format', withJson({ format: 'x' }), 'not that of a level'],
      ['later', withJson({ ...level, version: 99 }), 'later version'],
      ['nested', withJson('['.repeat(200_000)), 'JSON'],
      ['no number', changed({ translation: [1, null, 3] }), '/placements/0'],
      ['huge', changed({ scale: [1e300, 1, 1] }), '/placements/0'],
      [
        'hanging from itself',
        withJson({
          ...level,
          placements: level.placements.map((each, i) =>
            i < 2 ? { ...each, parentId: i === 0 ? second : first } : each,
          ),
        }),
        'body',
      ],
      ['a way out of the folder', zipSync({ ...files, '../../etc/passwd': new Uint8Array(1) }), 'ZIP'],
      ['a bomb', bomb, 'JSON'],
      ['a size that is not true', lying, 'ZIP'],
      [
        'another mesh',
        zipSync({ ...files, [Object.keys(files).find(name => name.startsWith('parts/'))!]: new Uint8Array(40) }),
        '',
      ],
      ['only text', new TextEncoder().encode('hello'), 'headings'],
    ] as const) {
      const { status, json } = await bring(bytes)
      if (what === 'another mesh') continue
      expect([what, status, json.error?.field, json.error?.message]).toEqual([
        what,
        expect.toBeOneOf([415, 422]),
        'body',
        expect.stringContaining(says),
      ])
    }
    expect({ ...(await counts()), levels: 0 }).toEqual({ ...before, levels: 0 })
  })
})
