import fc from 'fast-check'
import { BoxGeometry, Box3, Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { expect, it } from 'vitest'
import { anyVec3, testId, testPlacement, testSolid } from '../../tests/support'
import { keysOf, RULES } from '../arrange/rules'
import { degreesToQuat } from '../math/transform'
import { copyId } from './copy-id'
import { aroundId, idAround } from './elsewhere'
import { FinderWithAround } from './finder'
import { LevelIndex } from './level-index'
import { bareView } from './level-view'

const cube = testSolid(new BoxGeometry(1, 1, 1))
const solidOf = () => cube
const crate = (number: number, fields: Parameters<typeof testPlacement>[1] = {}) =>
  testPlacement(number, { kind: 'part', partId: testId(99), ...fields })

const anyPlace = fc.record({ translation: anyVec3, turn: fc.constantFrom(0, 30, 90) })
const anyCrates = fc.array(anyPlace, { minLength: 1, maxLength: 5 })

// One level with the things of both, the ones around put where they are seen from the other.
it('finds what one level with all of it in it would find', () => {
  fc.assert(
    fc.property(anyCrates, anyCrates, anyPlace, anyVec3, anyVec3, (own, others, { translation, turn }, from, to) => {
      fc.pre(new Vector3(...from).distanceTo(new Vector3(...to)) > 0.1)
      const matrix = new Matrix4().compose(
        new Vector3(...translation),
        new Quaternion(...degreesToQuat([0, turn, 0])),
        new Vector3(1, 1, 1),
      )
      const placed = (list: typeof own, first: number) =>
        list.map((each, i) =>
          crate(first + i, { translation: each.translation, rotation: degreesToQuat([0, each.turn, 0]) }),
        )
      const elsewhere = bareView(placed(others, 100))
      const finder = new FinderWithAround(
        new LevelIndex(bareView(placed(own, 1)), solidOf),
        new LevelIndex(elsewhere, solidOf, false, { matrix, without: testId(500) }),
      )
      const frame = testPlacement(50, {
        kind: 'group',
        translation,
        rotation: degreesToQuat([0, turn, 0]),
      })
      const all = bareView([
        ...placed(own, 1),
        frame,
        ...placed(others, 100).map(each => ({ ...each, parentId: testId(50) })),
      ])
      const whole = new LevelIndex(all, solidOf)
      const idOf = (id: string) => idAround(id) ?? id
      const ray = new Ray(new Vector3(...from), new Vector3(...to).sub(new Vector3(...from)).normalize())
      const [hit, expected] = [finder.raycast(ray), whole.raycast(ray)]
      expect(hit?.distance ?? null).toEqual(expected ? expect.closeTo(expected.distance, 5) : null)
      const box = new Box3().setFromCenterAndSize(new Vector3(...from), new Vector3(3, 3, 3))
      const near = (each: Pick<LevelIndex, 'near'>) => {
        const ids: string[] = []
        each.near(box, ({ id }) => ids.push(idOf(id)))
        return ids.sort()
      }
      expect(near(finder)).toEqual(near(whole))
    }),
  )
})

it('leaves out what is worked on, calls nothing around by a name of its own, and has the copies around', () => {
  const rule = { ...RULES.line.first, count: 3, along: [2, 0, 0] as [number, number, number] }
  const elsewhere = bareView([
    crate(1, { translation: [0, 0, 5] }),
    crate(2, { parentId: testId(1), translation: [0, 2, 0] }),
    testPlacement(3, { kind: 'arrangement', own: { rule } }),
    crate(4, { parentId: testId(3) }),
  ])
  const matrix = new Matrix4().makeTranslation(0, 0, -5)
  const own = new LevelIndex(bareView([crate(1)]), solidOf)
  const around = new LevelIndex(elsewhere, solidOf, false, { matrix, without: testId(1) })
  const finder = new FinderWithAround(own, around)
  const seen: string[] = []
  finder.near(new Box3(new Vector3(-50, -50, -50), new Vector3(50, 50, 50)), ({ id, copy }) => seen.push(copy ?? id))
  const copies = [0, 1, 2].map(i => aroundId(copyId(testId(3), keysOf(rule).keyAt(i))))
  expect(seen.sort()).toEqual([testId(1), ...copies].sort())
  const [last] = finder.shownBy(copies[2]!)
  expect(new Vector3().setFromMatrixPosition(last!.matrix).toArray()).toEqual([4, 0, -5])
  expect(finder.extents).toBe(own.extents)
})
