import fc from 'fast-check'
import { BoxGeometry, IcosahedronGeometry, Matrix4, Quaternion, Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { levelOfBoxes, testId, testSolid } from '../../tests/support'
import { degreesToQuat } from '../math/transform'
import type { Vec3 } from '../math/vectors'
import { Placed } from '../mesh/placed'
import { overlapOf } from '../mesh/overlap'
import { boundsOf, fallingOf, fixedAround, settleScene } from './scene'
import type { SettleScene } from './settle'
import { loadPhysics, Settling } from './settle'

beforeAll(loadPhysics)

function run(scene: SettleScene) {
  const settling = new Settling(scene)
  const energies: number[] = [settling.energy]
  while (!settling.isDone) {
    settling.step()
    energies.push(settling.energy)
  }
  const found = settling.matrices()
  const { seconds, resting } = settling
  settling.dispose()
  return {
    matrices: scene.falling.map((_, i) => new Matrix4().fromArray(found, i * 16)),
    numbers: [...found],
    energies,
    seconds,
    resting,
  }
}

const sceneOf = (boxes: Parameters<typeof levelOfBoxes>[0], ids: number[], as: 'hull' | 'box' = 'hull') => {
  const { level, index } = levelOfBoxes(boxes)
  return settleScene(level, index, ids.map(testId), () => as)
}
const floor = { size: [20, 1, 20] as Vec3, translation: [0, -1, 0] as Vec3 }
const atOdds = fc.tuple(
  fc.double({ min: -180, max: 180, noNaN: true }),
  fc.double({ min: -180, max: 180, noNaN: true }),
  fc.double({ min: -180, max: 180, noNaN: true }),
)

describe('settling', () => {
  it('a box dropped on a plane comes to rest with a face on it, however it was turned and sized', () => {
    fc.assert(
      fc.property(
        atOdds,
        fc.constantFrom<'hull' | 'box'>('hull', 'box'),
        fc.constantFrom<Vec3>([1, 1, 1], [1, 2, 0.5], [-1, 1, 1]),
        (turn, as, scale) => {
          const {
            matrices: [matrix],
            resting,
          } = run(
            sceneOf(
              [floor, { size: [0.8, 0.6, 0.7], translation: [0, 2, 0], rotation: degreesToQuat(turn), scale }],
              [2],
              as,
            ),
          )
          expect(resting).toBe(1)
          const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
          matrix!.extractBasis(x, y, z)
          // One of its axes is upright to 0.6°, and its lowest corner is on the plane to 2 mm.
          expect(Math.max(...[x, y, z].map(axis => Math.abs(axis.normalize().y)))).toBeGreaterThan(
            Math.cos((0.6 * Math.PI) / 180),
          )
          const corners = [0, 1, 2, 3, 4, 5, 6, 7].map(i =>
            new Vector3(i & 1 ? 0.4 : -0.4, i & 2 ? 0.6 : 0, i & 4 ? 0.35 : -0.35).applyMatrix4(matrix!),
          )
          expect(Math.abs(Math.min(...corners.map(({ y }) => y)))).toBeLessThan(0.002)
        },
      ),
      { numRuns: 12 },
    )
  })

  it('energy does not rise, and nothing gets into anything by more than 2 mm', () => {
    const boxes = [
      floor,
      { size: [1, 1, 1] as Vec3, translation: [0, 0, 0] as Vec3 },
      ...Array.from({ length: 6 }, (_, i) => ({
        size: [0.5, 0.4, 0.6] as Vec3,
        translation: [0.1 * i - 0.3, 1.4 + i * 0.75, 0.05 * i] as Vec3,
        rotation: degreesToQuat([20 * i, 35 * i, 10 * i]),
      })),
    ]
    const scene = sceneOf(boxes, [3, 4, 5, 6, 7, 8])
    const { matrices, energies, resting } = run(scene)
    expect(resting).toBe(6)
    const all = energies[0]! - energies.at(-1)!
    for (let i = 1; i < energies.length; i++) expect(energies[i]! - energies[i - 1]!).toBeLessThan(all * 0.01)
    const solid = testSolid(new BoxGeometry(0.5, 0.4, 0.6))
    const placed = [
      ...matrices.map(matrix => new Placed(solid, matrix)),
      new Placed(testSolid(new BoxGeometry(1, 1, 1)), new Matrix4()),
      new Placed(testSolid(new BoxGeometry(20, 1, 20)), new Matrix4().makeTranslation(0, -1, 0)),
    ]
    for (const [i, one] of placed.slice(0, 6).entries())
      for (const other of placed.slice(i + 1)) expect(overlapOf(one, other)?.depth ?? 0).toBeLessThan(0.002)
  })

  it('is the same every time, and does not depend on what stands far away', () => {
    const boxes = [
      floor,
      ...Array.from({ length: 5 }, (_, i) => ({
        size: [0.5, 0.5, 0.5] as Vec3,
        translation: [0.12 * i, 1 + i * 0.6, 0] as Vec3,
      })),
    ]
    const once = run(sceneOf(boxes, [2, 3, 4, 5, 6])).numbers
    expect(run(sceneOf(boxes, [2, 3, 4, 5, 6])).numbers).toEqual(once)
    expect(run(sceneOf([...boxes, { size: [1, 1, 1], translation: [0, 50, 80] }], [2, 3, 4, 5, 6])).numbers).toEqual(
      once,
    )
  })

  it('falls by g: 0.5 s are 1.226 m (g = 9.81 m/s²), and lands on the ground plane where nothing else is', () => {
    const settling = new Settling(sceneOf([{ size: [1, 1, 1], translation: [0, 5, 0] }], [1]))
    for (let i = 0; i < 30; i++) settling.step()
    // Damping and steps of a sixtieth of a second make it a little other than 9.81 · 0.5² / 2.
    expect(Math.abs(5 - settling.matrices()[13]! - 1.22625)).toBeLessThan(0.05)
    while (!settling.isDone) settling.step()
    expect(Math.abs(settling.matrices()[13]!)).toBeLessThan(0.002)
    settling.dispose()
  })

  it('friction holds a box on a slope of 28 degrees and not on one of 40: wood on wood is 0.4 to 0.7 (handbooks, from memory)', () => {
    for (const [degrees, slides] of [
      [28, false],
      [40, true],
    ] as const) {
      const rotation = degreesToQuat([0, 0, -degrees])
      const up = new Vector3(0, 1, 0).applyQuaternion(new Quaternion(...rotation))
      const place = (along: number): Vec3 => new Vector3(0, 10, 0).addScaledVector(up, along).toArray()
      const {
        matrices: [matrix],
      } = run(
        sceneOf(
          [
            { size: [30, 1, 6], translation: place(-1), rotation },
            { size: [0.6, 0.3, 0.6], translation: place(0.002), rotation },
          ],
          [2],
        ),
      )
      expect(new Vector3().setFromMatrixPosition(matrix!).distanceTo(new Vector3(0, 10, 0)) > 0.5).toBe(slides)
    }
  })

  it('a tower of boxes stands: 10 and 20 sink by no more than 2 mm and go aside by no more than 5', () => {
    for (const [count, side, high] of [
      [10, 0.5, 0.5],
      [20, 0.5, 0.5],
      [20, 0.2, 0.2],
      [20, 1.2, 1.2],
      [20, 0.5, 0.25],
    ] as const) {
      const boxes = Array.from({ length: count }, (_, i) => ({
        size: [side, high, side] as Vec3,
        translation: [0, i * (high + 0.001), 0] as Vec3,
      }))
      const { matrices, resting } = run(
        sceneOf(
          [floor, ...boxes],
          boxes.map((_, i) => i + 2),
        ),
      )
      expect(resting).toBe(count)
      for (const [i, matrix] of matrices.entries()) {
        const place = new Vector3().setFromMatrixPosition(matrix)
        expect(Math.abs(place.y - i * high)).toBeLessThan(0.002)
        expect(Math.hypot(place.x, place.z)).toBeLessThan(0.005)
      }
    }
  })

  it('what leans too far falls: a box whose middle is beyond the edge of the one below', () => {
    const {
      matrices: [matrix],
    } = run(
      sceneOf(
        [floor, { size: [1, 1, 1], translation: [0, 0, 0] }, { size: [1, 0.2, 0.4], translation: [0.52, 1.001, 0] }],
        [3],
      ),
    )
    expect(new Vector3().setFromMatrixPosition(matrix!).y).toBeLessThan(0.6)
  })

  it('a dense mesh keeps its outermost points: a ball of 40,000 of them rests with the lowest of them on the floor', () => {
    const ball = testSolid(new IcosahedronGeometry(0.5, 63))
    const all: Vector3[] = []
    ball.eachPlace((x, y, z) => all.push(new Vector3(x, y, z)))
    expect(all.length).toBeGreaterThan(40_000)
    const own = fallingOf(
      'ball',
      new Matrix4().makeTranslation(0, 2, 0),
      [{ solid: ball, matrix: new Matrix4().makeTranslation(0, 2, 0) }],
      () => 'hull',
    )!
    expect(own.points.length / 3).toBeLessThanOrEqual(1000)
    const { index } = levelOfBoxes([floor])
    const {
      matrices: [matrix],
    } = run({ falling: [own], fixed: fixedAround(index, boundsOf([own]), () => true) })
    // Of all its points, not only those it falls by, and wherever it has rolled.
    expect(Math.abs(Math.min(...all.map(point => point.applyMatrix4(matrix!).y)))).toBeLessThan(0.002)
  })

  it('a group falls as one', () => {
    const { level, index } = levelOfBoxes([
      floor,
      { size: [0.2, 1, 3], translation: [-1, 0, 0] },
      { size: [0.2, 1, 3], translation: [1, 0, 0] },
      { translation: [0, 2, 0] },
      { size: [0.4, 0.4, 0.4], parentId: testId(4) },
      { size: [0.4, 0.4, 0.4], translation: [0.5, 0, 0], parentId: testId(4) },
    ])
    const scene = settleScene(level, index, [testId(4)], () => 'hull')
    expect(scene.falling).toHaveLength(1)
    const {
      matrices: [matrix],
    } = run(scene)
    expect(new Vector3().setFromMatrixPosition(matrix!).y).toBeCloseTo(0, 2)
  })
})
