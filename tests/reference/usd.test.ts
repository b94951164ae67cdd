import fc from 'fast-check'
import { BoxGeometry, CylinderGeometry, Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Rule } from '../../core/arrange/rules'
import { RULES } from '../../core/arrange/rules'
import type { UsdOptions } from '../../core/formats/level-usda'
import { texturePathInUsd, usdOptionsSchema, writeLevelUsda } from '../../core/formats/level-usda'
import type { PartToHandOver } from '../../core/formats/out/shapes'
import { shownShapes } from '../../core/formats/out/shown'
import { Scope, WHOLE } from '../../core/formats/out/scope'
import { usdzOf } from '../../core/formats/usdz'
import { cameraOwn, lightOwn } from '../../core/level/create'
import type { Material, Mesh } from '../../core/mesh/mesh'
import { degreesToQuat } from '../../core/math/transform'
import type { LevelView } from '../../core/scene/level-view'
import { bareView } from '../../core/scene/level-view'
import { anyQuat, anyScale, anyTree, anyVec3, testId, testPlacement, testSolid } from '../support'
import type { UsdPrim, UsdValue } from '../usda-grammar'
import { parseUsda } from '../usda-grammar'
import { usdReader } from '../usd-reader'

const [CRATE, POLE] = [testId(900), testId(901)]
const parts = new Map<string, PartToHandOver>([
  [CRATE, { name: 'Crate', mesh: testSolid(new BoxGeometry(0.8, 0.6, 0.5)).mesh }],
  [POLE, { name: 'Lantern "pole" 2', mesh: testSolid(new CylinderGeometry(0.1, 0.12, 3, 12)).mesh }],
])

async function usda(level: LevelView, options: Partial<UsdOptions> = {}, given = parts): Promise<string> {
  let text = ''
  await writeLevelUsda(
    'Test',
    level,
    id => given.get(id),
    { ...usdOptionsSchema.parse({}), ...options },
    piece => void (text += piece),
  )
  return text
}

const RULES_TRIED: Rule[] = [
  RULES.line.first,
  { ...RULES.line.first, turn: [0, 20, 0], size: 0.9, axes: 'local' },
  RULES.grid.first,
  RULES.ring.first,
  RULES.mirror.first,
  {
    ...RULES.path.first,
    points: [
      [0, 0, 0],
      [2, 0.4, 0.5],
      [3, 0, 3],
    ],
  },
]

const anyLevel = fc
  .tuple(anyTree(6), fc.constantFrom(...RULES_TRIED), anyQuat, anyScale, anyVec3)
  .map(([tree, rule, rotation, scale, pivot]) =>
    bareView([
      ...tree.map((placement, i) => ({
        ...placement,
        ...[
          { kind: 'part' as const, partId: CRATE },
          { kind: 'camera' as const, own: cameraOwn({ fieldOfView: 40 }) },
          { kind: 'light' as const, own: lightOwn({ light: (['sun', 'point', 'spot', 'area'] as const)[i % 4]! }) },
          {},
        ][i % 4],
      })),
      testPlacement(50, {
        name: 'Rows',
        kind: 'arrangement',
        own: { rule, exceptions: rule.type === 'line' ? { 1: { size: [-1, 2, 1] } } : {} },
        translation: [3, 1, 2],
        rotation,
      }),
      testPlacement(51, { name: 'Source', kind: 'part', partId: POLE, parentId: testId(50), scale, pivot }),
      testPlacement(52, { name: 'On it', kind: 'part', partId: CRATE, parentId: testId(51), rotation }),
    ]),
  )

/** Every place where a mesh is shown: of prims that refer to a part, and of point instancers. */
function shownIn(prims: readonly UsdPrim[]): { part: string; matrix: Matrix4 }[] {
  const found: { part: string; matrix: Matrix4 }[] = []
  const numbers = (value: UsdValue | undefined) => (value as number[][]).map(each => each)
  const visit = (prim: UsdPrim, above: Matrix4) => {
    const rows = prim.properties.get('xformOp:transform')
    const world = rows ? new Matrix4().fromArray(numbers(rows).flat()).premultiply(above) : above
    const reference = prim.metadata['prepend references'] as { path: string } | undefined
    if (prim.type === 'PointInstancer') {
      const [prototypes] = prim.children.filter(({ name }) => name === 'Prototypes')
      const part = (prototypes!.children[0]!.metadata['prepend references'] as { path: string }).path
      const [positions, turns, scales] = ['positions', 'orientationsf', 'scales'].map(key =>
        numbers(prim.properties.get(key)),
      )
      expect((prim.properties.get('ids') as number[]).length).toBe(positions!.length)
      positions!.forEach((place, i) => {
        const [w, x, y, z] = turns![i]! as [number, number, number, number]
        found.push({
          part,
          matrix: new Matrix4()
            .compose(
              new Vector3(...(place as [number, number, number])),
              new Quaternion(x, y, z, w).normalize(),
              new Vector3(...(scales![i]! as [number, number, number])),
            )
            .premultiply(world),
        })
      })
      return
    }
    if (reference) found.push({ part: reference.path, matrix: world })
    for (const child of prim.children) visit(child, world)
  }
  for (const prim of prims) if (prim.specifier === 'def') visit(prim, new Matrix4())
  return found
}

/** Points of a part's meshes, as they are in the file. */
function pointsOf(prims: readonly UsdPrim[], path: string): Vector3[] {
  const part = prims.find(({ name }) => name === 'Parts')!.children.find(child => child.path === path)!
  return part.children
    .filter(({ type }) => type === 'Mesh')
    .flatMap(mesh => (mesh.properties.get('points') as [number, number, number][]).map(point => new Vector3(...point)))
}

/** A point cloud as its box and its middle, which tell where and how it stands. */
function cloudOf(points: readonly Vector3[], matrix: Matrix4): number[] {
  const moved = points.map(point => point.clone().applyMatrix4(matrix))
  const sum = moved.reduce((total, point) => total.add(point), new Vector3()).divideScalar(moved.length)
  return [...sum.toArray(), ...moved[0]!.toArray()]
}

const scene = (level: LevelView) =>
  [...shownShapes(level, new Scope(level, WHOLE), true)].flatMap(({ shape, matrices }) =>
    Array.from({ length: matrices.length / 16 }, (_, i) => ({
      shape,
      matrix: new Matrix4().fromArray(matrices, i * 16),
    })),
  )
const meshPoints = (mesh: Mesh) =>
  mesh.primitives.flatMap(({ positions }) =>
    Array.from({ length: positions.length / 3 }, (_, i) => new Vector3().fromArray(positions, i * 3)),
  )

describe('a level as USD', () => {
  it('has everything where it is, by prims and by point instancers', async () => {
    await fc.assert(
      fc.asyncProperty(anyLevel, fc.boolean(), async (level, instanced) => {
        const { metadata, prims } = parseUsda(await usda(level, { instanced }))
        expect([metadata.upAxis, metadata.metersPerUnit, metadata.defaultPrim]).toEqual(['Y', 1, 'Level'])
        const expected = scene(level).map(({ shape, matrix }) => cloudOf(meshPoints(parts.get(shape)!.mesh), matrix))
        const found = shownIn(prims).map(({ part, matrix }) => cloudOf(pointsOf(prims, part), matrix))
        expect(found.length).toBe(expected.length)
        const size = Math.max(1, ...expected.flat().map(Math.abs))
        for (const each of found)
          expect(
            Math.min(
              ...expected.map(other => Math.max(...other.slice(0, 3).map((value, i) => Math.abs(value - each[i]!)))),
            ),
          ).toBeLessThan(2e-6 * size)
      }),
      { numRuns: 40, endOnFailure: true },
    )
  }, 120_000)

  it('is read by an independent reader, whatever is in it', async () => {
    const read = await usdReader()
    expect(read('#usda 1.0\ndef Xform "A" { x }\n')).not.toBe('')
    await fc.assert(
      fc.asyncProperty(anyLevel, fc.boolean(), async (level, instanced) => {
        expect(read(await usda(level, { instanced }))).toBe('')
      }),
      { numRuns: 15, endOnFailure: true },
    )
  }, 120_000)

  it('has cameras and lights in the terms of UsdGeom and UsdLux', async () => {
    const level = bareView([
      testPlacement(1, {
        name: 'Camera',
        kind: 'camera',
        own: cameraOwn({ fieldOfView: 53.13010235415598, aspect: 2, near: 0.5, far: 80 }),
      }),
      testPlacement(2, { name: 'Sun', kind: 'light', own: lightOwn({ light: 'sun', intensity: 90_000 }) }),
      testPlacement(3, {
        name: 'Lamp',
        kind: 'light',
        own: lightOwn({ light: 'spot', intensity: 100, innerCone: 20, outerCone: 40 }),
      }),
    ])
    const level_ = parseUsda(await usda(level)).prims.find(({ name }) => name === 'Level')!
    const [camera, sun, lamp] = level_.children
    // Half the height over the focal length is the tangent of half the angle: 0.5.
    const of = (key: string) => camera!.properties.get(key) as number
    // In tenths of a scene unit (UsdGeomCamera, from memory), of which a metre has one: a film of 36 mm.
    expect(of('horizontalAperture') / 10).toBeCloseTo(0.036, 9)
    expect([
      camera!.type,
      of('verticalAperture') / 2 / of('focalLength'),
      of('horizontalAperture') / of('verticalAperture'),
      camera!.properties.get('clippingRange'),
    ]).toEqual(['Camera', expect.closeTo(0.5, 6), expect.closeTo(2, 6), [0.5, 80]])
    expect([
      sun!.children[0]!.type,
      sun!.children[0]!.properties.get('inputs:intensity'),
      sun!.children[0]!.properties.get('inputs:normalize'),
    ]).toEqual(['DistantLight', 90_000, 1])
    const spot = lamp!.children[0]!
    // A normalized ball of luminance i / 4πr², seen as a disc of πr², has i / 4 candela.
    expect([
      spot.type,
      (spot.properties.get('inputs:intensity') as number) / 4,
      spot.properties.get('inputs:shaping:cone:angle'),
      spot.properties.get('inputs:shaping:cone:softness'),
    ]).toEqual(['SphereLight', 100, 40, 0.5])
  })

  it('has finishes as UsdPreviewSurface, with their textures in a package whose files begin at multiples of 64 bytes', async () => {
    const png = Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 1, 2, 3])
    const picture = 'ab'.repeat(32)
    const material: Material = {
      name: 'Planks',
      baseColor: [0.5, 0.5, 0.5],
      roughness: 0.8,
      metallic: 0,
      emissive: [0, 0, 0],
      textures: {
        baseColor: {
          picture,
          type: 'image/png',
          texCoord: 0,
          sampler: { wrapS: 10497, wrapT: 33071 },
          transform: { offset: [0.5, 0.25], rotation: 0, scale: [2, 3] },
        },
      },
    }
    const mesh: Mesh = {
      primitives: [
        {
          material,
          positions: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 0, 1),
          normals: Float32Array.of(0, 1, 0, 0, 1, 0, 0, 1, 0),
          indices: Uint32Array.of(0, 2, 1),
          uvs: [Float32Array.of(0, 0, 1, 0, 0, 1)],
        },
      ],
    }
    const given = new Map([[CRATE, { name: 'Planks', mesh }]])
    const text = await usda(bareView([testPlacement(1, { kind: 'part', partId: CRATE })]), {}, given)
    const part = parseUsda(text).prims.find(({ name }) => name === 'Parts')!.children[0]!
    const [look] = part.children.find(({ name }) => name === 'Looks')!.children
    const texture = look!.children.find(({ name }) => name === 'BaseColor')!
    expect([
      texture.properties.get('inputs:file'),
      texture.properties.get('inputs:wrapS'),
      texture.properties.get('inputs:wrapT'),
      texture.properties.get('inputs:scale'),
    ]).toEqual([{ asset: texturePathInUsd({ picture, type: 'image/png' }) }, 'repeat', 'clamp', [0.5, 0.5, 0.5, 1]])
    // Moved as KHR_texture_transform says, then turned over: V grows upwards in USD.
    expect(part.children.find(({ type }) => type === 'Mesh')!.properties.get('primvars:st0')).toEqual([
      [0.5, 0.75],
      [2.5, 0.75],
      [0.5, -2.25],
    ])
    const usdz = usdzOf(
      new TextEncoder().encode(text),
      new Map([[texturePathInUsd({ picture, type: 'image/png' }), png]]),
    )
    const words = new DataView(usdz.buffer)
    const files: [string, number, number][] = []
    // Local file headers (APPNOTE 6.3.10, 4.3.7): stored, and each file's data at a multiple of 64.
    for (let at = 0; words.getUint32(at, true) === 0x04034b50; ) {
      const [method, length, nameLength, extra] = [
        words.getUint16(at + 8, true),
        words.getUint32(at + 18, true),
        words.getUint16(at + 26, true),
        words.getUint16(at + 28, true),
      ]
      const data = at + 30 + nameLength + extra
      files.push([new TextDecoder().decode(usdz.subarray(at + 30, at + 30 + nameLength)), method, data % 64])
      at = data + length
    }
    expect(files).toEqual([
      ['level.usda', 0, 0],
      [texturePathInUsd({ picture, type: 'image/png' }), 0, 0],
    ])
  })

  it('turns copies alike in half precision and in single, the real part first (quath, from memory)', async () => {
    const turns = [degreesToQuat([20, 50, 0]), degreesToQuat([0, -110, 30])]
    const level = bareView([
      testPlacement(1, {
        kind: 'arrangement',
        own: { rule: { ...RULES.line.first, count: 2, along: [3, 0, 0], turn: [0, 40, 0], axes: 'local' } },
        rotation: turns[0]!,
      }),
      testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1), rotation: turns[1]! }),
    ])
    const find = (prims: readonly UsdPrim[]): UsdPrim[] =>
      prims.flatMap(prim => [...(prim.type === 'PointInstancer' ? [prim] : []), ...find(prim.children)])
    const [instancer] = find(parseUsda(await usda(level, { instanced: true })).prims)
    const [half, single] = ['orientations', 'orientationsf'].map(key => instancer!.properties.get(key) as number[][])
    expect(half).toHaveLength(2)
    half!.forEach((quat, i) => quat.forEach((value, k) => expect(value).toBeCloseTo(single![i]![k]!, 3)))
  })

  it('has areas as rectangles of their own width and height', async () => {
    const level = bareView([
      testPlacement(1, {
        name: 'Panel',
        kind: 'light',
        own: lightOwn({ light: 'area', intensity: 500, width: 2, height: 0.5 }),
      }),
    ])
    const panel = parseUsda(await usda(level)).prims.find(({ name }) => name === 'Level')!.children[0]!.children[0]!
    expect([panel.type, ...['width', 'height', 'intensity'].map(key => panel.properties.get(`inputs:${key}`))]).toEqual(
      ['RectLight', 2, 0.5, 500],
    )
  })

  it('is the same package in every time zone, also west of Greenwich', () => {
    const before = process.env.TZ
    const packages = ['America/Anchorage', 'UTC', 'Asia/Tokyo'].map(zone => {
      process.env.TZ = zone
      return [
        new Date(2026, 0, 1).getTimezoneOffset(),
        Buffer.from(usdzOf(new TextEncoder().encode('#usda 1.0'), new Map())).toString('hex'),
      ]
    })
    if (before === undefined) delete process.env.TZ
    else process.env.TZ = before
    expect(packages.map(([offset]) => offset)).toEqual([540, 0, -540])
    expect(new Set(packages.map(([, bytes]) => bytes)).size).toBe(1)
  })
})
