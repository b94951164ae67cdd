import fc from 'fast-check'
import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyScale, anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange } from '../level/change'
import { cameraOwn } from '../level/create'
import type { Operation } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'
import { LevelIndex } from '../scene/level-index'
import { withRelations } from './keep'

const [camera, thing, group] = [testId(1), testId(2), testId(3)]
const aim = { at: [0, 0, 0] as Vec3, on: thing, point: [0, 0.5, 0] as Vec3 }

const kept = (level: LevelView, operations: Operation[]) =>
  withRelations(level, new LevelIndex(level, () => undefined), operations).operations

function scene(fields: { eye?: Vec3; at?: Vec3; parentId?: string } = {}) {
  const level = bareView([
    testPlacement(3, { translation: [1, 2, 3] }),
    testPlacement(1, {
      kind: 'camera',
      own: cameraOwn(),
      translation: fields.eye ?? [0, 2, 8],
      parentId: fields.parentId ?? null,
    }),
    testPlacement(2, { translation: fields.at ?? [0, 0, 0], parentId: group }),
  ])
  const change = (...operations: Operation[]) => applyChange(level, kept(level, operations))
  const off = () => {
    const matrix = level.worldMatrix(camera)
    const sight = new Vector3(0, 0, -1).transformDirection(matrix)
    const way = new Vector3(...aim.point)
      .applyMatrix4(level.worldMatrix(thing))
      .sub(new Vector3().setFromMatrixPosition(matrix))
    return sight.angleTo(way)
  }
  return { level, change, off }
}
const put = (id: string, fields: object): Operation => ({ do: 'put', id, fields })

describe('a camera that aims at a thing', () => {
  it('stays turned to it whatever moves: itself, the thing, or what either hangs from; and undoing takes all of it back', () => {
    const moves = fc.array(fc.tuple(fc.constantFrom(camera, thing, group), anyVec3, fc.option(anyQuat)), {
      minLength: 1,
      maxLength: 5,
    })
    fc.assert(
      fc.property(moves, fc.boolean(), (list, nested) => {
        const { level, change, off } = scene(nested ? { parentId: group } : {})
        change(put(camera, { own: { ...cameraOwn(), aim } }))
        for (const [id, translation, rotation] of list) {
          const before = [...level.placements()].map(each => JSON.stringify(each)).sort()
          const { inverse } = change(put(id, { translation, ...(rotation && id !== camera ? { rotation } : {}) }))
          fc.pre(
            new Vector3()
              .setFromMatrixPosition(level.worldMatrix(camera))
              .distanceTo(new Vector3(...aim.point).applyMatrix4(level.worldMatrix(thing))) > 0.01,
          )
          expect(off()).toBeLessThan(1e-6)
          const redo = applyChange(level, inverse)
          expect([...level.placements()].map(each => JSON.stringify(each)).sort()).toEqual(before)
          applyChange(level, redo.inverse)
        }
      }),
    )
  })

  it('stays turned to it and upright below groups that are mirrored and sized unevenly, whatever its own size', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyScale,
        anyVec3,
        anyScale,
        anyVec3,
        (translation, rotation, scale, eye, size, to) => {
          const { level, change, off } = scene({ parentId: group })
          change(
            put(group, { translation, rotation, scale }),
            put(camera, { own: { ...cameraOwn(), aim }, translation: eye, scale: size }),
            put(thing, { parentId: null }),
          )
          change(put(thing, { translation: to }))
          const matrix = level.worldMatrix(camera)
          const way = new Vector3(...to).setY(to[1] + 0.5).sub(new Vector3().setFromMatrixPosition(matrix))
          fc.pre(way.length() > 0.01 && Math.abs(way.clone().normalize().y) < 0.999)
          expect(off()).toBeLessThan(1e-6)
          const up = new Vector3(0, 1, 0).transformDirection(matrix)
          expect(up.y).toBeGreaterThan(0)
          expect(
            Math.abs(
              up.dot(
                way
                  .normalize()
                  .cross(new Vector3(0, 1, 0))
                  .normalize(),
              ),
            ),
          ).toBeLessThan(1e-6)
        },
      ),
    )
  })

  it('leaves operations that cannot be done to whoever does them', () => {
    const { level, change } = scene()
    change(put(camera, { own: { ...cameraOwn(), aim } }))
    for (const wrong of [put(testId(50), { translation: [1, 2, 3] }), put(thing, { parentId: testId(51) })])
      expect(kept(level, [wrong])).toEqual([wrong])
  })

  it('is let go of by turning it where it stands, and stays turned to the place of a thing that is gone', () => {
    const { level, change, off } = scene()
    change(put(camera, { own: { ...cameraOwn(), aim } }))
    expect(off()).toBeLessThan(1e-9)
    change(put(camera, { rotation: [0, 1, 0, 0] }))
    expect(level.need(camera).own).toMatchObject({ aim: null })
    change(put(camera, { own: { ...cameraOwn(), aim } }))
    change({ do: 'remove', id: thing })
    expect(level.need(camera).own).toMatchObject({ aim: { on: null, at: [1, 2.5, 3] } })
    change(put(camera, { translation: [9, 2.5, 3] }))
    expect(new Vector3(0, 0, -1).transformDirection(level.worldMatrix(camera)).x).toBeCloseTo(-1, 9)
  })

  it('may aim at another that aims at it: whichever moves, both look at each other', () => {
    const other = testId(4)
    const { level, change } = scene()
    const at = (on: string) => ({ ...cameraOwn(), aim: { at: [0, 0, 0] as Vec3, on, point: [0, 0, 0] as Vec3 } })
    const { id: _id, ...fields } = testPlacement(4, { kind: 'camera', translation: [3, 2, 1], own: at(camera) })
    change(put(other, fields), put(camera, { own: at(other) }))
    for (const [id, translation] of [
      [camera, [-5, 1, 4]],
      [other, [2, 7, -3]],
    ] as [string, Vec3][]) {
      change(put(id, { translation }))
      const [a, b] = [camera, other].map(each => level.worldMatrix(each)) as [Matrix4, Matrix4]
      const way = new Vector3().setFromMatrixPosition(b).sub(new Vector3().setFromMatrixPosition(a))
      expect(new Vector3(0, 0, -1).transformDirection(a).angleTo(way)).toBeLessThan(1e-6)
      expect(new Vector3(0, 0, -1).transformDirection(b).angleTo(way.negate())).toBeLessThan(1e-6)
    }
  })

  it('is turned as a relation is: a thing that faces another wholly looks at it with its front, also below mirrored groups', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyScale, anyVec3, anyVec3, (translation, rotation, scale, eye, to) => {
        const { level, change } = scene()
        change(put(group, { translation, rotation, scale }), put(thing, { parentId: null, translation: to }))
        const { id: _id, ...fields } = testPlacement(4, { parentId: group, translation: eye })
        const made: Operation = {
          do: 'put-relation',
          id: testId(600),
          fields: { held: testId(4), point: [0, 0, 0], holders: [aim], rule: { kind: 'facing', upright: false } },
        }
        change(put(testId(4), fields), made)
        change(put(thing, { translation: to.map(each => each + 1) as Vec3 }))
        const matrix = level.worldMatrix(testId(4))
        const way = new Vector3(...to).addScalar(1).add(new Vector3(0, 0.5, 0))
        way.sub(new Vector3().setFromMatrixPosition(matrix))
        fc.pre(way.length() > 0.01)
        expect(new Vector3(0, 0, 1).transformDirection(matrix).angleTo(way)).toBeLessThan(1e-6)
      }),
    )
  })
})
