import fc from 'fast-check'
import { mat4, quat, vec3 } from 'gl-matrix'
import { all, create } from 'mathjs'
import { Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { applyChange } from '../../core/level/change'
import { directionsOf } from '../../core/edit/handles/axes'
import { AxisDrag } from '../../core/edit/handles/axis-drag'
import { PlaneDrag } from '../../core/edit/handles/plane-drag'
import { nearestRotation, turnAbout, turnPlacements } from '../../core/edit/handles/turn'
import { bareView } from '../../core/scene/level-view'
import type { Quat } from '../../core/math/vectors'
import { degreesToQuat } from '../../core/math/transform'
import { decompose } from '../../core/math/transform'
import { anyLength, anyQuat, anyScale, anyVec3, testId, testPlacement } from '../support'

// Rotations, decompositions and drags against two independent libraries: gl-matrix and mathjs.

const math = create(all!)
const anyUnit = anyVec3.filter(v => Math.hypot(...v) > 1).map(v => new Vector3(...v).normalize())

/** A rotation about a unit axis by Rodrigues' formula, I + sin θ · K + (1 - cos θ) · K², in mathjs. */
function rodrigues(axis: Vector3, degrees: number): number[][] {
  const { x, y, z } = axis
  const k = math.matrix([
    [0, -z, y],
    [z, 0, -x],
    [-y, x, 0],
  ])
  const angle = (degrees * Math.PI) / 180
  return math
    .add(
      math.add(math.identity(3), math.multiply(k, Math.sin(angle))),
      math.multiply(math.multiply(k, k), 1 - Math.cos(angle)),
    )
    .valueOf() as number[][]
}

const same = (a: readonly number[], b: readonly number[], tolerance = 1e-12) =>
  a.forEach((value, i) => expect(Math.abs(value - b[i]!)).toBeLessThan(tolerance))

describe('turns', () => {
  it("about an axis are those of Rodrigues' formula and of gl-matrix", () => {
    fc.assert(
      fc.property(anyUnit, fc.double({ min: -720, max: 720, noNaN: true }), anyVec3, (axis, degrees, at) => {
        const turned = new Vector3(...at).applyQuaternion(turnAbout(axis, degrees)).toArray()
        const size = Math.max(1, ...at.map(Math.abs))
        same(
          turned.map(value => value / size),
          (math.multiply(rodrigues(axis, degrees), at) as number[]).map(value => value / size),
        )
        const theirs = quat.setAxisAngle(quat.create(), axis.toArray(), (degrees * Math.PI) / 180)
        // gl-matrix keeps single precision.
        same(
          turned.map(value => value / size),
          [...vec3.transformQuat(vec3.create(), at, theirs)].map(value => value / size),
          1e-5,
        )
      }),
    )
  })

  it('put together in the order they are done, in the world', () => {
    fc.assert(
      fc.property(anyQuat, anyUnit, anyLength, anyUnit, anyLength, (rotation, first, a, second, b) => {
        const level = bareView([testPlacement(1, { rotation })])
        for (const turn of [turnAbout(first, a), turnAbout(second, b)]) {
          const [operation] = turnPlacements(level, [testId(1)], turn, null)
          applyChange(level, [operation!])
        }
        const {
          rotation: [x, y, z, w],
        } = level.need(testId(1))
        const expected = math.multiply(
          rodrigues(second, b),
          math.multiply(rodrigues(first, a), rotationOf(rotation)),
        ) as unknown as number[][]
        same(rotationOf([x, y, z, w]).flat(), expected.flat(), 1e-11)
      }),
    )
  })

  it('heading, pitch and roll are turns about Y, then X, then Z of the thing itself (Diebel 2006, from memory)', () => {
    fc.assert(
      fc.property(anyVec3, degrees => {
        const [x, y, z] = degrees
        const expected = math.multiply(
          rodrigues(new Vector3(0, 1, 0), y),
          math.multiply(rodrigues(new Vector3(1, 0, 0), x), rodrigues(new Vector3(0, 0, 1), z)),
        ) as unknown as number[][]
        same(rotationOf(degreesToQuat(degrees)).flat(), expected.flat())
      }),
    )
  })

  it('nearest to a matrix have the property of the polar decomposition: what is left is symmetric and positive', () => {
    fc.assert(
      fc.property(
        anyQuat,
        anyQuat,
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.3, max: 4, noNaN: true }))),
        (first, second, [a, b, c]) => {
          const turn = (quat: Quat) => new Matrix4().makeRotationFromQuaternion(new Quaternion(...quat))
          const matrix = turn(first)
            .multiply(new Matrix4().makeScale(a!, b!, c!))
            .multiply(turn(second))
          const rest = new Matrix4().makeRotationFromQuaternion(nearestRotation(matrix)).transpose().multiply(matrix)
          const rows = [0, 1, 2].map(i => [0, 1, 2].map(j => rest.elements[j * 4 + i]!))
          same(rows.flat(), (math.transpose(rows) as number[][]).flat(), 1e-8)
          const { values } = math.eigs(rows.map((row, i) => row.map((value, j) => (value + rows[j]![i]!) / 2)))
          for (const value of values.valueOf() as number[]) expect(value).toBeGreaterThan(0)
        },
      ),
    )
  })
})

/** The rotation matrix of a quaternion, row by row, in mathjs. */
function rotationOf([x, y, z, w]: Quat): number[][] {
  return [
    [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
    [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
    [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
  ]
}

describe('decompositions', () => {
  it('around a pivot give back the matrix gl-matrix puts together from them', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyScale, anyVec3, (translation, rotation, scale, pivot) => {
        const matrix = new Matrix4().compose(
          new Vector3(...translation),
          new Quaternion(...rotation),
          new Vector3(...scale),
        )
        const found = decompose(matrix, pivot)
        const origin = vec3.fromValues(...pivot)
        const theirs = mat4.fromRotationTranslationScale(mat4.create(), found.rotation, found.translation, found.scale)
        mat4.translate(theirs, theirs, vec3.negate(vec3.create(), origin))
        const size = Math.max(...matrix.elements.map(Math.abs))
        same(
          [...theirs].map(value => value / size),
          matrix.elements.map(value => value / size),
          1e-4,
        )
      }),
    )
  })
})

describe('drags', () => {
  it('along an axis find the point of the axis nearest to the ray, where the ray meets the axis', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyUnit,
        anyVec3.filter(v => Math.hypot(...v) > 5),
        fc.double({ min: -5, max: 5, noNaN: true }),
        (at, axis, eye, way) => {
          const origin = new Vector3(...at)
          const end = origin.clone().addScaledVector(axis, way)
          const from = new Vector3(...eye).add(origin)
          const rayTo = (point: Vector3) => new Ray(from.clone(), point.clone().sub(from).normalize())
          const first = rayTo(origin)
          fc.pre(Math.abs(first.direction.dot(axis)) < 0.95)
          const [right, up, back] = directionsOf(
            new Quaternion().setFromUnitVectors(new Vector3(0, 0, 1), first.direction.clone().negate()),
          )
          const drag = new AxisDrag(first, origin, axis, { right, up, forward: back.clone().negate() })
          // Two lines' common perpendicular: minimise |o + t·a - e - s·d| by mathjs' least squares.
          const ray = rayTo(end)
          const columns = [0, 1, 2].map(i => [axis.getComponent(i), -ray.direction.getComponent(i)])
          const rhs = [0, 1, 2].map(i => from.getComponent(i) - origin.getComponent(i))
          const [t] = (
            math.lusolve(
              math.multiply(math.transpose(columns), columns),
              math.multiply(math.transpose(columns), rhs),
            ) as unknown as number[][]
          )[0]!
          expect(Math.abs(drag.update(ray) - t!)).toBeLessThan(1e-6 * Math.max(1, Math.abs(way)))
        },
      ),
    )
  })

  it('over a plane solve origin + u·a + v·b = eye + s·d', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyVec3.filter(v => Math.hypot(...v) > 5),
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        (at, quat, eye, u, v) => {
          const origin = new Vector3(...at)
          const [a, normal, b] = directionsOf(new Quaternion(...quat))
          const from = new Vector3(...eye).add(origin)
          const rayTo = (point: Vector3) => new Ray(from.clone(), point.clone().sub(from).normalize())
          fc.pre(Math.abs(rayTo(origin).direction.dot(normal)) > 0.1)
          const target = origin.clone().addScaledVector(a, u).addScaledVector(b, v)
          const ray = rayTo(target)
          fc.pre(Math.abs(ray.direction.dot(normal)) > 0.05)
          const moved = new PlaneDrag(rayTo(origin), origin, normal).update(ray)
          const rows = [0, 1, 2].map(i => [a.getComponent(i), b.getComponent(i), -ray.direction.getComponent(i)])
          const [x, y] = (
            math.lusolve(
              rows,
              [0, 1, 2].map(i => from.getComponent(i) - origin.getComponent(i)),
            ) as number[][]
          ).map(([value]) => value!)
          const expected = a.clone().multiplyScalar(x!).addScaledVector(b, y!)
          expect(moved.distanceTo(expected)).toBeLessThan(1e-6)
        },
      ),
    )
  })
})
