import { cameraOwn } from '../../level/create'
import fc from 'fast-check'
import { BoxGeometry, CylinderGeometry, PlaneGeometry, Quaternion, Ray, TorusKnotGeometry, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import {
  aimAt,
  anyQuat,
  anyVec3,
  levelOfBoxes,
  testId,
  testPlacement,
  testSolid,
  worldVertices,
} from '../../../tests/support'
import { RULES } from '../../arrange/rules'
import { localAxes } from '../handles/axes'
import { pivotOf } from '../handles/pivot'
import { applyChange } from '../../level/change'
import type { Vec3 } from '../../math/vectors'
import { degreesToQuat } from '../../math/transform'
import { meshOfBlockKey, shapeKey } from '../../mesh/block-key'
import { Solid } from '../../mesh/solid'
import { LevelIndex } from '../../scene/level-index'
import { bareView } from '../../scene/level-view'
import { Abut } from './abut'
import { facePlacements } from './face'
import { featuresOf } from '../../mesh/features'
import { WORLD_GRID } from './grid'
import { Resting } from './rest'
import { setDown } from './set-down'
import { MoveSnapper } from './snap-move'
import type { MoveSnaps } from './snap-move'
import { findSnapPoint, SNAP_POINT_KINDS } from './vertex'

const all = new Set(SNAP_POINT_KINDS)
const any = () => true

describe('the features of a mesh', () => {
  it('of a box are its twelve edges and six faces, not the lines across them', () => {
    const [primitive] = testSolid(new BoxGeometry(1, 2, 3)).mesh.primitives
    const { edges, middles } = featuresOf(primitive!)
    // Each edge is seen from the two triangles beside it.
    expect(edges.reduce((sum, bits) => sum + [1, 2, 4].filter(bit => bits & bit).length, 0)).toBe(24)
    expect(middles).toHaveLength(6)
    expect(middles.map(middle => middle.toArray().map(value => Math.round(value * 1e6) / 1e6 + 0)).sort()).toEqual(
      [
        [-0.5, 1, 0],
        [0, 0, 0],
        [0, 1, -1.5],
        [0, 1, 1.5],
        [0, 2, 0],
        [0.5, 1, 0],
      ].sort(),
    )
  })

  it('of a cylinder have the middle of its round end as the middle of a face', () => {
    const [primitive] = testSolid(new CylinderGeometry(1, 1, 2, 24)).mesh.primitives
    const ends = featuresOf(primitive!).middles.filter(middle => Math.hypot(middle.x, middle.z) < 1e-6)
    expect(ends.map(middle => Math.round(middle.y * 1e6) / 1e6).sort()).toEqual([0, 2])
  })
})

describe('vertex snap', () => {
  const eye: Vec3 = [3, 4, 6]
  const middle: Vec3 = [0, 0.5, 0]

  it('finds the corner, the middle of an edge or of a face, or the pivot under the pointer', () => {
    const { level, index } = levelOfBoxes([{ size: [1, 1, 1], pivot: [0.5, 0, 0.1], translation: [0.5, 0, 0.1] }])
    const found = (over: Vec3, kinds = all) => {
      const point = findSnapPoint(level, index, aimAt(eye, middle, over), kinds, any)
      return point && [point.kind, ...point.point.toArray().map(value => Math.round(value * 1e6) / 1e6 + 0)]
    }
    expect(found([0.5, 1, 0.5])).toEqual(['vertex', 0.5, 1, 0.5])
    expect(found([0.5, 1, 0.49])).toEqual(['vertex', 0.5, 1, 0.5])
    expect(found([0.5, 1, 0])).toEqual(['edge', 0.5, 1, 0])
    expect(found([0, 1, 0])).toEqual(['face', 0, 1, 0])
    expect(found([0.5, 0, 0.1])).toEqual(['pivot', 0.5, 0, 0.1])
    expect(findSnapPoint(level, index, aimAt([0.9, 1.6, 1.2], middle, [0.25, 1, 0.25]), all, any)).toBeNull()
    expect(found([0.5, 1, 0.5], new Set(['face'] as const))).toBeNull()
  })

  it('passes over what is hidden behind something', () => {
    const { level, index } = levelOfBoxes([{ size: [1, 1, 1] }, { size: [4, 4, 0.2], translation: [0, -1, 2] }])
    expect(findSnapPoint(level, index, aimAt([0, 1, 8], middle, [0.5, 1, 0.5]), all, id => id === testId(1))?.id).toBe(
      testId(1),
    )
    expect(findSnapPoint(level, index, aimAt([0, 1, 8], middle, [0.5, 1, 0.5]), all, any)).toBeNull()
  })

  it('finds the pivot of each copy where it stands', () => {
    const { level, index } = levelOfBoxes([
      { kind: 'arrangement', own: { rule: { ...RULES.line.first, count: 3, along: [2, 0, 0] } } },
      { size: [0.4, 1, 0.4], parentId: testId(1), pivot: [0, 1, 0], translation: [0, 1, 0] },
    ])
    for (const x of [0, 2, 4]) {
      const found = findSnapPoint(level, index, aimAt([x + 1, 3, 6], [x, 0.5, 0], [x, 1, 0]), new Set(['pivot']), any)
      expect(found?.point.toArray().map(value => Math.round(value * 1e9) / 1e9)).toEqual([x, 1, 0])
    }
  })

  it('brings the source to the target, but only along what is free', () => {
    const { level, index } = levelOfBoxes([{ size: [1, 1, 1], translation: [-3, 0, 0] }, { size: [1, 2, 1] }])
    const source = new Vector3(-2.5, 1, 0.5)
    const snapper = new MoveSnapper(level, index, [testId(1)], testId(1), source, any)
    const snaps: MoveSnaps = {
      grid: { size: 0.25, lattice: true, frame: WORLD_GRID },
      abut: true,
      vertex: all,
      hug: null,
    }
    const aim = aimAt(eye, middle, [0.5, 2, 0.5])
    const free = snapper.snap(new Vector3(1, 1, 1), { kind: 'view' }, new Quaternion(), snaps, aim)
    expect(
      free.offset
        .clone()
        .add(source)
        .distanceTo(new Vector3(0.5, 2, 0.5)),
    ).toBeLessThan(1e-9)
    expect(free.catches).toMatchObject([{ by: 'vertex', target: { id: testId(2), kind: 'vertex' } }])
    const locked = snapper.snap(new Vector3(1, 0, 0), { kind: 'axis', axis: 1 }, new Quaternion(), snaps, aim)
    expect(locked.offset.toArray().map(value => Math.round(value * 1e9) / 1e9)).toEqual([0, 1, 0])
    const inPlane = snapper.snap(new Vector3(1, 0, 0), { kind: 'plane', axis: 1 }, new Quaternion(), snaps, aim)
    expect(inPlane.offset.toArray().map(value => Math.round(value * 1e9) / 1e9)).toEqual([3, 0, 0])
  })

  it('never catches the thing that is dragged', () => {
    const { level, index } = levelOfBoxes([{ size: [1, 1, 1] }])
    const snapper = new MoveSnapper(level, index, [testId(1)], testId(1), new Vector3(), any)
    const { catches } = snapper.snap(
      new Vector3(0, 0, 0),
      { kind: 'view' },
      new Quaternion(),
      { grid: { size: 0, lattice: true, frame: WORLD_GRID }, abut: false, vertex: all, hug: null },
      aimAt(eye, middle, [0.5, 1, 0.5]),
    )
    expect(catches).toEqual([])
  })
})

describe('abut', () => {
  const free = [new Vector3(1, 0, 0), new Vector3(0, 1, 0), new Vector3(0, 0, 1)]

  it('lets faces meet exactly when they come near, and sides come flush, whatever the sizes and turns', () => {
    const anySide = fc.double({ min: 0.3, max: 3, noNaN: true }).map(value => Math.round(value * 1000) / 1000)
    fc.assert(
      fc.property(
        fc.tuple(anySide, anySide, anySide),
        fc.tuple(anySide, anySide, anySide),
        anyQuat,
        anyVec3,
        (a, b, rotation, at) => {
          const turn = new Quaternion(...rotation)
          // The second stands 4 cm beside the first along its X, 3 cm out of line along its Z.
          const beside = new Vector3(a[0] / 2 + b[0] / 2 + 0.04, 0, 0.03 + (a[2] - b[2]) / 2)
            .applyQuaternion(turn)
            .add(new Vector3(...at))
          const { level, index } = levelOfBoxes([
            { size: a, rotation, translation: at },
            { size: b, rotation, translation: beside.toArray() },
          ])
          const abut = new Abut(index, new Set([testId(2)]), localAxes(level, testId(2)))
          const { offset, abutments } = abut.snap(new Vector3(), new Vector3(), free, 0.05)
          const moved = offset.clone().applyQuaternion(turn.clone().invert())
          expect(moved.x).toBeCloseTo(-0.04, 5)
          // Which two sides are nearest depends on the sizes; either way they end up in one plane.
          const sides = [0.03 + moved.z, 0.03 + (a[2] - b[2]) + moved.z]
          expect(Math.min(...sides.map(Math.abs))).toBeLessThan(1e-5)
          expect(abutments.map(({ kind }) => kind)).toContain('abut')
          expect(abutments.find(({ kind }) => kind === 'abut')!.corners).toHaveLength(4)
        },
      ),
    )
  })

  it('meets blocks of kilometres to a micrometre, at any size that single precision cannot hold', () => {
    const anySide = fc.double({ min: 500, max: 9000, noNaN: true })
    fc.assert(
      fc.property(anySide, anySide, (a, b) => {
        const solids = new Map(
          [a, b].map((width, i) => [
            testId(1001 + i),
            new Solid(
              meshOfBlockKey(shapeKey({ shape: { type: 'box', width, height: 3, depth: 5 }, color: '#808080' })),
            ),
          ]),
        )
        const level = bareView(
          [1, 2].map(n =>
            testPlacement(n, {
              kind: 'part',
              partId: testId(1000 + n),
              translation: [n === 1 ? 0 : (a + b) / 2 + 0.04, 0, 0],
            }),
          ),
        )
        const abut = new Abut(new LevelIndex(level, shape => solids.get(shape)), new Set([testId(2)]), new Quaternion())
        expect(
          Math.abs(abut.snap(new Vector3(), new Vector3(), [new Vector3(1, 0, 0)], 0.05).offset.x + 0.04),
        ).toBeLessThan(1e-6)
      }),
      { numRuns: 40 },
    )
  })

  it('lets go beyond the tolerance, and does not see what is not beside', () => {
    const { index } = levelOfBoxes([
      { size: [1, 1, 1] },
      { size: [1, 1, 1], translation: [1.06, 0, 0] },
      { size: [1, 1, 1], translation: [5, 5, 5] },
    ])
    const abut = new Abut(index, new Set([testId(2)]), new Quaternion())
    expect(abut.snap(new Vector3(), new Vector3(), free, 0.05).abutments).toEqual([])
    expect(abut.snap(new Vector3(-0.02, 0, 0), new Vector3(-0.02, 0, 0), free, 0.05).offset.x).toBeCloseTo(-0.06, 9)
  })

  it('moves only along what is free', () => {
    const { index } = levelOfBoxes([{ size: [1, 1, 1] }, { size: [1, 1, 1], translation: [1.03, 0, 0.02] }])
    const abut = new Abut(index, new Set([testId(2)]), new Quaternion())
    const { offset } = abut.snap(new Vector3(), new Vector3(), [new Vector3(1, 0, 0)], 0.05)
    expect(offset.x).toBeCloseTo(-0.03, 9)
    expect([offset.y, offset.z]).toEqual([0, 0])
  })

  it('is not pulled off the nearer of two faces by the farther one', () => {
    // A slot of 1.04 m: the left wall is 1 cm off, the right one 3 cm.
    const { index } = levelOfBoxes([
      { size: [1, 1, 1], translation: [-1.01, 0, 0] },
      { size: [1, 1, 1] },
      { size: [1, 1, 1], translation: [1.03, 0, 0] },
    ])
    const abut = new Abut(index, new Set([testId(2)]), new Quaternion())
    expect(abut.snap(new Vector3(), new Vector3(), free, 0.05).offset.x).toBeCloseTo(-0.01, 9)
  })

  it('does not come flush with what it only passes by', () => {
    // The neighbour shares the plane of a face, but stands 4 cm aside in depth, where the move is not free to go.
    const { index } = levelOfBoxes([{ size: [1, 1, 1], translation: [1, 0.03, 1.04] }, { size: [1, 1, 1] }])
    const abut = new Abut(index, new Set([testId(2)]), new Quaternion())
    expect(abut.snap(new Vector3(), new Vector3(), [new Vector3(0, 1, 0)], 0.05)).toEqual({
      offset: new Vector3(),
      abutments: [],
    })
  })

  it('leaves what it does not catch to the grid', () => {
    const { level, index } = levelOfBoxes([{ size: [1, 1, 4] }, { size: [1, 1, 1], translation: [1.3, 0, 0] }])
    const snapper = new MoveSnapper(level, index, [testId(2)], testId(2), new Vector3(1.3, 0, 0), any)
    const { offset, catches } = snapper.snap(
      new Vector3(-0.28, 0, 0.61),
      { kind: 'plane', axis: 1 },
      new Quaternion(),
      { grid: { size: 0.25, lattice: true, frame: WORLD_GRID }, abut: true, vertex: null, hug: null },
      aimAt([0, 3, 5], [0, 0, 0], [1, 0, 0]),
    )
    expect(offset.toArray()).toEqual([-0.3, 0, 0.5])
    expect(catches.map(({ by }) => by)).toEqual(['abut', 'grid'])
  })
})

describe('resting', () => {
  /** A slope of 20 degrees about Z, large enough for everything. */
  const SLOPE = 20
  const normal = new Vector3(-Math.sin((SLOPE * Math.PI) / 180), Math.cos((SLOPE * Math.PI) / 180), 0)

  it('by the lowest point leaves no gap and no dent, upright or leaning, whatever the turn and size', () => {
    fc.assert(
      fc.property(
        anyQuat,
        anyVec3,
        fc.boolean(),
        fc.double({ min: 0, max: 0.5, noNaN: true }),
        (rotation, at, leaning, offset) => {
          const { level, index } = levelOfBoxes([{ size: [1, 2, 0.5], rotation, translation: at, scale: [1, 1.5, 2] }])
          const point = new Vector3(at[0], 3, at[2])
          const { turn, move } = new Resting(level, index, testId(1)).on(
            { point, normal },
            { rest: 'lowest', leaning, offset },
          )
          const pivot = pivotOf(level, testId(1))
          const points = worldVertices(level, index, testId(1)).map(vertex =>
            vertex.sub(pivot).applyQuaternion(turn).add(pivot).add(move),
          )
          const up = leaning ? normal : new Vector3(0, 1, 0)
          expect(Math.min(...points.map(vertex => vertex.clone().sub(point).dot(up)))).toBeCloseTo(offset, 5)
        },
      ),
    )
  })

  it('with nothing below the surface stands on what touches it first, upright, whatever the turn and size', () => {
    fc.assert(
      fc.property(anyQuat, anyVec3, fc.double({ min: 0, max: 0.5, noNaN: true }), (rotation, at, offset) => {
        const { level, index } = levelOfBoxes([{ size: [1, 2, 0.5], rotation, translation: at, scale: [1, 1.5, 2] }])
        const point = new Vector3(at[0], 3, at[2])
        const { turn, move } = new Resting(level, index, testId(1)).on(
          { point, normal },
          { rest: 'clear', leaning: false, offset },
        )
        expect(turn.w).toBe(1)
        const above = worldVertices(level, index, testId(1)).map(vertex => vertex.add(move).sub(point).dot(normal))
        expect(Math.min(...above)).toBeCloseTo(offset, 5)
      }),
    )
  })

  it('by the pivot puts the pivot onto the surface', () => {
    const { level, index } = levelOfBoxes([{ size: [1, 1, 1], pivot: [0, 0.5, 0], translation: [2, 7, 1] }])
    const { move } = new Resting(level, index, testId(1)).on(
      { point: new Vector3(2, 3, 1), normal },
      { rest: 'pivot', leaning: false, offset: 0 },
    )
    expect(move.toArray()).toEqual([0, -4, 0])
  })

  it('lays that side along a slope that points up, by the smallest turn', () => {
    // Lying on its side: its X points up.
    const { level, index } = levelOfBoxes([{ size: [1, 2, 0.5], rotation: degreesToQuat([0, 0, 90]) }])
    const { turn } = new Resting(level, index, testId(1)).on(
      { point: new Vector3(), normal },
      { rest: 'lowest', leaning: true, offset: 0 },
    )
    const x = new Vector3(1, 0, 0).applyQuaternion(new Quaternion(...degreesToQuat([0, 0, 90]))).applyQuaternion(turn)
    expect(x.distanceTo(normal)).toBeLessThan(1e-9)
    expect((2 * Math.acos(turn.w) * 180) / Math.PI).toBeCloseTo(SLOPE, 9)
  })
})

describe('set down', () => {
  const rule = { rest: 'lowest' as const, leaning: false, offset: 0 }
  const ground = { size: [20, 1, 20] as Vec3, translation: [0, -1, 0] as Vec3 }

  it('leaves a gap of 0 for each thing, or reports it', () => {
    const anyThing = fc.record({
      rotation: anyQuat,
      x: fc.integer({ min: -12, max: 12 }),
      y: fc.double({ min: -0.9, max: 30, noNaN: true }),
    })
    fc.assert(
      fc.property(fc.array(anyThing, { minLength: 1, maxLength: 6, size: 'max' }), things => {
        const { level, index } = levelOfBoxes([
          ground,
          ...things.map(({ rotation, x, y }, i) => ({
            size: [0.3, 0.2, 0.4] as Vec3,
            rotation,
            translation: [x, y, i * 2 - 6] as Vec3,
          })),
        ])
        const ids = things.map((_, i) => testId(i + 2))
        const { operations, down, without } = setDown(level, index, new Set(ids), rule)
        expect([...down, ...without].sort()).toEqual([...ids].sort())
        const before = new Map(without.map(id => [id, level.need(id)]))
        applyChange(level, operations)
        for (const id of down) {
          const lowest = Math.min(...worldVertices(level, index, id).map(({ y }) => y))
          expect(lowest).toBeCloseTo(0, 5)
        }
        for (const id of without) expect(level.need(id)).toBe(before.get(id))
      }),
    )
  })

  it('leaves neither gap nor dent on a slope, leaning, wherever the pivot is', () => {
    const turn = 16.7
    const up = new Vector3(-Math.sin((turn * Math.PI) / 180), Math.cos((turn * Math.PI) / 180), 0)
    const far = fc.double({ min: -3, max: 3, noNaN: true })
    fc.assert(
      fc.property(fc.tuple(far, far, far), fc.integer({ min: 0, max: 359 }), (pivot, heading) => {
        // The slab's upper side goes through the origin.
        const { level, index } = levelOfBoxes([
          {
            size: [60, 1, 60],
            rotation: degreesToQuat([0, 0, turn]),
            translation: up.clone().multiplyScalar(-1).toArray(),
          },
          {
            size: [1, 1, 1],
            pivot,
            rotation: degreesToQuat([0, heading, 0]),
            translation: [pivot[0], pivot[1] + 3, pivot[2]],
          },
        ])
        const { operations, down } = setDown(
          level,
          index,
          new Set([testId(2)]),
          { ...rule, leaning: true },
          { above: 5, below: 20 },
        )
        expect(down).toEqual([testId(2)])
        applyChange(level, operations)
        expect(Math.min(...worldVertices(level, index, testId(2)).map(vertex => vertex.dot(up)))).toBeCloseTo(0, 5)
      }),
      { numRuns: 60 },
    )
  })

  it('buries no corner where that is asked for, on ground that goes up and down', () => {
    const mound = (x: number, z: number) => Math.sin(x) * 0.4 + Math.cos(z * 1.3) * 0.3
    const ground = new PlaneGeometry(12, 12, 60, 60).rotateX(-Math.PI / 2)
    const points = ground.getAttribute('position')
    for (let i = 0; i < points.count; i++) points.setY(i, mound(points.getX(i), points.getZ(i)))
    for (const shape of [new BoxGeometry(1, 0.5, 2), new TorusKnotGeometry(0.5, 0.2, 80, 10)]) {
      const solids = new Map([
        [testId(1001), testSolid(ground)],
        [testId(1002), testSolid(shape)],
      ])
      const things = [
        [0, 2],
        [2.3, 5],
        [-3, 4],
        [1.1, 3],
      ].map(([x, y], i) =>
        testPlacement(i + 2, {
          kind: 'part',
          partId: testId(1002),
          translation: [x!, y!, x! * 0.7],
          rotation: degreesToQuat([0, i * 40, 0]),
        }),
      )
      const level = bareView([testPlacement(1, { kind: 'part', partId: testId(1001) }), ...things])
      const index = new LevelIndex(level, each => solids.get(each))
      const { operations, down } = setDown(level, index, new Set(things.map(({ id }) => id)), {
        ...rule,
        rest: 'clear',
      })
      expect(down).toHaveLength(4)
      applyChange(level, operations)
      for (const id of down) {
        // Looking at every vertex, from above.
        const gaps = worldVertices(level, index, id).map(
          ({ x, y, z }) =>
            y
            - index.raycast(new Ray(new Vector3(x, 9, z), new Vector3(0, -1, 0)), other => other === testId(1))!.point
              .y,
        )
        expect(Math.min(...gaps)).toBeGreaterThan(-0.01)
        expect(Math.min(...gaps)).toBeLessThan(1e-3)
        if (shape instanceof BoxGeometry) expect(Math.min(...gaps)).toBeCloseTo(0, 5)
      }
    }
  })

  it('looks from 1 m above to 10 m below, and takes nothing that is picked for ground', () => {
    const { level, index } = levelOfBoxes([
      ground,
      { size: [1, 1, 1], translation: [0, 3, 0] },
      { size: [1, 1, 1], translation: [0, 6, 0] },
      { size: [1, 1, 1], translation: [4, 10.5, 0] },
      { size: [1, 1, 1], translation: [-4, -0.8, 0] },
      { size: [1, 1, 1], translation: [-7, -1.6, 0] },
    ])
    const { operations, without } = setDown(level, index, new Set([2, 3, 4, 5, 6].map(testId)), rule)
    applyChange(level, operations)
    const heights = [2, 3, 4, 5, 6].map(n => level.need(testId(n)).translation[1])
    // Both of the pile come down to the ground; 10.5 m is too far; 0.8 m below comes up; 1.6 m below does not.
    expect(heights).toEqual([0, 0, 10.5, 0, -1.6])
    expect(without).toEqual([testId(4), testId(6)])
    const further = setDown(level, index, new Set([testId(4)]), rule, { above: 1, below: 20 })
    expect(further.down).toEqual([testId(4)])
  })

  it('sets a group down as a whole, and what rests already stays to the bit', () => {
    const { level, index } = levelOfBoxes([
      ground,
      { translation: [0, 2, 0] },
      { size: [1, 1, 1], parentId: testId(2), translation: [0, 0.5, 0] },
      { size: [1, 1, 1], parentId: testId(2), translation: [0, 1.5, 0] },
    ])
    applyChange(level, setDown(level, index, new Set([testId(2)]), rule).operations)
    expect(level.need(testId(2)).translation).toEqual([0, -0.5, 0])
    expect(level.need(testId(3)).translation).toEqual([0, 0.5, 0])
    expect(setDown(level, index, new Set([testId(2)]), rule)).toEqual({
      operations: [],
      down: [testId(2)],
      without: [],
    })
  })
})

describe('hugging', () => {
  const hug = { onto: 'everything' as const, rest: 'lowest' as const, leaning: false, offset: 0 }
  const snaps = (change: Partial<MoveSnaps> = {}): MoveSnaps => ({
    grid: { size: 0, lattice: true, frame: WORLD_GRID },
    abut: false,
    vertex: null,
    hug,
    ...change,
  })

  it('follows steps and edges under the pointer, never itself or others that are dragged', () => {
    const { level, index } = levelOfBoxes([
      { size: [4, 1, 4], translation: [4, 0, 0] },
      { size: [1, 1, 1], translation: [-1, 0, 0] },
      { size: [1, 0.2, 1], parentId: testId(2), translation: [0, 1, 0] },
      { size: [1, 1, 1], translation: [-1, 0, 2] },
    ])
    const snapper = new MoveSnapper(level, index, [testId(2), testId(4)], testId(2), pivotOf(level, testId(2)), any)
    const to = (over: Vec3) => {
      index.update(applyChange(level, []).touched)
      const { operations, catches } = snapper.snap(
        new Vector3(),
        { kind: 'view' },
        new Quaternion(),
        snaps(),
        aimAt([-2, 9, 9], [0, 0, 0], over),
      )
      return {
        at: operations.map(
          operation =>
            operation.do === 'put' && operation.fields.translation!.map(value => Math.round(value * 1e5) / 1e5),
        ),
        catches,
      }
    }
    expect(to([-1, 1, 0])).toMatchObject({ catches: [{ by: 'hug', surfaceId: null }] })
    expect(to([3, 1, 0])).toMatchObject({
      at: [
        [3, 1, 0],
        [3, 1, 2],
      ],
      catches: [{ by: 'hug', surfaceId: testId(1) }],
    })
    expect(to([1, 0, 1]).at).toEqual([
      [1, 0, 1],
      [1, 0, 3],
    ])
  })

  it('takes only ground for ground when asked to', () => {
    const { level, index } = levelOfBoxes([
      { size: [4, 1, 4], translation: [4, 0, 0] },
      { size: [1, 1, 1], translation: [-1, 0, 0] },
    ])
    const snapper = new MoveSnapper(level, index, [testId(2)], testId(2), pivotOf(level, testId(2)), () => false)
    const { offset } = snapper.snap(
      new Vector3(),
      { kind: 'view' },
      new Quaternion(),
      snaps({ hug: { ...hug, onto: 'ground' } }),
      aimAt([4, 9, 0.1], [4, 0, 0], [4, 1, 0]),
    )
    expect(pivotOf(level, testId(2)).add(offset).y).toBe(0)
  })

  it('leans with a slope, and keeps the grid in plan', () => {
    const { level, index } = levelOfBoxes([
      { size: [30, 1, 30], rotation: degreesToQuat([0, 0, 20]) },
      { size: [1, 1, 1], translation: [0, 3, 0] },
    ])
    const snapper = new MoveSnapper(level, index, [testId(2)], testId(2), pivotOf(level, testId(2)), any)
    const { operations } = snapper.snap(
      new Vector3(2.1, 0, 0.6),
      { kind: 'plane', axis: 1 },
      new Quaternion(),
      snaps({ grid: { size: 0.5, lattice: true, frame: WORLD_GRID }, hug: { ...hug, leaning: true } }),
      aimAt([0, 9, 9], [0, 0, 0], [0, 1, 0]),
    )
    applyChange(level, operations)
    const { translation, rotation } = level.need(testId(2))
    expect([translation[0], translation[2]]).toEqual([2, 0.5])
    const up = new Vector3(0, 1, 0).applyQuaternion(new Quaternion(...rotation))
    expect((Math.acos(up.y) * 180) / Math.PI).toBeCloseTo(20, 4)
    // Up the slope by tan 20° of the way, over its top that stands 1 / cos 20° above the axis.
    expect(translation[1]).toBeCloseTo(2 * Math.tan((20 * Math.PI) / 180) + 1 / Math.cos((20 * Math.PI) / 180), 4)
  })
})

describe('facing', () => {
  it('points the front at a point, upright or not', () => {
    fc.assert(
      fc.property(anyQuat, anyVec3, anyVec3, fc.boolean(), (rotation, translation, target, upright) => {
        const { level } = levelOfBoxes([{ rotation, translation }])
        const towards = new Vector3(...target).sub(new Vector3(...translation))
        const before = new Vector3(0, 0, 1).applyQuaternion(new Quaternion(...rotation))
        fc.pre(Math.hypot(towards.x, towards.z) > 0.1 && Math.hypot(before.x, before.z) > 0.1)
        applyChange(level, facePlacements(level, [testId(1)], { point: new Vector3(...target) }, upright))
        const front = new Vector3(0, 0, 1).applyQuaternion(new Quaternion(...level.need(testId(1)).rotation))
        if (upright) {
          expect(Math.sin(Math.atan2(front.x, front.z) - Math.atan2(towards.x, towards.z))).toBeCloseTo(0, 6)
          expect(front.x * towards.x + front.z * towards.z).toBeGreaterThan(0)
          expect(front.y).toBeCloseTo(before.y, 9)
        } else expect(front.distanceTo(towards.normalize())).toBeLessThan(1e-6)
      }),
    )
  })

  it('looks along -Z with a camera, as glTF has it, and away from a wall', () => {
    const { level } = levelOfBoxes([{ kind: 'camera', own: cameraOwn({ fieldOfView: 50 }) }, {}])
    applyChange(level, facePlacements(level, [testId(1)], { point: new Vector3(5, 0, 0) }, false))
    const look = new Vector3(0, 0, -1).applyQuaternion(new Quaternion(...level.need(testId(1)).rotation))
    expect(look.distanceTo(new Vector3(1, 0, 0))).toBeLessThan(1e-9)
    applyChange(level, facePlacements(level, [testId(2)], { direction: new Vector3(-1, 0, 0) }, true))
    const front = new Vector3(0, 0, 1).applyQuaternion(new Quaternion(...level.need(testId(2)).rotation))
    expect(front.distanceTo(new Vector3(-1, 0, 0))).toBeLessThan(1e-9)
  })
})
