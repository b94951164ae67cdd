import fc from 'fast-check'
import { Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyLength, anyQuat, anyTree, anyVec3, testId, testPlacement } from '../../../tests/support'
import { applyChange } from '../../level/change'
import { bareView } from '../../scene/level-view'
import { directionsOf } from './axes'
import { pivotOf } from './pivot'
import { nearestRotation, turnAbout, TurnDrag, turnPlacements, twistAbout } from './turn'

const anyUnit = anyVec3.filter(v => Math.hypot(...v) > 1).map(v => new Vector3(...v).normalize())
const similar = anyTree(6).map(tree =>
  tree.map(placement => ({
    ...placement,
    scale: [placement.scale[0], placement.scale[0], placement.scale[0]] as [number, number, number],
  })),
)

describe('TurnDrag', () => {
  const rayTo = (eye: Vector3, point: Vector3) => new Ray(eye.clone(), point.clone().sub(eye).normalize())

  it('counts the angle the pointer goes round, past full turns and back', () => {
    fc.assert(
      fc.property(anyUnit, fc.double({ min: -1500, max: 1500, noNaN: true }), (axis, degrees) => {
        const centre = new Vector3(1, 2, 3)
        const eye = centre
          .clone()
          .addScaledVector(axis, 10)
          .add(new Vector3(0.3, -0.2, 0.1))
        const sight = centre.clone().sub(eye).normalize()
        const start = new Vector3(Math.abs(axis.x) < 0.9 ? 1 : 0, Math.abs(axis.x) < 0.9 ? 0 : 1, 0)
          .cross(axis)
          .normalize()
        const at = (angle: number) => centre.clone().add(start.clone().applyAxisAngle(axis, (angle * Math.PI) / 180))
        const drag = new TurnDrag(rayTo(eye, at(0)), centre, axis, sight, 1)
        let turned = 0
        for (let i = 1; i <= 40; i++) turned = drag.update(rayTo(eye, at((degrees * i) / 40)))
        expect(turned).toBeCloseTo(degrees, 6)
      }),
    )
  })

  it('seen from the edge, turns as far as the rim would go under the pointer', () => {
    const eye = new Vector3(0, 0, 10)
    const drag = new TurnDrag(rayTo(eye, new Vector3()), new Vector3(), new Vector3(0, 1, 0), new Vector3(0, 0, -1), 2)
    // The near side of a dial about Y goes to the right when it turns by the right hand.
    expect(drag.update(rayTo(eye, new Vector3(1, 0, 0)))).toBeCloseTo((0.5 * 180) / Math.PI, 9)
    expect(drag.update(rayTo(eye, new Vector3(-1, 0, 0)))).toBeCloseTo((-0.5 * 180) / Math.PI, 9)
  })

  it("keeps the last good angle where the pointer has left the dial's plane", () => {
    const eye = new Vector3(0, 1, 10)
    const drag = new TurnDrag(
      rayTo(eye, new Vector3(1, 0, 0)),
      new Vector3(),
      new Vector3(0, 1, 0),
      new Vector3(0, -0.5, -1).normalize(),
      1,
    )
    const good = drag.update(rayTo(eye, new Vector3(0, 0, 1)))
    expect(drag.update(new Ray(eye, new Vector3(0, 0.2, 1).normalize()))).toBe(good)
  })
})

describe('twistAbout', () => {
  it('is the angle of a turn about that axis, however the thing swings besides', () => {
    fc.assert(
      fc.property(
        anyUnit,
        fc.double({ min: -179, max: 179, noNaN: true }),
        anyUnit,
        fc.double({ min: -80, max: 80, noNaN: true }),
        (axis, degrees, other, swing) => {
          const across = other.clone().addScaledVector(axis, -other.dot(axis))
          fc.pre(across.length() > 0.1)
          const turned = turnAbout(across.normalize(), swing).multiply(turnAbout(axis, degrees))
          expect(twistAbout(turned, axis)).toBeCloseTo(degrees, 6)
        },
      ),
    )
  })
})

describe('turnPlacements', () => {
  it('turns each chosen thing as a whole around a point of the world, whatever it hangs from', () => {
    fc.assert(
      fc.property(
        similar,
        fc.array(fc.nat(), { minLength: 1, maxLength: 3 }),
        anyUnit,
        anyLength,
        anyVec3,
        (tree, which, axis, degrees, at) => {
          const level = bareView(tree)
          const ids = new Set(which.map(n => tree[n % tree.length]!.id))
          const before = new Map(tree.map(({ id }) => [id, level.worldMatrix(id).clone()]))
          const turn = turnAbout(axis, degrees)
          const around = new Vector3(...at)
          applyChange(level, turnPlacements(level, ids, turn, around))
          const move = new Matrix4()
            .makeTranslation(around)
            .multiply(new Matrix4().makeRotationFromQuaternion(turn))
            .multiply(new Matrix4().makeTranslation(around.clone().negate()))
          for (const { id } of tree) {
            const goes = [...ids].some(chosen => level.isWithin(id, chosen))
            const expected = goes ? before.get(id)!.clone().premultiply(move) : before.get(id)!
            const size = Math.max(...expected.elements.map(Math.abs), 1)
            level
              .worldMatrix(id)
              .elements.forEach((value, i) => expect(Math.abs(value - expected.elements[i]!) / size).toBeLessThan(1e-7))
          }
        },
      ),
    )
  })

  it('leaves each pivot where it is when each turns around its own', () => {
    fc.assert(
      fc.property(anyTree(6), anyUnit, anyLength, (tree, axis, degrees) => {
        const level = bareView(tree)
        const tops = tree.filter(({ parentId }) => parentId === null).map(({ id }) => id)
        const before = tops.map(id => pivotOf(level, id))
        applyChange(level, turnPlacements(level, tops, turnAbout(axis, degrees), null))
        tops.forEach((id, i) => expect(pivotOf(level, id).distanceTo(before[i]!)).toBeLessThan(1e-9))
      }),
    )
  })

  it('sets a thing tipped over by quarter turns upright to the bit', () => {
    for (const axis of directionsOf(new Quaternion())) {
      const level = bareView([
        testPlacement(1, { rotation: turnAbout(axis, 90).toArray() as [number, number, number, number] }),
      ])
      applyChange(level, turnPlacements(level, [testId(1)], turnAbout(axis, -90), null))
      const [x, y, z, w] = level.need(testId(1)).rotation
      expect([x, y, z].map(value => Math.abs(value))).toEqual([0, 0, 0])
      expect(w).toBe(1)
    }
  })
})

describe('nearestRotation', () => {
  it('is the rotation itself of a rotation, and undoes a stretch along the axes', () => {
    fc.assert(
      fc.property(
        anyQuat,
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.2, max: 5, noNaN: true }))),
        (quat, [a, b, c]) => {
          const rotation = new Quaternion(...quat)
          // R·S with S diagonal is already in polar form: R is the orthogonal factor.
          const found = nearestRotation(
            new Matrix4().makeRotationFromQuaternion(rotation).multiply(new Matrix4().makeScale(a!, b!, c!)),
          )
          expect(Math.abs(found.dot(rotation))).toBeCloseTo(1, 9)
        },
      ),
    )
  })
})
