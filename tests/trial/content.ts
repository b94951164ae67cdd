import { strToU8, zipSync } from 'fflate'
import sharp from 'sharp'
import type { z } from 'zod'
import type { levelFileSchema } from '../../core/formats/level-file'
import { RULES } from '../../core/arrange/rules'
import { FIRST_INGREDIENT } from '../../core/arrange/scatter/rule'
import { createPlacement } from '../../core/level/create'
import type { Change, Placement } from '../../core/level/schema'
import { change, freshId, put } from '../api/support'
import { scatterRule } from '../scatter-support'

// Files as nobody's program writes them, from a seed: small in bytes and large in what they claim, deep, wide, or not
// hanging together.

/** Numbers that are the same for a seed. */
export class Seeded {
  private state: number

  /** Seeds that follow each other begin far apart. */
  constructor(seed: number) {
    this.state = 1 + (Math.abs(Math.imul(seed, 0x9e3779b1)) % 2147483646)
  }

  /** From 0 to below 1 (Park and Miller 1988). */
  next(): number {
    this.state = (this.state * 48271) % 2147483647
    return (this.state - 1) / 2147483646
  }

  whole(most: number): number {
    return Math.floor(this.next() * (most + 1))
  }

  of<T>(list: readonly T[]): T {
    return list[this.whole(list.length - 1)]!
  }
}

type Json = Record<string, unknown>

/** A binary glTF file of any description and data (ISO/IEC 12113:2022, 4.4). */
export function glbOf(json: object | string, binary: Uint8Array = new Uint8Array(0)): Uint8Array {
  const text = strToU8(typeof json === 'string' ? json : JSON.stringify(json))
  const padded = Math.ceil(text.length / 4) * 4
  const data = Math.ceil(binary.length / 4) * 4
  const out = new Uint8Array(12 + 8 + padded + (data > 0 ? 8 + data : 0)).fill(0x20, 20, 20 + padded)
  const view = new DataView(out.buffer)
  for (const [i, word] of [0x46546c67, 2, out.length, padded, 0x4e4f534a].entries()) view.setUint32(i * 4, word, true)
  out.set(text, 20)
  if (data > 0) {
    view.setUint32(20 + padded, data, true)
    view.setUint32(24 + padded, 0x004e4942, true)
    out.set(binary, 28 + padded)
  }
  return out
}

/** One triangle, and what is put over its description. */
export function triangleGlb(more: Json = {}, positions = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0])): Uint8Array {
  const indices = Uint32Array.from([0, 1, 2])
  const binary = new Uint8Array(positions.byteLength + indices.byteLength)
  binary.set(new Uint8Array(positions.buffer), 0)
  binary.set(new Uint8Array(indices.buffer), positions.byteLength)
  return glbOf(
    {
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0, name: 'Triangle' }],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
      buffers: [{ byteLength: binary.length }],
      bufferViews: [
        { buffer: 0, byteLength: positions.byteLength },
        { buffer: 0, byteOffset: positions.byteLength, byteLength: indices.byteLength },
      ],
      accessors: [
        {
          bufferView: 0,
          componentType: 5126,
          count: positions.length / 3,
          type: 'VEC3',
          min: [0, 0, 0],
          max: [1, 1, 0],
        },
        { bufferView: 1, componentType: 5125, count: 3, type: 'SCALAR' },
      ],
      ...more,
    },
    binary,
  )
}

const nested = (depth: number) => `${'{"a":'.repeat(depth)}1${'}'.repeat(depth)}`

/** Many accessors over the same numbers, each used by a primitive of its own. */
function manyOverOne(seed: Seeded): Uint8Array {
  const count = 3 * (1000 + seed.whole(130_000))
  const positions = Float32Array.from({ length: count * 3 }, () => seed.next())
  const uses = 2 + seed.whole(40)
  return glbOf(
    {
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      meshes: [{ primitives: Array.from({ length: uses }, (_, i) => ({ attributes: { POSITION: i } })) }],
      buffers: [{ byteLength: positions.byteLength }],
      bufferViews: [{ buffer: 0, byteLength: positions.byteLength }],
      accessors: Array.from({ length: uses }, () => ({
        bufferView: 0,
        componentType: 5126,
        count,
        type: 'VEC3',
        min: [0, 0, 0],
        max: [1, 1, 1],
      })),
    },
    new Uint8Array(positions.buffer),
  )
}

function deepNodes(seed: Seeded): Uint8Array {
  const depth = seed.of([100, 3000, 9990, 30_000, 99_000])
  const every = 1 + seed.whole(3)
  return triangleGlb({
    nodes: Array.from({ length: depth }, (_, i) => ({
      name: `Node ${i}`,
      translation: [0.001, 0, 0],
      ...(i < depth - 1 ? { children: [i + 1] } : {}),
      ...(i % every === 0 || i === depth - 1 ? { mesh: 0 } : {}),
    })),
  })
}

async function largePictures(seed: Seeded): Promise<Uint8Array> {
  const side = seed.of([256, 4096, 8192, 16_000])
  const picture = await sharp({ create: { width: side, height: side, channels: 3, background: '#405060' } })
    .png({ palette: true, compressionLevel: 9 })
    .toBuffer()
  const count = 1 + seed.whole(20)
  const pieces = Array.from({ length: count }, (_, i) => Buffer.concat([picture, Buffer.from([i])]))
  const [positions, uvs, indices] = [
    Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]),
    Float32Array.from([0, 0, 1, 0, 0, 1]),
    Uint32Array.from([0, 1, 2]),
  ]
  const data = [positions, uvs, indices].map(each => Buffer.from(each.buffer))
  let at = 0
  const bufferViews = [...data, ...pieces].map(piece => {
    const view = { buffer: 0, byteOffset: at, byteLength: piece.length }
    at += Math.ceil(piece.length / 4) * 4
    return view
  })
  const binary = new Uint8Array(at)
  for (const [i, piece] of [...data, ...pieces].entries()) binary.set(piece, bufferViews[i]!.byteOffset)
  return glbOf(
    {
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0 }],
      buffers: [{ byteLength: at }],
      bufferViews,
      meshes: [
        { primitives: pieces.map((_, i) => ({ attributes: { POSITION: 0, TEXCOORD_0: 1 }, indices: 2, material: i })) },
      ],
      materials: pieces.map((_, i) => ({ pbrMetallicRoughness: { baseColorTexture: { index: i } } })),
      textures: pieces.map((_, i) => ({ source: i })),
      images: pieces.map((_, i) => ({ bufferView: 3 + i, mimeType: 'image/png' })),
      accessors: [
        { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
        { bufferView: 1, componentType: 5126, count: 3, type: 'VEC2' },
        { bufferView: 2, componentType: 5125, count: 3, type: 'SCALAR' },
      ],
    },
    binary,
  )
}

/** Claims of more than is there, or than can be held. */
function claims(seed: Seeded): Uint8Array {
  const large = seed.of([2 ** 31 - 4, 2 ** 30, 2 ** 24, 2 ** 32, 1e15])
  return seed.of([
    () =>
      triangleGlb({
        bufferViews: [
          {
            buffer: 1,
            byteLength: large,
            extensions: {
              EXT_meshopt_compression: {
                buffer: 0,
                byteOffset: 0,
                byteLength: 36,
                byteStride: 16,
                mode: 'ATTRIBUTES',
                count: Math.floor(large / 16),
              },
            },
          },
          { buffer: 0, byteOffset: 36, byteLength: 12 },
        ],
        buffers: [
          { byteLength: 48 },
          { byteLength: large, extensions: { EXT_meshopt_compression: { fallback: true } } },
        ],
        extensionsUsed: ['EXT_meshopt_compression'],
        extensionsRequired: ['EXT_meshopt_compression'],
      }),
    () =>
      triangleGlb({
        accessors: [
          { componentType: 5126, count: large, type: 'MAT4' },
          { bufferView: 1, componentType: 5125, count: 3, type: 'SCALAR' },
        ],
      }),
    () =>
      triangleGlb({
        accessors: [
          {
            bufferView: 0,
            componentType: 5126,
            count: 3,
            type: 'VEC3',
            sparse: { count: large, indices: { bufferView: 1, componentType: 5125 }, values: { bufferView: 0 } },
          },
          { bufferView: 1, componentType: 5125, count: 3, type: 'SCALAR' },
        ],
      }),
    () => triangleGlb({ buffers: [{ byteLength: large }] }),
    () =>
      triangleGlb({
        nodes: [{ mesh: 0, extensions: { EXT_mesh_gpu_instancing: { attributes: { TRANSLATION: 2 } } } }],
        extensionsUsed: ['EXT_mesh_gpu_instancing'],
        accessors: [
          { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
          { bufferView: 1, componentType: 5125, count: 3, type: 'SCALAR' },
          { componentType: 5126, count: Math.min(large, 11_000_000), type: 'VEC3' },
        ],
      }),
  ])()
}

/** What is nested, or strange, in what a file says besides. */
function strangeExtras(seed: Seeded): Uint8Array {
  const depth = seed.of([10, 150, 300, 100_000, 500_000])
  const value = seed.of([
    nested(depth),
    `[${'['.repeat(depth)}${']'.repeat(depth)}]`,
    '1e999',
    '"\\u0000"',
    '"\\ud800"',
    `[${'1,'.repeat(2_000_000)}1]`,
    '{"__proto__":{"x":1}}',
  ])
  const json = JSON.stringify({
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0, name: 'Odd', extras: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
    buffers: [{ byteLength: 36 }],
    bufferViews: [{ buffer: 0, byteLength: 36 }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] }],
  })
  return glbOf(
    json.replace('"extras":0', `"extras":${value}`),
    new Uint8Array(Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer),
  )
}

export const GLBS: Record<string, (seed: Seeded) => Uint8Array | Promise<Uint8Array>> = {
  manyOverOne,
  deepNodes,
  largePictures,
  claims,
  strangeExtras,
}

type LevelJson = z.input<typeof levelFileSchema>

const group = (id: string, fields: Partial<Placement> = {}): Placement =>
  createPlacement({ id, name: 'Group', kind: 'group', ...fields })

/** A level file of what is in its `level.json` and journal, as text or as values. */
export function levelFile(json: Partial<LevelJson> | string, journal?: unknown): Uint8Array {
  const whole =
    typeof json === 'string'
      ? json
      : JSON.stringify({
          format: 'handy-grid level',
          version: 2,
          name: 'Made up',
          revision: 0,
          placements: [],
          layers: [],
          stations: [],
          blocks: [],
          measures: [],
          limits: [],
          exemptions: [],
          skies: [],
          parts: [],
          ...json,
        })
  return zipSync({
    'level.json': strToU8(whole),
    ...(journal === undefined
      ? {}
      : { 'journal.json': strToU8(typeof journal === 'string' ? journal : JSON.stringify(journal)) }),
  })
}

/** A level file in which something may be otherwise than it should. */
export function anyLevelFile(seed: Seeded): Uint8Array {
  const ids = Array.from({ length: 6 }, () => freshId())
  const placements: (Placement & Json)[] = ids.map((id, i) => ({
    ...group(id, { order: i, parentId: i > 0 && seed.whole(1) === 1 ? ids[seed.whole(i - 1)]! : null }),
  }))
  const journal = Array.from({ length: seed.whole(6) }, (_, i): Change & Json => ({
    ...change(put(ids[0]!, { name: `Step ${i}` })),
    revision: i + 1,
    madeAt: '2026-11-01T10:00:00.000Z',
    inverse: null,
  }))
  const json: Json = { revision: journal.length + seed.whole(2), placements }
  const spoil: (() => void)[] = [
    () => (json.revision = seed.of([0, 2147483647, 2 ** 31, -1, 1.5, '3', null])),
    () => placements.push({ ...placements[0]!, name: 'Twice' }),
    () => ([placements[0]!.parentId, placements[1]!.parentId] = [ids[1]!, ids[0]!]),
    () => (placements[2]!.parentId = seed.of([ids[2]!, freshId()])),
    () => journal.at(-1) && (journal.at(-1)!.revision = seed.of([1, 0, 2147483647, 9])),
    () => journal.push(...journal.slice(0, 1)),
    () =>
      journal.at(-1)
      && (journal.at(-1)!.madeAt = seed.of([
        '0000-01-01T00:00:00Z',
        '9999-12-31T23:59:59Z',
        '2026-02-30T00:00:00Z',
        'yesterday',
      ])),
    () =>
      (placements[0]!.own = JSON.parse(
        `{"strange":${seed.of(['"\\u0000"', '"\\ud800"', '1e308', '[[[[]]]]'])}}`,
      ) as Placement['own']),
    () => (json[seed.of(['a\u0000', '\ud800', 'x'.repeat(2000), 'plain'])] = 1),
    () =>
      (placements[1]!.translation = seed.of([
        [1e9, 0, 0],
        [1e10, 0, 0],
        [0, Number.NaN, 0],
      ]) as Placement['translation']),
    () => (placements[1]!.name = seed.of(['x'.repeat(200), 'x'.repeat(201), '<b>', 'a\nb'])),
  ]
  for (let times = seed.whole(2); times > 0; times--) seed.of(spoil)()
  let text = JSON.stringify({
    format: 'handy-grid level',
    version: 2,
    name: 'Made up',
    layers: [],
    stations: [],
    blocks: [],
    measures: [],
    limits: [],
    exemptions: [],
    skies: [],
    parts: [],
    ...json,
  })
  const more = seed.of([
    '',
    '',
    '',
    `"more":[${'0.123456,'.repeat(seed.of([100, 3_000_000]))}1]`,
    `"more":${nested(seed.of([20, 70, 100_000]))}`,
    '"more":1e999',
  ])
  if (more) text = `{${more},${text.slice(1)}`
  return levelFile(text, seed.whole(1) === 1 ? journal : undefined)
}

/** A table with more in it than tables have, or that does not hang together. */
export function anyTable(seed: Seeded): Uint8Array {
  const id = freshId()
  return strToU8(
    seed.of([
      () =>
        `id,name,x,y,z\n${Array.from({ length: 1 + seed.whole(20_000) }, (_, i) => `,Thing ${i},${i},0,0`).join('\n')}`,
      () =>
        `id,name,parent id\n${Array.from({ length: 3000 }, (_, i) => `${id.slice(0, -4)}${String(i + 1000)},Deep,${i > 0 ? `${id.slice(0, -4)}${String(i + 999)}` : ''}`).join('\n')}`,
      () => `id,name,x\n${id},One,1\n${id.toUpperCase()},Two,2\n`,
      () => `name,x\n${'x'.repeat(201)},1\n`,
      () => `name,layer,x\nA,${'l'.repeat(seed.of([200, 201]))},1\n`,
      () => `id,parent id,x\n${id},${id},1\n`,
      () => `${'name,'.repeat(300)}\nx\n`,
      () => `name,x\n${'"'.repeat(1 + seed.whole(2000))},1\n`,
      () => `name,x\nA,${seed.of(['1e308', '-1e999', '0x10', '٣', 'NaN', '1e9'])}\n`,
    ])(),
  )
}

/** What costs: many copies, within each other, dealt on each other, deep trees. @param partId what is repeated */
export function costly(seed: Seeded, partId: string): Placement[] {
  const ids = Array.from({ length: 4 }, () => freshId())
  const [outer, inner] = [ids[0]!, ids[1]!]
  const leaf = (parentId: string, id = freshId()) =>
    createPlacement({ id, name: 'Crate', kind: 'part', partId, parentId })
  const line = (id: string, count: number, parentId: string | null = null) =>
    createPlacement({ id, name: 'Line', kind: 'arrangement', parentId, own: { rule: { ...RULES.line.first, count } } })
  return seed.of([
    () => [line(outer, seed.of([1000, 100_000, 1_000_000])), leaf(outer)],
    () => [line(outer, 1000), line(inner, 1000, outer), leaf(inner)],
    () => {
      const deep = Array.from({ length: 400 }, () => freshId())
      return [...deep.map((id, i) => line(id, 1, i > 0 ? deep[i - 1]! : null)), leaf(deep.at(-1)!)]
    },
    () => {
      const deep = Array.from({ length: 2000 }, () => freshId())
      return [
        ...deep.map((id, i) => group(id, { parentId: i > 0 ? deep[i - 1]! : null, translation: [0.1, 0, 0] })),
        { ...leaf(deep.at(-1)!) },
      ]
    },
    () => [
      createPlacement({ id: inner, name: 'Ground', kind: 'part', partId, scale: [200, 1, 200] }),
      createPlacement({
        id: outer,
        name: 'Scatter',
        kind: 'arrangement',
        own: {
          rule: scatterRule({
            on: [{ id: inner, stream: 1 }],
            mix: [{ ...FIRST_INGREDIENT, source: ids[2]!, stream: 2 }],
            measure: 'density',
            density: seed.of([0.1, 10, 1000]),
            apart: seed.of([0, 0.05, 1]),
          }),
        },
      }),
      leaf(outer, ids[2]!),
    ],
    () => [
      createPlacement({
        id: outer,
        name: 'Ring',
        kind: 'arrangement',
        own: { rule: { ...RULES.ring.first, count: seed.of([10, 50_000]) } },
      }),
      leaf(outer),
      leaf(outer),
    ],
  ])()
}
