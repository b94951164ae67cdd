import bunny from 'bunny'
import fc from 'fast-check'
import type { Matrix4 } from 'three'
import { OrthographicCamera, PerspectiveCamera, Vector3, Vector4 } from 'three'
import { TeapotGeometry } from 'three/examples/jsm/geometries/TeapotGeometry.js'
import { describe, expect, it } from 'vitest'
import { LevelIndex } from '../../core/scene/level-index'
import { Solid } from '../../core/mesh/solid'
import type { LevelView } from '../../core/scene/level-view'
import { bareView } from '../../core/scene/level-view'
import { anyQuat, anyVec3, testId, testPlacement } from '../support'

const material = { name: 'Stone', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] } as const
const solidOf = (positions: ArrayLike<number>, indices: ArrayLike<number>) =>
  new Solid({
    primitives: [
      {
        material: { ...material },
        positions: Float32Array.from(positions),
        normals: new Float32Array(positions.length),
        indices: Uint32Array.from(indices),
      },
    ],
  })

/** The Stanford bunny as the package `bunny` carries it, and the Utah teapot (Newell 1975) as three carries it. */
const teapot = new TeapotGeometry(3, 4)
const shapes = [
  solidOf(bunny.positions.flat(), bunny.cells.flat()),
  solidOf(teapot.getAttribute('position').array, teapot.getIndex()!.array),
]

type Rect = { x0: number; y0: number; x1: number; y1: number }

/**
 * Whether a triangle and a rectangle meet in the plane, by separating axes (Gottschalk, Lin and Manocha 1996, in two
 * dimensions).
 */
function overlap2d(triangle: [number, number][], { x0, y0, x1, y1 }: Rect): boolean {
  const corners: [number, number][] = [
    [x0, y0],
    [x1, y0],
    [x1, y1],
    [x0, y1],
  ]
  const axes: [number, number][] = [
    [1, 0],
    [0, 1],
    ...triangle.map(([x, y], i): [number, number] => {
      const [nx, ny] = triangle[(i + 1) % 3]!
      return [y - ny, nx - x]
    }),
  ]
  return axes.every(([ax, ay]) => {
    const along = (points: [number, number][]) => points.map(([x, y]) => x * ax + y * ay)
    const [a, b] = [along(triangle), along(corners)]
    return Math.max(...a) >= Math.min(...b) && Math.max(...b) >= Math.min(...a)
  })
}

/**
 * Every triangle of every placement, projected and looked at one by one; null if a corner is not before the near plane.
 */
function bruteForce(level: LevelView, solids: Map<string, Solid>, projection: Matrix4, frame: Rect) {
  const [touch, inside]: [string[], string[]] = [[], []]
  for (const { id } of level.placements()) {
    const { positions, indices } = solids.get(id)!.mesh.primitives[0]!
    const matrix = projection.clone().multiply(level.worldMatrix(id))
    const points: [number, number][] = []
    for (let i = 0; i < positions.length; i += 3) {
      const clip = new Vector4(positions[i], positions[i + 1], positions[i + 2], 1).applyMatrix4(matrix)
      if (clip.z < -clip.w) return null
      points.push([clip.x / clip.w, clip.y / clip.w])
    }
    let [any, all] = [false, true]
    for (let i = 0; i < indices.length; i += 3) {
      const triangle = [points[indices[i]!]!, points[indices[i + 1]!]!, points[indices[i + 2]!]!] as [number, number][]
      any ||= overlap2d(triangle, frame)
      all &&= triangle.every(([x, y]) => x >= frame.x0 && x <= frame.x1 && y >= frame.y0 && y <= frame.y1)
    }
    if (any) touch.push(id)
    if (all) inside.push(id)
  }
  return { touch: touch.sort(), inside: inside.sort() }
}

const anySmallFrame = fc
  .tuple(...Array.from({ length: 4 }, () => fc.double({ min: -0.9, max: 0.9, noNaN: true })))
  .map(([a, b, c, d]) => ({ x0: Math.min(a!, b!), x1: Math.max(a!, b!), y0: Math.min(c!, d!), y1: Math.max(c!, d!) }))
  // A frame without area is a click, not a frame.
  .filter(({ x0, y0, x1, y1 }) => x1 - x0 > 0.01 && y1 - y0 > 0.01)
const anyFrame = fc.oneof(
  anySmallFrame,
  anySmallFrame.map(({ x0, y0, x1, y1 }) => ({
    x0: -Math.abs(x0) - 0.05,
    x1: Math.abs(x1) + 0.05,
    y0: -Math.abs(y0) - 0.05,
    y1: Math.abs(y1) + 0.05,
  })),
)
const anyPlace = fc.record({
  translation: anyVec3.map(at => at.map(value => value * 0.7) as [number, number, number]),
  rotation: anyQuat,
  shape: fc.nat(1),
  mirrored: fc.boolean(),
})

describe('picking with a frame', () => {
  for (const orthographic of [false, true]) {
    it(`takes what looking at every triangle takes (${orthographic ? 'orthographic' : 'perspective'})`, () => {
      let [touched, held] = [0, 0]
      fc.assert(
        fc.property(fc.array(anyPlace, { minLength: 1, maxLength: 8 }), anyFrame, (places, frame) => {
          const solids = new Map(places.map(({ shape }, i) => [testId(i + 1), shapes[shape]!]))
          const level = bareView(
            places.map(({ translation, rotation, mirrored }, i) =>
              testPlacement(i + 1, {
                kind: 'part',
                partId: testId(i + 1),
                translation,
                rotation,
                scale: [mirrored ? -1 : 1, 1, 1],
              }),
            ),
          )
          const camera = orthographic
            ? new OrthographicCamera(-60, 60, 40, -40, 0.1, 400)
            : new PerspectiveCamera(50, 1.5, 0.1, 400)
          camera.position.set(60, 70, 110)
          camera.lookAt(new Vector3())
          camera.updateMatrixWorld()
          const projection = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
          const expected = bruteForce(level, solids, projection, frame)
          fc.pre(expected !== null)
          const index = new LevelIndex(level, shape => solids.get(shape))
          expect(index.pickInFrame(projection, frame, 'touch').sort()).toEqual(expected!.touch)
          expect(index.pickInFrame(projection, frame, 'inside').sort()).toEqual(expected!.inside)
          touched += expected!.touch.length
          held += expected!.inside.length
        }),
        { numRuns: 80 },
      )
      expect(touched).toBeGreaterThan(40)
      expect(held).toBeGreaterThan(2)
    }, 120_000)
  }

  it('does not take a long diagonal thing whose box merely overlaps the frame', () => {
    const rail = solidOf([0, 0, 0, 0.1, 0, 0, 10, 10, 0, 9.9, 10, 0], [0, 1, 2, 0, 2, 3])
    const level = bareView([testPlacement(1, { kind: 'part', partId: testId(99) })])
    const index = new LevelIndex(level, () => rail)
    const camera = new OrthographicCamera(-1, 11, 11, -1, 0.1, 100)
    camera.position.z = 10
    camera.updateMatrixWorld()
    const projection = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
    const frameOf = (x0: number, y0: number, x1: number, y1: number) => ({
      x0: (x0 - 5) / 6,
      y0: (y0 - 5) / 6,
      x1: (x1 - 5) / 6,
      y1: (y1 - 5) / 6,
    })
    expect(index.pickInFrame(projection, frameOf(6, 1, 9, 4), 'touch')).toEqual([])
    expect(index.pickInFrame(projection, frameOf(4, 4, 6, 6), 'touch')).toEqual([testId(1)])
    expect(index.pickInFrame(projection, frameOf(4, 4, 6, 6), 'inside')).toEqual([])
    expect(index.pickInFrame(projection, frameOf(-0.5, -0.5, 10.5, 10.5), 'inside')).toEqual([testId(1)])
  })
})
