import { lightOwn } from '../../core/level/create'
import { validateBytes } from 'gltf-validator'
import fc from 'fast-check'
import type { InstancedMesh, Object3D, Mesh as ThreeMesh } from 'three'
import { BoxGeometry, Matrix4, Quaternion, Vector3 } from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { WebIO } from '@gltf-transform/core'
import type { InstancedMesh as InstancedNodes } from '@gltf-transform/extensions'
import { EXTMeshGPUInstancing } from '@gltf-transform/extensions'
import { describe, expect, it } from 'vitest'
import type { ArrangementOwn } from '../../core/arrange/arrangement'
import type { Rule } from '../../core/arrange/rules'
import { keysOf, RULES } from '../../core/arrange/rules'
import { FIRST_INGREDIENT } from '../../core/arrange/scatter/rule'
import { HandOverError } from '../../core/formats/out/hand-over-error'
import { bareView, LevelView } from '../../core/scene/level-view'
import { dealAtOnce, dealerOver } from '../../core/scene/scatter-site'
import { meshOfShape, ShapeLibrary } from '../../core/scene/shapes'
import type { Placement } from '../../core/level/schema'
import type { Quat, Vec3 } from '../../core/math/vectors'
import type { Mesh } from '../../core/mesh/mesh'
import { MeshBuilder } from '../../core/mesh/mesh-builder'
import { anyQuat, levelGlb, testId, testPlacement, TEST_MATERIAL } from '../support'

// Copies that are skewed, mirrored, uneven or within each other, as two readers find them that are not ours: three's
// loader and the Khronos validator. What counts are the triangles in the world, and which way round they are.
const PART = testId(77)
// Nothing about it is symmetrical, so that nothing turned or mirrored looks like it.
const builder = new MeshBuilder()
builder.add(TEST_MATERIAL, new BoxGeometry(1, 0.5, 0.25).translate(0.3, 0.1, 0.05))
const mesh = builder.build()
const parts = new Map([[PART, { name: 'Odd', mesh }]])
const A = testId(1)

type Triangle = { points: Vector3[] }

function trianglesOf(matrix: Matrix4, of: Mesh = mesh): Triangle[] {
  return of.primitives.flatMap(({ positions, indices }) =>
    Array.from({ length: indices.length / 3 }, (_, i) => {
      const points = [0, 1, 2].map(k =>
        new Vector3().fromArray(positions, indices[i * 3 + k]! * 3).applyMatrix4(matrix),
      )
      // glTF 2.0, 3.7.4: a negative determinant means that the other side is the outside.
      return { points: matrix.determinant() < 0 ? points.reverse() : points }
    }),
  )
}

/** What another reader finds, which works with arrays alone: @gltf-transform. */
async function readAgain(glb: Uint8Array): Promise<Triangle[]> {
  const read = await new WebIO().registerExtensions([EXTMeshGPUInstancing]).readBinary(glb as Uint8Array<ArrayBuffer>)
  return read
    .getRoot()
    .listNodes()
    .flatMap(node => {
      const [shape, world] = [node.getMesh(), new Matrix4().fromArray(node.getWorldMatrix())]
      if (!shape) return []
      const copies = node.getExtension<InstancedNodes>('EXT_mesh_gpu_instancing')
      const [at, turn, size] = ['TRANSLATION', 'ROTATION', 'SCALE'].map(name => copies?.getAttribute(name))
      const matrices = !copies
        ? [world]
        : Array.from({ length: at!.getCount() }, (_, i) =>
            new Matrix4()
              .compose(
                new Vector3().fromArray(at!.getElement(i, [])),
                new Quaternion().fromArray(turn!.getElement(i, [])),
                new Vector3().fromArray(size!.getElement(i, [])),
              )
              .premultiply(world),
          )
      return matrices.flatMap(matrix =>
        shape.listPrimitives().flatMap(primitive => {
          const [positions, indices] = [primitive.getAttribute('POSITION')!, primitive.getIndices()!]
          return Array.from({ length: indices.getCount() / 3 }, (_, i) => {
            const points = [0, 1, 2].map(k =>
              new Vector3().fromArray(positions.getElement(indices.getScalar(i * 3 + k), [])).applyMatrix4(matrix),
            )
            return { points: world.determinant() < 0 ? points.reverse() : points }
          })
        }),
      )
    })
}

/** All triangles of a file in the world, wound as the standard says. */
async function readTriangles(glb: Uint8Array): Promise<Triangle[]> {
  const { scene } = await new GLTFLoader().parseAsync(glb.slice().buffer, '')
  scene.updateMatrixWorld(true)
  const found: Triangle[] = []
  scene.traverse((object: Object3D) => {
    const { isMesh, geometry } = object as ThreeMesh
    if (!isMesh) return
    const instances = object as InstancedMesh
    const matrices = instances.isInstancedMesh
      ? Array.from({ length: instances.count }, (_, i) => {
          const matrix = new Matrix4()
          instances.getMatrixAt(i, matrix)
          return matrix.premultiply(object.matrixWorld)
        })
      : [object.matrixWorld]
    const [position, index] = [geometry.getAttribute('position'), geometry.getIndex()!]
    for (const matrix of matrices) {
      for (let i = 0; i < index.count; i += 3) {
        const points = [0, 1, 2].map(k =>
          new Vector3().fromBufferAttribute(position, index.getX(i + k)).applyMatrix4(matrix),
        )
        // Of instances readers ask the node alone which way round they are.
        found.push({ points: object.matrixWorld.determinant() < 0 ? points.reverse() : points })
      }
    }
  })
  return found
}

/**
 * The same triangles in any order: by their middles, and within each by any corner first, but not the other way round.
 */
function expectSame(found: Triangle[], expected: Triangle[]): void {
  expect(found).toHaveLength(expected.length)
  const left = new Set(expected)
  const size = Math.max(1, ...expected.flatMap(({ points }) => points.map(point => point.length())))
  for (const { points } of found) {
    const twin = [...left].find(other =>
      [0, 1, 2].some(first =>
        points.every((point, k) => point.distanceTo(other.points[(first + k) % 3]!) < 2e-5 * size),
      ),
    )
    expect(
      twin,
      points
        .map(point =>
          point
            .toArray()
            .map(value => value.toFixed(3))
            .join(' '),
        )
        .join(' | '),
    ).toBeDefined()
    left.delete(twin!)
  }
}

function levelOf(
  own: ArrangementOwn,
  source: Partial<Placement>,
  child?: Partial<Placement>,
  top: Partial<Placement> = {},
): LevelView {
  return bareView([
    testPlacement(1, { kind: 'arrangement', own, ...top }),
    testPlacement(2, { kind: 'part', partId: PART, parentId: A, ...source }),
    ...(child ? [testPlacement(3, { kind: 'part', partId: PART, parentId: testId(2), ...child })] : []),
  ])
}

async function check(level: LevelView): Promise<void> {
  // What the stage shows: copies, and where they stay to be seen their sources.
  const expected = [...level.arrangementIds]
    .filter(id => !level.isSource(id))
    .flatMap(id =>
      level
        .shapes(id)
        .flatMap(({ shape, matrices }) =>
          Array.from({ length: matrices.length / 16 }, (_, i) =>
            trianglesOf(
              new Matrix4().fromArray(matrices, i * 16).premultiply(level.worldMatrix(id)),
              meshOfShape(shape, () => mesh)!,
            ),
          ),
        ),
    )
    .flat()
  for (const { id } of level.placements())
    if (level.shapeOf(id) !== null && !level.isSource(id)) expected.push(...trianglesOf(level.worldMatrix(id)))
  for (const instanced of [false, true]) {
    const glb = await levelGlb('Level', level, parts, instanced)
    const { issues } = await validateBytes(glb)
    expect([issues.numErrors, issues.numWarnings, issues.messages.filter(({ severity }) => severity < 2)]).toEqual([
      0,
      0,
      [],
    ])
    expectSame(await readTriangles(glb), expected)
    expectSame(await readAgain(glb), expected)
  }
}

const turned = (degrees: number): Quat => [
  0,
  Math.sin((degrees * Math.PI) / 360),
  0,
  Math.cos((degrees * Math.PI) / 360),
]
const line = { rule: { ...RULES.line.first, count: 4 } }

describe('copies handed over', () => {
  it('that are skewed: a source turned by 30 degrees with one copy sized 2, 1, 1', () =>
    check(levelOf({ ...line, exceptions: { 2: { size: [2, 1, 1] } } }, { rotation: turned(30) })))

  it('that are skewed alike share one mesh', async () => {
    const level = levelOf(line, { scale: [1, 1, 2] }, { rotation: turned(30), translation: [0.5, 0, 0] })
    await check(level)
    const glb = await levelGlb('Level', level, parts, true)
    const { info } = (await validateBytes(glb)) as { info: { totalVertexCount?: number } }
    // Four copies of the child: one skewed mesh, and the plain one of the source.
    expect(info.totalVertexCount).toBeLessThanOrEqual(24 * (4 + 4 + 1) + 24)
  })

  it('in a ring that is sized unevenly within a line', async () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: line }),
      testPlacement(2, {
        kind: 'arrangement',
        own: { rule: { ...RULES.ring.first, count: 5 } },
        parentId: A,
        scale: [1, 1, 2],
      }),
      testPlacement(3, { kind: 'part', partId: PART, parentId: testId(2) }),
    ])
    await check(level)
  })

  it('of which one is mirrored, and all in a mirror', async () => {
    await check(
      levelOf(
        { ...line, exceptions: { 1: { size: [-1, 1, 1] }, 3: { size: [1, -2, -0.5] } } },
        { rotation: turned(20) },
      ),
    )
    await check(levelOf(line, { scale: [-1, 1, 1] }))
    await check(levelOf(line, { scale: [1, 2, 1] }, undefined, { scale: [-1, 1, 3], rotation: turned(50) }))
  })

  it('however they are turned, sized and varied', async () => {
    const size: fc.Arbitrary<Vec3> = fc.tuple(
      ...([0, 1, 2].map(() => fc.constantFrom(-2, -1, 0.5, 1, 3)) as [
        fc.Arbitrary<number>,
        fc.Arbitrary<number>,
        fc.Arbitrary<number>,
      ]),
    )
    await fc.assert(
      fc.asyncProperty(
        anyQuat,
        anyQuat,
        size,
        size,
        size,
        fc.boolean(),
        async (rotation, inner, scale, innerScale, exception, isVaried) => {
          await check(
            levelOf(
              {
                ...line,
                exceptions: { 1: { size: exception } },
                ...(isVaried ? { vary: { seed: 3, move: [0.2, 0, 0.2], turn: [0, 40, 0], size: [0.7, 1.4] } } : {}),
              },
              { rotation, scale, pivot: [0.1, 0.2, 0.3] },
              { rotation: inner, scale: innerScale, translation: [0.4, 0.2, 0] },
            ),
          )
        },
      ),
      { numRuns: 12 },
    )
  }, 120_000)

  it('whatever the rules within each other: mirrored, bent, varied, and with copies that differ', async () => {
    const line = { ...RULES.line.first, count: 3, along: [2, 0, 0.5] as Vec3 }
    const path: Rule = {
      ...RULES.path.first,
      points: [
        [0, 0, 0],
        [2, 0.4, 0.5],
        [3, 0, 3],
      ],
      measure: 'ends',
      spacing: 1,
      begins: -0.2,
    }
    const anyRule: fc.Arbitrary<Rule> = fc.constantFrom<Rule>(
      line,
      { ...line, axes: 'local', turn: [10, 20, 0], size: 0.8 },
      { ...RULES.ring.first, count: 4 },
      { ...RULES.fan.first, rows: 2, first: 2 },
      RULES.mirror.first,
      path,
      { ...path, bent: true },
    )
    const anySize: fc.Arbitrary<Vec3> = fc.tuple(
      ...([0, 1, 2].map(() => fc.constantFrom(-1, 0.5, 1, 2)) as [
        fc.Arbitrary<number>,
        fc.Arbitrary<number>,
        fc.Arbitrary<number>,
      ]),
    )
    await fc.assert(
      fc.asyncProperty(
        anyRule,
        anyRule,
        anyQuat,
        anySize,
        anySize,
        fc.boolean(),
        async (outer, inner, rotation, scale, exception, isVaried) => {
          const own = (rule: Rule): ArrangementOwn => ({
            rule,
            ...(rule.type === 'mirror'
              ? {}
              : { exceptions: { [keysOf(rule).keyAt(1)]: { size: exception, move: [0.1, 0, 0] } } }),
            ...(isVaried ? { vary: { seed: 3, move: [0.2, 0, 0.2], turn: [0, 40, 0], size: [0.7, 1.4] } } : {}),
          })
          await check(
            bareView([
              testPlacement(1, { kind: 'arrangement', own: own(outer), rotation }),
              testPlacement(2, { kind: 'arrangement', own: own(inner), parentId: A, scale, translation: [0.3, 0, 1] }),
              testPlacement(3, { kind: 'part', partId: PART, parentId: testId(2), rotation, pivot: [0, 0.2, 0] }),
              testPlacement(4, {
                kind: 'part',
                partId: PART,
                parentId: testId(3),
                translation: [0, 0.4, 0],
                scale: [1, 1, 2],
              }),
            ]),
          )
        },
      ),
      { numRuns: 25, seed: 8, endOnFailure: true },
    )
  }, 240_000)

  it('of a scatter: leaning, tilted, sized along each axis, with a mirrored source, copies that differ and one put down by hand', async () => {
    const surface = testId(9)
    const mix = [1, 2].map(stream => ({
      ...FIRST_INGREDIENT,
      source: testId(stream + 1),
      stream,
      lean: 0.6,
      tilt: 25,
      height: [-0.1, 0.2] as [number, number],
      sizes: [
        [0.5, 2],
        [1, 1],
        [0.3, 0.6],
      ] as [[number, number], [number, number], [number, number]],
    }))
    const rule = {
      ...RULES.scatter.first,
      on: [{ id: surface, stream: 1 }],
      mix,
      facing: 'normals' as const,
      measure: 'count' as const,
      count: 12,
      keepRoom: false,
    }
    const made = (exceptions: ArrangementOwn['exceptions']) => {
      const shapes = new ShapeLibrary()
      shapes.put(PART, 'mesh', mesh)
      const level: LevelView = new LevelView(
        [
          testPlacement(1, {
            kind: 'arrangement',
            own: { rule, exceptions },
            translation: [3, 1, 2],
            rotation: turned(35),
          }),
          testPlacement(2, { kind: 'part', partId: PART, parentId: A, rotation: turned(20), scale: [-1, 1, 1] }),
          testPlacement(3, { kind: 'part', partId: PART, parentId: A, translation: [5, 5, 5], pivot: [0.2, 0, 0.1] }),
          testPlacement(9, {
            kind: 'part',
            partId: PART,
            rotation: [0, 0, Math.sin(0.3), Math.cos(0.3)],
            scale: [6, 4, 9],
          }),
        ],
        {},
        { ground: null, lampsOf: () => [], dealt: () => dealAtOnce(level, { shapes, tagsOf: () => [] }, dealer, A) },
      )
      const dealer = dealerOver(shapes)
      return level
    }
    const keys = made({}).copies(A)!.keys
    expect(keys.count).toBe(12)
    const level = made({
      [keys.keyAt(1)]: { size: [-1, 2, 1] },
      [keys.keyAt(4)]: { hidden: true },
      '0,1,0': { added: { on: 1, below: 0, at: [1, 2, 0], up: [0, 1, 0], source: testId(2) }, move: [0, 0.3, 0] },
    })
    expect(level.copies(A)!.keys.count).toBe(13)
    await check(level)
  })

  it('of what is hidden are there like the hidden thing itself, by nodes and as instances', async () => {
    for (const instanced of [false, true]) {
      const found = await readTriangles(await levelGlb('Level', levelOf(line, { hidden: true }), parts, instanced))
      expect(found).toHaveLength(4 * 12)
    }
  })

  it('of lamps, cameras and markers below sources are there both ways', async () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: line }),
      testPlacement(2, { kind: 'part', partId: PART, parentId: A }),
      testPlacement(3, {
        name: 'Lamp',
        kind: 'light',
        own: lightOwn({ light: 'point', color: '#ffffff', intensity: 3, range: 4 }),
        parentId: testId(2),
        translation: [0, 2, 0],
      }),
    ])
    for (const instanced of [false, true]) {
      const { scene } = await new GLTFLoader().parseAsync(
        (await levelGlb('Level', level, parts, instanced)).slice().buffer,
        '',
      )
      scene.updateMatrixWorld(true)
      const lamps: number[] = []
      scene.traverse(object => {
        if (object.userData.placement === testId(3))
          lamps.push(Math.round(object.getWorldPosition(new Vector3()).x * 10) / 10)
      })
      expect(lamps.sort((a, b) => a - b)).toEqual([0, 1.5, 3, 4.5])
    }
  })

  it('that would be too many nodes are refused with what to do instead', async () => {
    const level = levelOf({ rule: { ...RULES.grid.first, counts: [1000, 1, 1000] } }, {})
    await expect(levelGlb('Level', level, parts)).rejects.toThrow(HandOverError)
    await expect(levelGlb('Level', level, parts)).rejects.toThrow('instances')
  })
})
