import fc from 'fast-check'
import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import {
  anyQuat,
  anyTree,
  anyVec3,
  farthestApart,
  levelOfBoxes,
  testId,
  testPlacement,
  worldVertices,
} from '../../../tests/support'
import { applyChange } from '../../level/change'
import { bareView } from '../../scene/level-view'
import { axesFromPoints, axesOf, directionsOf, localAxes, surfaceAxes } from './axes'
import type { AxesSources } from './axes'
import { freeAxes } from './lock'
import { nudgeDirection } from './nudge'
import { PIVOT_PLACES, pivotOf, pivotPoint, placeInBox, placeOfPivot, setPivots, toOwn } from './pivot'
import { turnAbout, turnPlacements } from './turn'

const sources: AxesSources = {
  view: { right: new Vector3(1, 0, 0), up: new Vector3(0, 1, 0), forward: new Vector3(0, 0, -1) },
  surface: new Vector3(0, 1, 0),
  borrowed: [0, 0, 0, 1],
}
const isRightHanded = (axes: Quaternion) => {
  const [x, y, z] = directionsOf(axes)
  return x.clone().cross(y).distanceTo(z) < 1e-9
}

describe('the axes', () => {
  it('of World are straight again after a turn, those of Local have followed', () => {
    fc.assert(
      fc.property(anyQuat, quat => {
        const level = bareView([testPlacement(1)])
        const turn = new Quaternion(...quat)
        applyChange(level, turnPlacements(level, [testId(1)], turn, null))
        expect(axesOf('world', level, testId(1), sources).toArray()).toEqual([0, 0, 0, 1])
        expect(Math.abs(axesOf('local', level, testId(1), sources).dot(turn))).toBeCloseTo(1, 9)
      }),
    )
  })

  it('are right-handed and at right angles, also in mirrored, skewed and deep trees', () => {
    fc.assert(
      fc.property(anyTree(6), tree => {
        const level = bareView(tree)
        for (const mode of ['local', 'parent'] as const)
          expect(isRightHanded(axesOf(mode, level, tree.at(-1)!.id, sources))).toBe(true)
      }),
    )
  })

  it("of Local point where the thing's turn says, however it is mirrored", () => {
    const level = bareView([
      testPlacement(1, { scale: [2, 2, 2] }),
      testPlacement(2, {
        parentId: testId(1),
        scale: [-1, 1, 1],
        rotation: turnAbout(new Vector3(0, 1, 0), 30).toArray() as [number, number, number, number],
      }),
    ])
    expect(Math.abs(localAxes(level, testId(2)).dot(turnAbout(new Vector3(0, 1, 0), 30)))).toBeCloseTo(1, 9)
  })

  it("of Parent are the world's at the top, and the parent's below", () => {
    const turn = turnAbout(new Vector3(0, 0, 1), 20)
    const level = bareView([
      testPlacement(1, { rotation: turn.toArray() as [number, number, number, number] }),
      testPlacement(2, { parentId: testId(1) }),
    ])
    expect(axesOf('parent', level, testId(1), sources).toArray()).toEqual([0, 0, 0, 1])
    expect(axesOf('parent', level, testId(2), sources).angleTo(turn)).toBeLessThan(1e-9)
  })

  it('of a Surface have their Y along its normal and their X as near as it can be to where it was', () => {
    fc.assert(
      fc.property(
        anyVec3.filter(v => Math.hypot(...v) > 1),
        v => {
          const normal = new Vector3(...v).normalize()
          const axes = surfaceAxes(normal, new Vector3(1, 0, 0))
          expect(directionsOf(axes)[1].distanceTo(normal)).toBeLessThan(1e-9)
          expect(isRightHanded(axes)).toBe(true)
          if (Math.abs(normal.x) < 0.999) expect(directionsOf(axes)[0].x).toBeGreaterThanOrEqual(0)
        },
      ),
    )
  })

  it('come from three points that make a corner, and from no others', () => {
    const axes = axesFromPoints(new Vector3(1, 1, 1), new Vector3(1, 1, 5), new Vector3(1, 4, 2))!
    expect(directionsOf(axes)[0].distanceTo(new Vector3(0, 0, 1))).toBeLessThan(1e-12)
    expect(directionsOf(axes)[1].distanceTo(new Vector3(0, 1, 0))).toBeLessThan(1e-12)
    expect(axesFromPoints(new Vector3(), new Vector3(1, 1, 1), new Vector3(3, 3, 3))).toBeNull()
  })
})

describe('a pivot', () => {
  it('that is moved moves no vertex of the thing or of what hangs below it', () => {
    fc.assert(
      fc.property(anyTree(6), fc.nat(), anyVec3, (tree, which, pivot) => {
        const boxes = tree.map(placement => ({ ...placement, size: [1, 2, 0.5] as [number, number, number] }))
        const { level, index } = levelOfBoxes(boxes)
        const { id } = tree[which % tree.length]!
        const before = worldVertices(level, index, id)
        applyChange(level, setPivots(level, [id], pivot))
        const size = Math.max(1, ...before.map(point => point.length()))
        expect(farthestApart(worldVertices(level, index, id), before) / size).toBeLessThan(1e-9)
        expect(level.need(id).pivot).toEqual(pivot)
      }),
    )
  })

  it('has 27 places in a box, each known again', () => {
    const { index } = levelOfBoxes([{ size: [0.8, 1.2, 0.4] }])
    const box = index.extents.ownBox(testId(1))
    expect(new Set(PIVOT_PLACES.map(String)).size).toBe(27)
    for (const place of PIVOT_PLACES) expect(placeOfPivot(box, placeInBox(box, place))).toEqual(place)
    expect(placeInBox(box, [0, -1, 0])).toEqual([0, 0, 0])
    expect(placeInBox(box, [1, 1, -1])).toEqual([0.4, 1.2, -0.2])
    expect(placeOfPivot(box, [0.1, 0, 0])).toBeNull()
  })

  it('at the foot of an edge lets a box tip around that edge', () => {
    const { level, index } = levelOfBoxes([{ size: [1, 1, 1] }])
    applyChange(level, setPivots(level, [testId(1)], placeInBox(index.extents.ownBox(testId(1)), [1, -1, 0])))
    applyChange(
      level,
      turnPlacements(level, [testId(1)], turnAbout(new Vector3(0, 0, 1), -90), pivotOf(level, testId(1))),
    )
    const box = index.extents.boundsOf([testId(1)])
    // It lay from -0.5 to 0.5 and now lies on its side beyond the edge.
    expect([box.min.x, box.max.x, box.min.y, box.max.y].map(value => Math.round(value * 1e6) / 1e6 + 0)).toEqual([
      0.5, 1.5, 0, 1,
    ])
  })

  it('is where each mode says', () => {
    const { level, index } = levelOfBoxes([
      { size: [1, 1, 1], translation: [0, 0, 0] },
      { size: [1, 3, 1], translation: [4, 0, 2] },
    ])
    const at = (mode: Parameters<typeof pivotPoint>[0]) =>
      pivotPoint(mode, level, index, [testId(1), testId(2)], testId(2), [9, 9, 9]).toArray()
    expect(at('own')).toEqual([2, 0, 1])
    expect(at('each')).toEqual([4, 0, 2])
    expect(at('last')).toEqual([4, 0, 2])
    expect(at('middle')).toEqual([2, 1.5, 1])
    expect(at('origin')).toEqual([0, 0, 0])
    expect(at('pin')).toEqual([9, 9, 9])
  })

  it('in the world is the same point in its own axes', () => {
    fc.assert(
      fc.property(anyTree(5), tree => {
        const level = bareView(tree)
        const { id, pivot } = tree.at(-1)!
        const own = toOwn(level, id, pivotOf(level, id))
        const size = Math.max(1, ...level.worldMatrix(id).elements.map(Math.abs))
        own.forEach((value, i) => expect(Math.abs(value - pivot[i]!) / size).toBeLessThan(1e-5))
      }),
    )
  })
})

describe('a constraint', () => {
  it('leaves the other axes free', () => {
    expect(freeAxes({ kind: 'plane', axis: 1 })).toEqual([0, 2])
    expect(freeAxes({ kind: 'axis', axis: 1 })).toEqual([1])
    expect(freeAxes({ kind: 'view' })).toEqual([0, 1, 2])
  })
})

describe('a nudge', () => {
  const world = new Quaternion()
  it('goes to the axis nearest to what the key says on the screen', () => {
    const from = (angle: number) => ({
      right: new Vector3(Math.cos(angle), 0, -Math.sin(angle)),
      up: new Vector3(0, 1, 0),
      forward: new Vector3(-Math.sin(angle), 0, -Math.cos(angle)),
    })
    expect(nudgeDirection('right', 'walkaround', from(0.3), world).toArray()).toEqual([1, 0, 0])
    expect(nudgeDirection('up', 'walkaround', from(0.3), world).z).toBe(-1)
    expect(nudgeDirection('right', 'walkaround', from(2), world).z).toBe(-1)
    expect(nudgeDirection('lower', 'walkaround', from(2), world).y).toBe(-1)
  })

  it('in Plan and Front goes up the screen with the arrow and away with the page key', () => {
    const plan = { right: new Vector3(1, 0, 0), up: new Vector3(0, 0, -1), forward: new Vector3(0, -1, 0) }
    expect(nudgeDirection('up', 'plan', plan, world).z).toBe(-1)
    expect(nudgeDirection('higher', 'plan', plan, world).y).toBe(-1)
    expect(nudgeDirection('up', 'front', sources.view, world).y).toBe(1)
    expect(nudgeDirection('lower', 'front', sources.view, world).z).toBe(1)
  })

  it('never sends two keys along the same axis', () => {
    fc.assert(
      fc.property(anyQuat, anyQuat, (camera, axes) => {
        const [right, up, back] = directionsOf(new Quaternion(...camera))
        const ways = (['right', 'up', 'higher'] as const).map(way =>
          nudgeDirection(way, 'walkaround', { right, up, forward: back.clone().negate() }, new Quaternion(...axes)),
        )
        expect(Math.abs(ways[0]!.clone().cross(ways[1]!).dot(ways[2]!))).toBeCloseTo(1, 6)
      }),
    )
  })
})
