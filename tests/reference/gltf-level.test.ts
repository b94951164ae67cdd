import fc from 'fast-check'
import { MeshoptDecoder, MeshoptEncoder } from 'meshoptimizer'
import draco3d from 'draco3dgltf'
import { validateBytes } from 'gltf-validator'
import type { Object3D } from 'three'
import { BoxGeometry, CylinderGeometry, Matrix4, Mesh, PlaneGeometry, Quaternion, SphereGeometry, Vector3 } from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { describe, expect, it } from 'vitest'
import { RULES } from '../../core/arrange/rules'
import type { Rule } from '../../core/arrange/rules'
import { isSkewed } from '../../core/level/tree'
import type { Mesh as PartMesh } from '../../core/mesh/mesh'
import { readForeign } from '../../core/formats/import/gltf-parts'
import { GlbError, readChunks } from '../../core/formats/glb-chunks'
import { readGltfLevel } from '../../core/formats/import/gltf-level'
import type { ImportedLevel } from '../../core/formats/import/imported-level'
import type { GlbOptions } from '../../core/formats/level-glb'
import type { DracoModule, Encoders } from '../../core/formats/glb-packing'
import type { PartToHandOver } from '../../core/formats/out/shapes'
import { shownShapes } from '../../core/formats/out/shown'
import { Scope, WHOLE } from '../../core/formats/out/scope'
import { cameraOwn, lightOwn, markerOwn } from '../../core/level/create'
import { recordsOf } from '../../core/level/level'
import type { Placement } from '../../core/level/schema'
import { placementSchema } from '../../core/level/schema'
import type { LevelView } from '../../core/scene/level-view'
import { bareView } from '../../core/scene/level-view'
import { anyQuat, anyScale, anyTree, anyVec3, levelGlb, testId, testPlacement, testSolid } from '../support'

const [CRATE, POLE] = [testId(900), testId(901)]
const facts = (id: string) => ({
  id,
  kit: 'Own parts',
  kind: 'prop' as const,
  tags: ['test'],
  pivot: [0, 0, 0] as [number, number, number],
  sockets: [],
  lamps: [],
  settlesAs: 'hull' as const,
})
const parts = new Map<string, PartToHandOver>([
  [CRATE, { name: 'Crate', mesh: testSolid(new BoxGeometry(0.8, 0.6, 0.5)).mesh, facts: facts(CRATE) }],
  [POLE, { name: 'Pole', mesh: testSolid(new CylinderGeometry(0.1, 0.12, 3, 12)).mesh, facts: facts(POLE) }],
])
let made = 5000
const newId = () => testId(made++)

async function encoders(): Promise<Encoders> {
  return {
    meshopt: MeshoptEncoder as unknown as Encoders['meshopt'],
    draco: (await draco3d.createEncoderModule()) as DracoModule,
  }
}
const decoders = async () => ({ meshopt: MeshoptDecoder, draco: await draco3d.createDecoderModule() })

const RULES_TRIED: Rule[] = [
  RULES.line.first,
  { ...RULES.line.first, turn: [0, 20, 0], size: 0.9, axes: 'local' },
  RULES.grid.first,
  RULES.ring.first,
  { ...RULES.fan.first, rows: 2, first: 3 },
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

/**
 * A level of everything that a file can say: trees with parts, blocks, cameras, lights and markers, and arrangements of
 * them.
 */
const anyLevel = fc
  .tuple(anyTree(7), fc.constantFrom(...RULES_TRIED), anyQuat, anyScale, anyVec3, fc.boolean())
  .map(([tree, rule, rotation, scale, pivot, varied]) => {
    const shown: Partial<Placement>[] = [
      { kind: 'part', partId: CRATE },
      { kind: 'block', blockId: testId(800) },
      { kind: 'camera', own: cameraOwn({ fieldOfView: 33.3 }) },
      { kind: 'light', own: lightOwn({ light: 'spot' }) },
      { kind: 'marker', own: markerOwn('spawn', { fields: [{ key: 'Team', type: 'number', value: 2 }] }) },
      { kind: 'part', partId: POLE, hidden: true, layerId: testId(810) },
      { kind: 'group' },
    ]
    return bareView(
      [
        ...tree.map((placement, i) => ({ ...placement, ...shown[i % shown.length] })),
        testPlacement(50, {
          name: 'Rows',
          kind: 'arrangement',
          own: {
            rule,
            ...(varied ? { vary: { seed: 4, move: [0.1, 0, 0.1], turn: [0, 10, 0], size: [0.9, 1.2] } } : {}),
            exceptions: { ...(rule.type === 'line' ? { 1: { move: [0.5, 0, 0] as [number, number, number] } } : {}) },
          },
          translation: [3, 1, 2],
          rotation,
          locked: true,
        }),
        testPlacement(51, { name: 'Source', kind: 'part', partId: POLE, parentId: testId(50), scale, pivot }),
        testPlacement(52, {
          name: 'On the source',
          kind: 'part',
          partId: CRATE,
          parentId: testId(51),
          rotation,
          layerId: testId(810),
        }),
        testPlacement(53, { name: 'Its lamp', kind: 'light', own: lightOwn({ light: 'point' }), parentId: testId(52) }),
      ],
      {
        blocks: [{ id: testId(800), shape: { type: 'box', width: 1, height: 2, depth: 3 }, color: '#b9a58b' }],
        layers: [{ id: testId(810), name: 'Props', color: '#0e6e6e', visible: true, locked: false, order: 0 }],
        stations: [
          { id: testId(820), name: 'From the bridge', eye: [1, 2, 3], target: [0, 0, 0], fieldOfView: 50, order: 0 },
        ],
      },
    )
  })

/** A file with something of its description changed; its data stay. */
const changed = (glb: Uint8Array, change: (json: Gltf) => void) => {
  const { json, binary } = readChunks(glb, 1e9)
  change(json as Gltf)
  const text = new TextEncoder().encode(JSON.stringify(json))
  const padded = Math.ceil(text.length / 4) * 4
  const out = new Uint8Array(28 + padded + binary!.length).fill(0x20)
  const words = new DataView(out.buffer)
  for (const [i, word] of [0x46546c67, 2, out.length, padded, 0x4e4f534a].entries()) words.setUint32(i * 4, word, true)
  out.set(text, 20)
  words.setUint32(20 + padded, binary!.length, true)
  words.setUint32(24 + padded, 0x004e4942, true)
  out.set(binary!, 28 + padded)
  return out
}
type Gltf = {
  nodes: {
    children?: number[]
    extensions?: unknown
    mesh?: number
    translation?: [number, number, number]
    rotation?: [number, number, number, number]
    scale?: [number, number, number]
    matrix?: number[]
    extras?: Record<string, unknown>
  }[]
  accessors: { count: number; bufferView?: number; type: string; componentType: number }[]
  images?: object[]
  buffers: { uri?: string; byteLength: number }[]
  extensionsUsed?: string[]
  scenes: { nodes: number[] }[]
}

/** All corners of a scene's meshes in the world, as three places them. */
function verticesOf(scene: Object3D): Vector3[] {
  const found: Vector3[] = []
  scene.updateMatrixWorld(true)
  scene.traverse(object => {
    if (!(object instanceof Mesh)) return
    const position = object.geometry.getAttribute('position')
    for (let i = 0; i < position.count; i++)
      found.push(new Vector3().fromBufferAttribute(position, i).applyMatrix4(object.matrixWorld))
  })
  return found
}

const placed = ({ primitives }: PartMesh, matrix: Matrix4) =>
  primitives.flatMap(({ positions }) =>
    Array.from({ length: positions.length / 3 }, (_, i) =>
      new Vector3().fromArray(positions, i * 3).applyMatrix4(matrix),
    ),
  )

const asLevel = ({ placements, records }: ImportedLevel) => bareView(placements, records)

function expectNear(a: Matrix4, b: Matrix4, tolerance: number): void {
  const size = Math.max(1, ...b.elements.map(Math.abs))
  expect(Math.max(...a.elements.map((value, k) => Math.abs(value - b.elements[k]!)))).toBeLessThan(tolerance * size)
}

/** Without what is worked out anew: a pivot's translation goes through the node's. */
const rest = ({ translation: _translation, rotation: _rotation, scale: _scale, ...placement }: Placement) => placement

it('compressed is never longer than plain, in few shapes or many', async () => {
  const { meshopt } = await encoders()
  const random = fc.sample(fc.tuple(anyVec3, anyQuat, anyScale), { numRuns: 500, seed: 28 })
  const copies = bareView(
    random.map(([translation, rotation, scale], i) =>
      testPlacement(i + 10, {
        name: `Thing ${i}`,
        kind: 'part',
        partId: i % 2 ? CRATE : POLE,
        translation,
        rotation: new Quaternion(...rotation).normalize().toArray(),
        scale,
      }),
    ),
  )
  for (const quantised of [false, true]) {
    const sizes = await Promise.all(
      (['none', 'meshopt'] as const).map(
        async compression =>
          (await levelGlb('Copies', copies, parts, false, new Map(), { compression, quantised }, { meshopt })).length,
      ),
    )
    expect(sizes[1]).toBeLessThanOrEqual(sizes[0]!)
  }
})

it('merged into more than is merged, is refused before anything is written, with what it would be', async () => {
  const level = bareView([
    testPlacement(1, { kind: 'arrangement', own: { rule: { ...RULES.grid.first, counts: [1000, 1, 1000] } } }),
    testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1) }),
    testPlacement(4, { kind: 'arrangement', own: { rule: { ...RULES.grid.first, counts: [1000, 1, 1000] } } }),
    testPlacement(5, { kind: 'part', partId: CRATE, parentId: testId(4) }),
  ])
  await expect(levelGlb('Many', level, parts, false, new Map(), { merge: 10 })).rejects.toThrow(
    /would be [\d,]+ triangles in [\d,]+ MB, and 1,024 MB are merged at most/,
  )
})

describe('a level as glTF and back', () => {
  it('is the same: ids, names, matrices, parts, arrangements by their rules, and what else it has', async () => {
    await fc.assert(
      fc.asyncProperty(
        anyLevel,
        fc.boolean(),
        fc.constantFrom<Partial<GlbOptions>>(
          {},
          { compression: 'meshopt' },
          { compression: 'draco' },
          { quantised: true },
          { compression: 'meshopt', quantised: true },
        ),
        async (level, instanced, packing) => {
          const glb = await levelGlb('Test', level, parts, instanced, new Map(), packing, await encoders())
          const { issues } = await validateBytes(glb)
          expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
          const back = asLevel(await readGltfLevel(glb, newId, await decoders()))
          expect([...back.placements()].map(rest).sort((a, b) => (a.id < b.id ? -1 : 1))).toEqual(
            [...level.placements()].map(rest).sort((a, b) => (a.id < b.id ? -1 : 1)),
          )
          expect(recordsOf(back)).toEqual(recordsOf(level))
          for (const { id } of level.placements()) expectNear(back.worldMatrix(id), level.worldMatrix(id), 1e-9)
          const [before, after] = [level, back].map(each => [...shownShapes(each, new Scope(each, WHOLE), true)])
          expect(after!.map(({ id, shape, matrices }) => [id, shape, matrices.length])).toEqual(
            before!.map(({ id, shape, matrices }) => [id, shape, matrices.length]),
          )
        },
      ),
      { numRuns: 40, endOnFailure: true },
    )
  }, 240_000)

  it('has parts whose meshes are the same bytes, and within a step of the grid when counted in one', async () => {
    const level = bareView([
      testPlacement(1, { kind: 'part', partId: CRATE }),
      testPlacement(2, { kind: 'part', partId: POLE }),
    ])
    for (const packing of [
      {},
      { compression: 'meshopt' as const },
      { compression: 'draco' as const },
      { quantised: true },
    ]) {
      const { parts: back } = await readGltfLevel(
        await levelGlb('Test', level, parts, false, new Map(), packing, await encoders()),
        newId,
        await decoders(),
      )
      expect(back.map(({ id, name, facts: known }) => [id, name, known])).toEqual([
        [CRATE, 'Crate', facts(CRATE)],
        [POLE, 'Pole', facts(POLE)],
      ])
      for (const { id, mesh } of back) {
        const [given] = parts.get(id)!.mesh.primitives
        const step = 'quantised' in packing ? 3 / 65535 : 0
        const read = mesh.primitives[0]!
        // Compression may begin each triangle at another corner.
        const corners = (primitive: typeof read) =>
          [...primitive.indices].map(vertex => [...primitive.positions.subarray(vertex * 3, vertex * 3 + 3)])
        const [a, b] = [corners(read), corners(given!)]
        for (let i = 0; i < b.length; i += 3) {
          const nearest = [0, 1, 2].map(turn =>
            Math.max(
              ...[0, 1, 2].flatMap(k =>
                a[i + ((k + turn) % 3)]!.map((value, axis) => Math.abs(value - b[i + k]![axis]!)),
              ),
            ),
          )
          expect(Math.min(...nearest)).toBeLessThanOrEqual(step)
        }
      }
    }
  })

  it('has fewer triangles where that is asked for, and never a mesh of none', async () => {
    const ball: PartToHandOver = { name: 'Ball', mesh: testSolid(new SphereGeometry(1, 32, 16)).mesh }
    const leaf: PartToHandOver = { name: 'Leaf', mesh: testSolid(new PlaneGeometry(1, 1)).mesh }
    const level = bareView([
      testPlacement(1, { kind: 'part', partId: CRATE }),
      testPlacement(2, { kind: 'part', partId: POLE, translation: [40, 0, 0] }),
    ])
    const given = new Map([
      [CRATE, ball],
      [POLE, leaf],
    ])
    for (const more of [{ triangles: 0.1 }, { triangles: 0.01 }, { triangles: 0.01, merge: 10 }]) {
      const { issues, info } = (await validateBytes(await levelGlb('Test', level, given, false, new Map(), more))) as {
        issues: { numErrors: number }
        info: { totalTriangleCount?: number; drawCallCount?: number }
      }
      expect([issues.numErrors, info.drawCallCount]).toEqual([0, 2])
      // Of 960 and 2: a tenth, but a few at least.
      expect(info.totalTriangleCount).toBeLessThanOrEqual(Math.max(24, 960 * more.triangles) + 4)
    }
  })

  it('is handed over in part: what is picked, one layer, without blocks, without what is hidden', async () => {
    const level = bareView(
      [
        testPlacement(1, { translation: [5, 0, 0] }),
        testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1) }),
        testPlacement(3, { kind: 'part', partId: CRATE, parentId: testId(1), layerId: testId(810) }),
        testPlacement(4, { kind: 'block', blockId: testId(800) }),
        testPlacement(5, { kind: 'part', partId: POLE, hidden: true }),
        testPlacement(6, { kind: 'part', partId: POLE, parentId: testId(5) }),
      ],
      {
        blocks: [{ id: testId(800), shape: { type: 'box', width: 1, height: 2, depth: 3 }, color: '#b9a58b' }],
        layers: [{ id: testId(810), name: 'Props', color: '#0e6e6e', visible: true, locked: false, order: 0 }],
      },
    )
    const namesOf = async (choice: Partial<GlbOptions>) => {
      const { scene } = await new GLTFLoader().parseAsync(
        (await levelGlb('Test', level, parts, false, new Map(), choice)).slice().buffer,
        '',
      )
      const found: [string, boolean][] = []
      scene.traverse(
        (object: Object3D) =>
          object.userData.placement
          && found.push([
            String(object.userData.name ?? object.name).replace('_', ' '),
            object.children.some(child => 'isMesh' in child && !child.userData.placement) || 'isMesh' in object,
          ]),
      )
      return found
    }
    expect(await namesOf({ only: [testId(2)] })).toEqual([
      ['Thing 1', false],
      ['Thing 2', true],
    ])
    expect(await namesOf({ layer: testId(810) })).toEqual([
      ['Thing 1', false],
      ['Thing 3', true],
    ])
    expect((await namesOf({ blocks: false })).map(([name]) => name)).toEqual([
      'Thing 1',
      'Thing 2',
      'Thing 3',
      'Thing 5',
      'Thing 6',
    ])
    expect((await namesOf({ hidden: false })).map(([name]) => name)).toEqual([
      'Thing 1',
      'Thing 2',
      'Thing 3',
      'Thing 4',
    ])
  })
})

describe('a foreign file', () => {
  const place = (matrices: readonly Matrix4[]) =>
    bareView(
      matrices.map((matrix, i) =>
        testPlacement(i + 1, {
          kind: 'part',
          partId: CRATE,
          translation: [matrix.elements[12], matrix.elements[13], matrix.elements[14]],
        }),
      ),
    )

  it('of instances in a line, a grid or a ring becomes an arrangement with that rule; others are listed', async () => {
    for (const [rule, type] of [
      [RULES.line.first, 'line'],
      [RULES.grid.first, 'grid'],
      [{ ...RULES.ring.first, count: 7, radius: 4, start: 20 }, 'ring'],
      [{ ...RULES.ring.first, count: 5, arc: 130, facing: 'kept' }, 'ring'],
      [{ ...RULES.line.first, along: [1.5, 0.3, 0], turn: [0, 20, 0], axes: 'local' }, null],
    ] as [Rule, string | null][]) {
      const level = bareView([
        testPlacement(1, { kind: 'arrangement', own: { rule }, translation: [2, 1, 0] }),
        testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1), scale: [1, 2, 1] }),
      ])
      const glb = await levelGlb('Test', level, parts, true)
      const back = asLevel(await readGltfLevel(withoutExtras(glb), newId))
      const found = [...back.placements()].find(({ kind }) => kind === 'arrangement')
      expect((found?.own as { rule: Rule } | undefined)?.rule.type ?? null).toBe(type)
      const matrices = (of: LevelView) =>
        [...shownShapes(of, new Scope(of, WHOLE), true)].flatMap(({ matrices: all }) =>
          Array.from({ length: all.length / 16 }, (_, i) => new Matrix4().fromArray(all, i * 16)),
        )
      const [a, b] = [matrices(back), matrices(level)]
      expect(a.length).toBe(b.length)
      for (const matrix of a)
        expect(
          Math.min(
            ...b.map(other => Math.max(...other.elements.map((value, k) => Math.abs(value - matrix.elements[k]!)))),
          ),
        ).toBeLessThan(1e-5)
    }
  })

  it('of instances is only a rule where that is as exact as single precision: none is straightened', async () => {
    const row = (off: number) =>
      Array.from({ length: 40 }, (_, i) => new Matrix4().setPosition(i * 20, i === 17 ? off : 0, 0))
    for (const [off, kinds] of [
      [0, ['arrangement']],
      [0.001, []],
      [0.09, []],
    ] as const) {
      const level = bareView([
        testPlacement(1, {
          kind: 'arrangement',
          own: {
            rule: { ...RULES.line.first, count: 40, along: [20, 0, 0] },
            exceptions: off ? { 17: { move: [0, off, 0] } } : {},
          },
        }),
        testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1) }),
      ])
      const imported = await readGltfLevel(withoutExtras(await levelGlb('Test', level, parts, true)), newId)
      const back = asLevel(imported)
      expect([...back.placements()].filter(({ kind }) => kind === 'arrangement').map(({ kind }) => kind)).toEqual(kinds)
      const places = [...shownShapes(back, new Scope(back, WHOLE), true)].flatMap(({ matrices }) =>
        Array.from({ length: matrices.length / 16 }, (_, i) => [...matrices.subarray(i * 16 + 12, i * 16 + 15)]),
      )
      for (const matrix of row(off))
        expect(
          Math.min(
            ...places.map(([x, y, z]) =>
              Math.hypot(x! - matrix.elements[12], y! - matrix.elements[13], z! - matrix.elements[14]),
            ),
          ),
        ).toBeLessThan(1e-4)
      // How far anything stands from where it was is said where something became a rule.
      expect(imported.notes.some(note => / mm from where it was/.test(note))).toBe(kinds.length > 0)
    }
  })

  it('of skewed node matrices looks as its matrices say, in both readers, below and within each other', async () => {
    const skew = (k: number) => new Matrix4().set(1, k, 0, 0.5, 0, 1, k / 2, 1, 0.2, 0, -1.5, 2, 0, 0, 0, 1)
    await fc.assert(
      fc.asyncProperty(
        fc.double({ min: -2, max: 2, noNaN: true }),
        anyQuat,
        anyVec3,
        fc.boolean(),
        async (k, rotation, translation, mirrored) => {
          fc.pre(Math.abs(k) > 0.01)
          const level = bareView([
            testPlacement(1, { translation, rotation, scale: mirrored ? [-1, 1, 1] : [1, 1, 1] }),
            testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1), translation: [1, 0, 0] }),
            testPlacement(3, { kind: 'part', partId: POLE, parentId: testId(2), translation: [0, 2, 0], rotation }),
          ])
          const glb = changed(withoutExtras(await levelGlb('Test', level, parts)), json => {
            for (const node of json.nodes)
              if (node.mesh !== undefined) {
                const own = new Matrix4().compose(
                  new Vector3(...(node.translation ?? [0, 0, 0])),
                  new Quaternion(...(node.rotation ?? [0, 0, 0, 1])),
                  new Vector3(...(node.scale ?? [1, 1, 1])),
                )
                for (const key of ['translation', 'rotation', 'scale'] as const) delete node[key]
                node.matrix = [...own.multiply(skew(k)).elements]
              }
          })
          const loaded = await new GLTFLoader().parseAsync(glb.slice().buffer, '')
          // The loader keeps position, turn and size alone; the file's own matrices, multiplied by three, do not.
          loaded.scene.traverse(object => {
            const number = loaded.parser.associations.get(object)?.nodes
            const matrix = number === undefined ? undefined : (loaded.parser.json as Gltf).nodes[number]!.matrix
            if (!matrix) return
            object.matrixAutoUpdate = false
            object.matrix.fromArray(matrix)
          })
          const wanted = verticesOf(loaded.scene)
          const imported = await readGltfLevel(glb, newId)
          const back = asLevel(imported)
          const meshes = new Map(imported.parts.map(({ id, mesh }) => [id, mesh]))
          const found = [...back.placements()].flatMap(({ id, partId }) =>
            partId === null ? [] : placed(meshes.get(partId)!, back.worldMatrix(id)),
          )
          expect([...back.placements()].every(({ id }) => !isSkewed(back, id))).toBe(true)
          for (const set of [found, (await readForeign(glb)).tops.flatMap(({ mesh }) => placed(mesh, new Matrix4()))]) {
            expect(set.length).toBe(wanted.length)
            const size = Math.max(1, ...wanted.map(point => point.length()))
            for (const point of wanted)
              expect(
                Math.min(...set.map(other => other.distanceTo(point))),
                set === found ? 'level' : 'foreign',
              ).toBeLessThan(size * 1e-5)
          }
        },
      ),
      { numRuns: 12 },
    )
  })

  it('put together by squares has its cameras and lights where they stand and turned as they are, areas as bright as they are large', async () => {
    const rotation = new Quaternion(0.1, 0.7, -0.2, 0.4).normalize().toArray() as [number, number, number, number]
    const level = bareView([
      testPlacement(1, { translation: [3, 0, 1], rotation }),
      testPlacement(2, {
        name: 'Camera',
        kind: 'camera',
        own: cameraOwn(),
        parentId: testId(1),
        translation: [1, 2, 3],
        rotation,
      }),
      testPlacement(3, {
        name: 'Panel',
        kind: 'light',
        own: lightOwn({ light: 'area', intensity: 500, width: 2, height: 0.25 }),
        parentId: testId(1),
        rotation,
      }),
      testPlacement(4, { kind: 'part', partId: CRATE }),
    ])
    const { json } = readChunks(await levelGlb('Test', level, parts, false, new Map(), { merge: 10 }), 1e9)
    const { nodes, extensions } = json as unknown as {
      nodes: { name: string; translation?: [number, number, number]; rotation?: [number, number, number, number] }[]
      extensions: { KHR_lights_punctual: { lights: { intensity: number }[] } }
    }
    for (const [name, id] of [
      ['Camera', testId(2)],
      ['Panel', testId(3)],
    ] as const) {
      const node = nodes.find(each => each.name === name)!
      expectNear(
        new Matrix4().compose(
          new Vector3(...node.translation!),
          new Quaternion(...node.rotation!),
          new Vector3(1, 1, 1),
        ),
        level.worldMatrix(id),
        1e-6,
      )
    }
    expect(extensions.KHR_lights_punctual.lights.map(({ intensity }) => intensity)).toEqual([250])
  })

  it('of equal meshes has one part', async () => {
    const level = place([new Matrix4(), new Matrix4().setPosition(2, 0, 0)])
    const twice = new Map([...parts].map(([id, { name, mesh }]) => [id, { name, mesh }]))
    const { parts: found, placements } = await readGltfLevel(withoutExtras(await levelGlb('Test', level, twice)), newId)
    expect([found.length, placements.map(({ kind, partId }) => [kind, partId])]).toEqual([
      1,
      [
        ['part', found[0]!.id],
        ['part', found[0]!.id],
      ],
    ])
  })
})

describe('a glTF file that makes no sense', () => {
  it('is refused with the reason: cycles, addresses elsewhere, countless instances, nothing to place', async () => {
    const level = bareView([testPlacement(1), testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1) })])
    const glb = await levelGlb('Test', level, parts)
    for (const [change, says] of [
      [json => (json.nodes[1]!.children = [0]), 'hangs from itself'],
      [
        json => (json.images = [{ uri: 'https://elsewhere.example/x.png', mimeType: 'image/png' }]),
        'images.0: names an address elsewhere',
      ],
      [json => (json.buffers[0]!.uri = 'https://elsewhere.example/x.bin'), 'buffers.0: names an address elsewhere'],
      [
        json => {
          json.accessors.push({ count: 3_000_000, type: 'VEC3', componentType: 5126 })
          json.extensionsUsed = ['EXT_mesh_gpu_instancing']
          json.nodes[1]!.extras = {}
          json.nodes[1]!.extensions = {
            EXT_mesh_gpu_instancing: { attributes: { TRANSLATION: json.accessors.length - 1 } },
          }
        },
        'instances',
      ],
      [json => (json.scenes[0]!.nodes = []), 'nothing in it'],
    ] as [(json: Gltf) => void, string][])
      await expect(readGltfLevel(changed(glb, change), newId)).rejects.toThrow(says)
  })

  it('is never more than refused, whatever of it is spoilt', async () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: { rule: RULES.line.first } }),
      testPlacement(2, { kind: 'part', partId: CRATE, parentId: testId(1) }),
      testPlacement(3, { kind: 'camera', own: cameraOwn() }),
    ])
    const glb = await levelGlb('Test', level, parts)
    await fc.assert(
      fc.asyncProperty(
        fc.nat(),
        fc.constantFrom<unknown>(null, -1, 1e308, '', 'x', [], {}, [null], { a: 1 }, true),
        async (at, hostile) => {
          const spoilt = changed(glb, json => {
            const places: [object, string][] = []
            const visit = (value: unknown) => {
              if (typeof value === 'object' && value !== null)
                for (const [key, inner] of Object.entries(value)) {
                  places.push([value, key])
                  visit(inner)
                }
            }
            visit(json)
            const [parent, key] = places[at % places.length]!
            ;(parent as Record<string, unknown>)[key] = hostile
          })
          try {
            const { placements } = await readGltfLevel(spoilt, newId)
            for (const placement of placements) expect(placementSchema.safeParse(placement).success).toBe(true)
          } catch (error) {
            if (!(error instanceof GlbError)) throw error
          }
        },
      ),
      { numRuns: 600 },
    )
  }, 60_000)
})

/** A binary glTF file as another program would have written it: nothing in it says what this one knows. */
function withoutExtras(glb: Uint8Array): Uint8Array {
  const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true)
  const text = new TextDecoder().decode(glb.subarray(20, 20 + length))
  const bare = JSON.stringify(JSON.parse(text, (key, value: unknown) => (key === 'extras' ? undefined : value))).padEnd(
    length,
  )
  const copy = glb.slice()
  copy.set(new TextEncoder().encode(bare), 20)
  return copy
}
