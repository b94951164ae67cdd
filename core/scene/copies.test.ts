import { lightOwn } from '../level/create'
import fc from 'fast-check'
import { BoxGeometry, Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, testId, testPlacement, testSolid } from '../../tests/support'
import { LevelIndex } from './level-index'
import { degreesToQuat } from '../math/transform'
import { movePlacements } from '../edit/handles/move'
import { applyChange } from '../level/change'
import type { LevelView } from './level-view'
import { bareView } from './level-view'
import { makeScene } from './scene'
import { duplicate } from '../edit/duplicate'
import { removeWithChildren } from '../level/edit'
import type { Operation, Placement } from '../level/schema'
import type { Quat } from '../math/vectors'
import { placementSchema } from '../level/schema'
import { clickTarget } from '../level/tree'
import { swapPlaces } from '../edit/lineup/swap'
import type { ArrangementOwn } from '../arrange/arrangement'
import { arrangementSchema } from '../arrange/arrangement'
import { meshOfBentKey } from '../arrange/path/bent-key'
import { CopyError, withExceptions } from './copies'
import { copyId } from './copy-id'
import type { GridRule } from '../arrange/rules/grid'
import type { PathRule } from '../arrange/path/rule'
import type { Rule } from '../arrange/rules'
import { keysOf } from '../arrange/rules'
import { placeCopies } from '../arrange/place-copies'
import { bentShapesOf, release, releaseCopies } from '../edit/release'
import { RULES } from '../arrange/rules'

const PARTS = [testId(900), testId(901), testId(902)]
const cube = testSolid(new BoxGeometry(1, 1, 1))
const long = testSolid(new BoxGeometry(8, 1, 1))
const A = testId(1)
const [grid, line, fan] = [RULES.grid.first, RULES.line.first, RULES.fan.first]

/** An arrangement (1) of sources (2, 3 ...), each showing a part of its own. */
function made(own: ArrangementOwn, sources = 1, fields: Partial<Placement> = {}, source: Partial<Placement> = {}) {
  const level = bareView([
    testPlacement(1, { kind: 'arrangement', own, ...fields }),
    ...Array.from({ length: sources }, (_, i) =>
      testPlacement(2 + i, { kind: 'part', partId: PARTS[i]!, parentId: A, ...source }),
    ),
  ])
  return { level, index: new LevelIndex(level, () => cube) }
}
const apply = (level: LevelView, operations: Operation[]) => applyChange(level, withExceptions(level, operations))
const ownOf = (level: LevelView) => level.arranged(A).own
const copy = (key: string) => copyId(A, key)

describe('sources', () => {
  const shapes = (own: ArrangementOwn, sources: number) => {
    const { keys, sourceOf } = placeCopies(own, sources, null)
    return Array.from({ length: keys.count }, (_, i) => sourceOf(i))
  }

  it('are taken in turn, each row beginning one further; by a pattern; with others at the ends', () => {
    const rule: GridRule = { ...grid, counts: [4, 1, 2] }
    expect(shapes({ rule }, 2)).toEqual([0, 1, 0, 1, 1, 0, 1, 0])
    expect(shapes({ rule: { ...line, count: 6 }, sources: { by: 'pattern', pattern: [0, 0, 1] } }, 2)).toEqual([
      0, 0, 1, 0, 0, 1,
    ])
    expect(shapes({ rule, sources: { by: 'ends', first: 0, middle: 1, last: 2 } }, 3)).toEqual([0, 1, 1, 2, 0, 1, 1, 2])
    // A pattern made for more sources than are left goes on with those.
    expect(shapes({ rule: { ...line, count: 3 }, sources: { by: 'pattern', pattern: [0, 1, 2] } }, 2)).toEqual([
      0, 1, 0,
    ])
  })

  it('at random by weight come about as often as their weights say, and the same ones whatever the counts', () => {
    const own = (columns: number): ArrangementOwn => ({
      rule: { ...grid, counts: [columns, 1, 50] },
      sources: { by: 'weight', weights: [1, 3, 0], seed: 7 },
    })
    const found = shapes(own(60), 3)
    expect(found.filter(source => source === 0).length / found.length).toBeCloseTo(0.25, 1)
    expect(found.filter(source => source === 1).length / found.length).toBeCloseTo(0.75, 1)
    expect(found).not.toContain(2)
    const fewer = keysOf(own(20).rule)
    const more = keysOf(own(60).rule)
    shapes(own(20), 3).forEach((source, i) => expect(found[more.indexOf(fewer.keyAt(i))!]).toBe(source))
    expect(shapes({ ...own(60), sources: { by: 'weight', weights: [1, 3, 0], seed: 8 } }, 3)).not.toEqual(found)
  })
})

describe('variation', () => {
  const vary = {
    seed: 3,
    move: [0.5, 0, 0.2] as [number, number, number],
    turn: [0, 180, 0] as [number, number, number],
    size: [0.8, 1.2] as [number, number],
  }

  it('keeps to its limits, fills them, and leaves a place alone when counts change', () => {
    const varied = (columns: number) => {
      const own: ArrangementOwn = { rule: { ...grid, counts: [columns, 1, 40] }, vary }
      const copies = placeCopies(own, 1, null)
      const source = {
        translation: [0, 0, 0] as [number, number, number],
        rotation: [0, 0, 0, 1] as Quat,
        scale: [1, 1, 1] as [number, number, number],
        pivot: [0, 0, 0] as [number, number, number],
      }
      return new Map(
        Array.from({ length: copies.keys.count }, (_, i) => [copies.keys.keyAt(i), copies.numbersOf(i, source)]),
      )
    }
    const [few, many] = [varied(10), varied(30)]
    expect(few.size).toBeGreaterThan(0)
    for (const [key, numbers] of few) expect(many.get(key)).toEqual(numbers)
    const all = [...many.values()]
    const range = (of: (numbers: (typeof all)[number]) => number) => [
      Math.min(...all.map(of)),
      Math.max(...all.map(of)),
    ]
    const [least, most] = range(({ translation }) => translation[0])
    expect(least).toBeGreaterThanOrEqual(-0.5)
    expect(most).toBeLessThanOrEqual(0.5)
    expect(most! - least!).toBeGreaterThan(0.95)
    expect(range(({ translation }) => translation[1])).toEqual([0, 0])
    const [small, large] = range(({ scale }) => scale[0])
    expect([small! >= 0.8, large! <= 1.2, large! - small! > 0.38]).toEqual([true, true, true])
    expect(all.length).toBeGreaterThan(0)
    for (const { scale } of all) expect(new Set(scale).size).toBe(1)
    // Layers differ as rows and columns do.
    const stacked = placeCopies({ rule: { ...grid, counts: [2, 5, 2] }, vary }, 1, null)
    const heights = Array.from(
      { length: 20 },
      (_, i) =>
        stacked.numbersOf(i, { translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1], pivot: [0, 0, 0] })
          .scale[0],
    )
    expect(new Set(heights).size).toBe(20)
  })
})

describe('one copy', () => {
  it('is looked up like a placement where it stands, and a click on a picked arrangement means it', () => {
    const { level, index } = made({ rule: { ...line, count: 4, along: [3, 0, 0] } }, 1, { translation: [0, 2, 0] })
    expect(new Vector3().setFromMatrixPosition(level.worldMatrix(copy('2'))).toArray()).toEqual([6, 2, 0])
    expect(level.has(copy('4'))).toBe(false)
    expect(level.has(copy('x'))).toBe(false)
    const hit = index.raycast(new Ray(new Vector3(6, 9, 0), new Vector3(0, -1, 0)))!
    expect([hit.id, hit.copy]).toEqual([A, copy('2')])
    expect(clickTarget(level, hit.copy!, new Set())).toBe(A)
    expect(clickTarget(level, hit.copy!, new Set([copy('1')]))).toBe(copy('2'))
    expect(index.extents.boundsOf([copy('2')]).min.x).toBeCloseTo(5.5, 9)
  })

  it('moved, turned and sized becomes an exception that stands exactly there, and undoes to the bit', () => {
    const rules: Rule[] = [
      { ...line, turn: [0, 20, 5], size: 0.9, axes: 'local' },
      { ...grid, stagger: 0.5 },
      fan,
      { ...RULES.ring.first, rise: 0.2 },
    ]
    fc.assert(
      fc.property(
        fc.constantFrom(...rules),
        fc.nat(),
        anyVec3,
        anyQuat,
        anyVec3,
        anyQuat,
        anyVec3,
        fc.boolean(),
        (rule, which, at, rotation, to, turn, pivot, varied) => {
          const own: ArrangementOwn = {
            rule,
            ...(varied
              ? {
                  vary: {
                    seed: 1,
                    move: [1, 1, 1] as [number, number, number],
                    turn: [10, 90, 0] as [number, number, number],
                    size: [0.5, 2] as [number, number],
                  },
                }
              : {}),
          }
          const { level } = made(
            own,
            1,
            { translation: at, rotation },
            { pivot, translation: [0.3, 0, 0], rotation: turn },
          )
          const before = structuredClone(level.need(A))
          const places = keysOf(rule)
          const id = copy(places.keyAt(which % places.count))
          const others = () =>
            places.count > 1 ? level.worldMatrix(copy(places.keyAt((which + 1) % places.count))).toArray() : []
          const neighbour = others()
          const { inverse } = apply(level, [
            { do: 'put', id, fields: { translation: to, rotation: turn, scale: [2, 1, 0.5] } },
          ])
          const now = level.need(id)
          now.translation.forEach((value, axis) => expect(Math.abs(value - to[axis]!)).toBeLessThan(1e-8))
          now.scale.forEach((value, axis) => expect(value).toBeCloseTo([2, 1, 0.5][axis]!, 8))
          expect(others()).toEqual(neighbour)
          expect(placementSchema.parse(level.need(A))).toEqual(level.need(A))
          applyChange(level, inverse)
          expect(level.need(A)).toEqual(before)
        },
      ),
    )
  })

  it('is met one after the other as it is found by its id, but for those that are left out', () => {
    const rule: Rule = { ...RULES.grid.first, counts: [3, 1, 2] }
    const { level } = made({ rule, exceptions: { '1,0,0': { hidden: true } } }, 2)
    const met = [...level.eachCopy(A)]
    expect(met.map(({ copy: each }) => each.placement.id)).toEqual(
      ['0,0,0', '0,1,0', '0,2,0', '1,1,0', '1,2,0'].map(copy),
    )
    for (const { copy: each, matrix } of met) {
      expect(each).toEqual(level.copy(each.placement.id))
      expect(matrix.equals(level.worldMatrix(each.placement.id))).toBe(true)
    }
  })

  it('keeps its exception with its row and column, whatever the counts do', () => {
    const sizes = fc.tuple(
      fc.integer({ min: 3, max: 9 }),
      fc.integer({ min: 1, max: 3 }),
      fc.integer({ min: 3, max: 9 }),
    )
    fc.assert(
      fc.property(sizes, fc.array(sizes, { minLength: 1, maxLength: 4 }), (first, edits) => {
        const { level } = made({ rule: { ...grid, counts: first } })
        const id = copy('2,1,0')
        apply(level, movePlacements(level, [id], new Vector3(0, 5, 0)))
        for (const counts of edits) {
          applyChange(level, [{ do: 'put', id: A, fields: { own: { ...ownOf(level), rule: { ...grid, counts } } } }])
          const high = level.shapes(A)[0]!
          const raised = [...high.indices.keys()].filter(
            i => high.matrices[i * 16 + 13]! - Math.floor(high.matrices[i * 16 + 13]! / 1.5) * 1.5 > 0.4,
          )
          expect(raised.map(i => keysOf({ ...grid, counts }).keyAt(high.indices[i]!))).toEqual(['2,1,0'])
        }
      }),
    )
  })

  it('of a path with corners keeps to its stretch when another one gets longer', () => {
    const rule: PathRule = {
      ...RULES.path.first,
      smooth: false,
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [4, 0, 4],
      ],
      measure: 'ends',
      spacing: 1,
      begins: -0.5,
      corners: { room: 0, ends: false },
    }
    const { level } = made({ rule, sources: { by: 'ends', first: 0, middle: 0, last: 0, corner: 1 } }, 2)
    expect(level.need(copy('1,2,0')).name).toBe('Thing 2, stretch 2, piece 3')
    expect(level.need(copy('1,0,1')).name).toBe('Thing 3, corner 2')
    apply(level, [{ do: 'put', id: copy('1,2,0'), fields: { translation: [4, 1, 2.5] } }])
    const before = level.worldMatrix(copy('1,2,0')).elements[13]
    expect(before).toBeCloseTo(1, 9)
    apply(level, [
      {
        do: 'put',
        id: A,
        fields: { own: { ...ownOf(level), rule: { ...rule, points: [[-6, 0, 0], ...rule.points.slice(1)] } } },
      },
    ])
    expect(level.worldMatrix(copy('1,2,0')).elements[13]).toBe(before)
    expect(level.has(copy('0,9,0'))).toBe(true)
    expect(level.has(copy('2,0,0'))).toBe(false)
  })

  it('is hidden by being removed; resetting it brings it back; it may show another source', () => {
    const { level, index } = made({ rule: { ...line, count: 3 } }, 2)
    apply(level, removeWithChildren(level, [copy('1')]))
    expect(ownOf(level).exceptions).toEqual({ 1: { hidden: true } })
    expect(level.has(copy('1'))).toBe(false)
    expect(level.shapes(A).map(({ indices }) => [...indices])).toEqual([[0, 2]])
    index.update([A])
    expect(index.raycast(new Ray(new Vector3(1.5, 9, 0), new Vector3(0, -1, 0)))).toBeNull()
    apply(level, [{ do: 'put', id: copy('2'), fields: { hidden: true } }])
    expect(ownOf(level).exceptions).toEqual({ 1: { hidden: true }, 2: { hidden: true } })
    applyChange(level, [{ do: 'put', id: A, fields: { own: { ...ownOf(level), exceptions: { 1: { source: 0 } } } } }])
    expect(level.need(copy('1')).partId).toBe(PARTS[0])
    // Moving it keeps what it shows.
    apply(level, movePlacements(level, [copy('1')], new Vector3(0, 1, 0)))
    expect(ownOf(level).exceptions).toEqual({ 1: { source: 0, move: [0, 1, 0] } })
    apply(level, movePlacements(level, [copy('1')], new Vector3(0, -1, 0)))
    expect(ownOf(level).exceptions).toEqual({ 1: { source: 0 } })
  })

  it('cannot have what only a placement has, and says so', () => {
    const { level } = made({ rule: line })
    const put = (fields: Partial<Placement>) => () => withExceptions(level, [{ do: 'put', id: copy('1'), fields }])
    expect(put({ name: 'Mine' })).toThrow(CopyError)
    expect(put({ parentId: null })).toThrow('Release it first')
    expect(() => withExceptions(level, [{ do: 'put', id: copy('77'), fields: { hidden: true } }])).toThrow(
      'no such copy',
    )
  })

  it('changes places with another, and with a thing beside the arrangement', () => {
    const { level } = made({ rule: { ...line, count: 3, along: [2, 0, 0] } })
    const at = (id: string) => new Vector3().setFromMatrixPosition(level.worldMatrix(id)).toArray()
    applyChange(level, [
      {
        do: 'put',
        id: testId(50),
        fields: testPlacement(50, { kind: 'part', partId: PARTS[0]!, translation: [9, 0, 4] }),
      },
    ])
    apply(level, swapPlaces(level, [copy('0'), copy('2')]))
    expect([at(copy('0')), at(copy('1')), at(copy('2'))]).toEqual([
      [4, 0, 0],
      [2, 0, 0],
      [0, 0, 0],
    ])
    apply(level, swapPlaces(level, [copy('1'), testId(50)]))
    expect([at(copy('1')), at(testId(50))]).toEqual([
      [9, 0, 4],
      [2, 0, 0],
    ])
    apply(level, swapPlaces(level, [copy('0'), copy('1'), copy('2')]))
    expect([at(copy('0')), at(copy('1')), at(copy('2'))]).toEqual([
      [9, 0, 4],
      [0, 0, 0],
      [4, 0, 0],
    ])
  })

  it('duplicated is a thing beside the arrangement that stands where the copy does; two of one source are two things', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyVec3, (at, rotation, shift) => {
        const { level } = made(
          {
            rule: { ...grid, counts: [3, 1, 2] },
            vary: { seed: 2, move: [0.3, 0, 0.3], turn: [0, 90, 0], size: [0.8, 1.2] },
          },
          2,
          { translation: at, rotation },
        )
        applyChange(level, [
          { do: 'put', id: testId(50), fields: testPlacement(50, { translation: shift, scale: [2, 2, 2] }) },
          { do: 'put', id: A, fields: { parentId: testId(50) } },
          { do: 'put', id: testId(51), fields: testPlacement(51, { parentId: testId(2), translation: [0, 1, 0] }) },
        ])
        let next = 8000
        const ids = [copy('0,0,0'), copy('1,1,0')]
        const { operations, tops, made: duplicates } = duplicate(level, ids, 'instance', () => testId(next++))
        const before = ids.map(id => level.worldMatrix(id).toArray())
        applyChange(level, operations)
        tops.forEach((id, i) => {
          level
            .worldMatrix(id)
            .toArray()
            .forEach((value, k) => expect(value).toBeCloseTo(before[i]![k]!, 9))
          expect(level.need(id)).toMatchObject({
            parentId: testId(50),
            partId: PARTS[0]!,
            name: ['Thing 4', 'Thing 5'][i]!,
          })
          expect(level.children(id)).toHaveLength(1)
          expect(duplicates.get(ids[i]!)).toBe(id)
        })
        expect(new Set(tops).size).toBe(2)
        expect(ownOf(level).exceptions).toBeUndefined()
      }),
      { numRuns: 20 },
    )
  })

  it('of an arrangement sized unevenly is named as skewed when it is released, and else keeps its matrix', () => {
    for (const scale of [
      [1, 1, 1],
      [2, 2, 2],
      [1, 1, 2],
    ] as const) {
      const { level } = made({ rule: line, exceptions: { 1: { turn: degreesToQuat([0, 30, 0]) } } }, 1, {
        scale: [...scale],
      })
      const isUneven = scale[0] !== scale[2]
      let next = 6000
      const {
        skewed,
        operations,
        made: [thing = ''],
      } = releaseCopies(level, [copy('1')], () => testId(next++))
      expect(skewed).toEqual(isUneven ? [copy('1')] : [])
      expect(release(level, A, () => testId(next++)).skewed).toEqual([])
      const before = new Matrix4()
        .fromArray(level.copies(A)!.ruled, 16)
        .multiply(new Matrix4().makeRotationFromQuaternion(new Quaternion(...degreesToQuat([0, 30, 0]))))
        .premultiply(level.worldMatrix(A))
      applyChange(level, operations)
      if (!isUneven)
        level.worldMatrix(thing).elements.forEach((value, i) => expect(value).toBeCloseTo(before.elements[i]!, 9))
    }
    // Within its own axes a copy may be skewed as well: a turned source sized for one copy alone.
    const { level } = made(
      {
        rule: {
          ...RULES.path.first,
          points: [
            [0, 0, 0],
            [5.3, 0, 0],
          ],
          measure: 'ends',
          spacing: 1,
          begins: 0,
        },
      },
      1,
      {},
      { rotation: degreesToQuat([0, 30, 0]) },
    )
    let next = 6000
    expect(release(level, A, () => testId(next++)).skewed).toHaveLength(5)
  })

  it('released stands where it stood, beside the arrangement, which leaves it out; all released together do as well', () => {
    const own: ArrangementOwn = {
      rule: { ...grid, stagger: 0.5 },
      vary: { seed: 2, move: [1, 0, 1], turn: [0, 90, 0], size: [0.5, 1.5] },
      exceptions: { '1,1,0': { move: [0, 3, 0] }, '0,2,0': { hidden: true } },
    }
    const { level } = made(own, 2, { translation: [4, 1, 2], rotation: [0, 0.6, 0, 0.8] }, { scale: [1, 2, 1] })
    const before = level.worldMatrix(copy('1,1,0')).toArray()
    let next = 5000
    const {
      operations,
      made: [thing = ''],
    } = releaseCopies(level, [copy('1,1,0')], () => testId(next++))
    const { inverse } = applyChange(level, operations)
    level
      .worldMatrix(thing)
      .toArray()
      .forEach((value, k) => expect(value).toBeCloseTo(before[k]!, 9))
    expect(level.has(copy('1,1,0'))).toBe(false)
    expect(level.children(null)).toContain(thing)
    applyChange(level, inverse)
    const live = level.shapes(A).flatMap(({ matrices, indices }) =>
      [...indices.keys()].map(i =>
        new Matrix4()
          .fromArray(matrices, i * 16)
          .premultiply(level.worldMatrix(A))
          .toArray(),
      ),
    )
    applyChange(level, release(level, A, () => testId(next++)).operations)
    const released = level.children(A).map(id => level.worldMatrix(id).toArray())
    expect(released).toHaveLength(11)
    expect(live.length).toBeGreaterThan(0)
    for (const matrix of live)
      expect(released.some(other => other.every((value, k) => Math.abs(value - matrix[k]!) < 1e-9))).toBe(true)
  })
})

describe('an arrangement as it is kept', () => {
  it('is refused with the field named where something is wrong', () => {
    const issue = (own: unknown) => arrangementSchema.safeParse(own).error?.issues[0]
    expect(issue({ rule: line, exceptions: { first: { hidden: true } } })).toMatchObject({
      path: ['exceptions', 'first'],
    })
    expect(issue({ rule: line, exceptions: { 1: { size: [1, 0, 1] } } })).toMatchObject({
      path: ['exceptions', '1', 'size', 1],
      message: 'must not be 0',
    })
    expect(issue({ rule: { ...grid, rise: { by: 'expression', text: '0.3 * rows' } } })).toMatchObject({
      path: ['rule', 'rise', 'text'],
      message: expect.stringContaining('"rows" is not known'),
    })
    expect(issue({ rule: line, vary: { seed: 1, move: [0, 0, 0], turn: [0, 0, 0], size: [0, 1] } })).toMatchObject({
      path: ['vary', 'size', 0],
    })
  })
})

describe('a path that hugs the ground', () => {
  /** A slope that rises one in four along X, and a crate on it that is no ground. */
  function bank(own: Partial<PathRule>) {
    const rule: PathRule = {
      ...RULES.path.first,
      smooth: false,
      points: [
        [-4, 0, 0],
        [4, 0, 0],
      ],
      count: 5,
      hug: true,
      ...own,
    }
    const slope = Math.atan(0.25)
    const ground = testSolid(new BoxGeometry(40, 0.001, 40))
    const { level, index } = makeScene(
      [
        testPlacement(1, { kind: 'arrangement', own: { rule } }),
        testPlacement(2, { kind: 'part', partId: PARTS[0]!, parentId: A }),
        testPlacement(20, {
          kind: 'part',
          partId: testId(910),
          rotation: [0, 0, Math.sin(slope / 2), Math.cos(slope / 2)],
        }),
        testPlacement(21, { kind: 'part', partId: PARTS[0]!, translation: [2, 3, 0] }),
      ],
      {},
      {
        solidOf: shape => (shape === testId(910) ? ground : cube),
        tagsOf: part => (part === testId(910) ? ['ground'] : []),
        lampsOf: () => [],
        dealt: () => null,
      },
    )
    return { level, index }
  }
  const places = (level: LevelView) => level.shapes(A)[0]!

  it('has each copy on it, by itself, whatever stands on the ground', () => {
    const { level } = bank({})
    const { matrices } = places(level)
    for (let i = 0; i < 5; i++) {
      const [x, y] = [matrices[i * 16 + 12]!, matrices[i * 16 + 13]!]
      expect(x).toBeCloseTo(-4 + i * 2, 3)
      expect(y).toBeCloseTo(x / 4, 2)
      expect(matrices[i * 16 + 5]).toBe(1)
    }
    expect(level.worldMatrix(copy('4')).elements[13]).toBeCloseTo(1, 2)
  })

  it('is bent over it where its pieces are bent, from end to end, and they still meet', () => {
    const { level } = bank({ measure: 'ends', spacing: 1, begins: -0.5, bent: true })
    const pieces = level.shapes(A)
    expect(pieces).toHaveLength(8)
    const corners = pieces.map(({ shape, matrices }) => {
      const mesh = meshOfBentKey(shape, () => cube.mesh)!
      const home = new Matrix4().fromArray(matrices)
      return mesh.primitives.flatMap(({ positions }) =>
        Array.from({ length: positions.length / 3 }, (_, i) =>
          new Vector3().fromArray(positions, i * 3).applyMatrix4(home),
        ),
      )
    })
    // The cube's bottom is on the ground, and its top a metre above.
    for (const points of corners)
      for (const { x, y } of points) expect(Math.min(Math.abs(y - x / 4), Math.abs(y - x / 4 - 1))).toBeLessThan(2e-3)
    corners
      .slice(1)
      .forEach((points, i) =>
        expect(Math.min(...points.map(point => point.x))).toBeCloseTo(
          Math.max(...corners[i]!.map(point => point.x)),
          6,
        ),
      )
    // A straight slope needs no cuts.
    const [whole] = bank({ measure: 'ends', spacing: 8, begins: -4, bent: true }).level.shapes(A)
    expect(meshOfBentKey(whole!.shape, () => cube.mesh)!.primitives[0]!.indices).toHaveLength(36)
  })

  it('is bent wherever the ground turns: over a step in it, cut where it begins and ends', () => {
    const { level, index } = bank({ measure: 'ends', spacing: 8, begins: -4, bent: true })
    applyChange(level, [
      { do: 'put', id: testId(20), fields: { rotation: [0, 0, 0, 1] } },
      {
        do: 'put',
        id: testId(22),
        fields: { ...testPlacement(22, { kind: 'part', partId: testId(910), translation: [20, 1, 0] }) },
      },
    ])
    index.update([testId(20), testId(22)])
    const [whole] = level.shapes(A)
    const { positions } = meshOfBentKey(whole!.shape, () => long.mesh)!.primitives[0]!
    const home = new Matrix4().fromArray(whole!.matrices)
    const points = Array.from({ length: positions.length / 3 }, (_, i) =>
      new Vector3().fromArray(positions, i * 3).applyMatrix4(home),
    )
    for (const { x, y } of points) {
      if (x < -0.5) expect(y % 1).toBeCloseTo(0, 2)
      else if (x > 0.5) expect(y).toBeGreaterThan(0.99)
    }
    expect(new Set(points.map(point => Math.round(point.x * 100))).size).toBeGreaterThan(3)
  })

  it('whose pieces are bent releases them as parts with their meshes, all together or one alone', () => {
    const { level, index } = bank({ measure: 'ends', spacing: 1, begins: -0.5, bent: true })
    const matrices = new Map(level.shapes(A).map(({ shape, matrices }) => [shape, new Matrix4().fromArray(matrices)]))
    expect(bentShapesOf(level, copy('2'))).toEqual([bentShapesOf(level, A)[2]])
    const shapes: string[] = []
    const partOf = (shape: string) => testId(7000 + shapes.push(shape))
    let next = 6000
    const { operations, made } = releaseCopies(level, [copy('2')], () => testId(next++), partOf)
    applyChange(level, operations)
    index.update([A])
    expect(level.need(made[0]!)).toMatchObject({
      kind: 'part',
      partId: testId(7001),
      parentId: null,
      name: 'Thing 2, copy 3',
    })
    expect(level.has(copy('2'))).toBe(false)
    expect(level.shapes(A)).toHaveLength(7)
    applyChange(level, release(level, A, () => testId(next++), partOf).operations)
    expect(level.children(A)).toHaveLength(7)
    expect(level.has(testId(2))).toBe(false)
    for (const id of [...made, ...level.children(A)]) {
      const shape = shapes[Number.parseInt(level.need(id).partId!.slice(-12), 16) - 7001]!
      level
        .worldMatrix(id)
        .elements.forEach((value, i) => expect(value).toBeCloseTo(matrices.get(shape)!.elements[i]!, 9))
    }
  })

  it('whose pieces are bent releases the lights and arrangements below them where they were', () => {
    const { level, index } = bank({ measure: 'ends', spacing: 2, begins: -1, bent: true })
    applyChange(level, [
      {
        do: 'put',
        id: testId(3),
        fields: testPlacement(3, {
          parentId: testId(2),
          kind: 'light',
          own: lightOwn({ light: 'point', color: '#ffffff', intensity: 3, range: 4 }),
          translation: [0, 2, 0],
        }),
      },
      {
        do: 'put',
        id: testId(4),
        fields: testPlacement(4, {
          parentId: testId(3),
          kind: 'arrangement',
          own: { rule: { ...line, count: 2, along: [0, 0, 1] } },
          translation: [0.5, 0, 0],
        }),
      },
      { do: 'put', id: testId(5), fields: testPlacement(5, { parentId: testId(4), kind: 'part', partId: PARTS[1]! }) },
    ])
    index.update([A])
    const round = (matrix: Matrix4) =>
      matrix
        .toArray()
        .map(value => Math.round(value * 1e6) / 1e6 + 0)
        .join()
    const matricesOf = (of: readonly { shape: string; matrices: Float64Array }[], shape: string) =>
      of
        .filter(each => each.shape === shape)
        .flatMap(({ matrices }) =>
          Array.from({ length: matrices.length / 16 }, (_, i) =>
            round(new Matrix4().fromArray(matrices, i * 16).premultiply(level.worldMatrix(A))),
          ),
        )
        .sort()
    const [lamps, inner] = [matricesOf(level.marks(A), testId(3)), matricesOf(level.shapes(A), PARTS[1]!)]
    expect([lamps.length, inner.length]).toEqual([4, 8])
    let next = 6000
    const { operations, made } = releaseCopies(
      level,
      [copy('1')],
      () => testId(next++),
      () => testId(7000),
    )
    applyChange(level, operations)
    expect(made.map(id => level.need(id).kind)).toEqual(['part', 'light', 'arrangement'])
    applyChange(
      level,
      release(
        level,
        A,
        () => testId(next++),
        () => testId(7000),
      ).operations,
    )
    const all = [...level.placements()]
    expect(
      all
        .filter(({ kind }) => kind === 'light')
        .map(({ id }) => round(level.worldMatrix(id)))
        .sort(),
    ).toEqual(lamps)
    expect(
      [...level.arrangementIds]
        .flatMap(id =>
          level
            .shapes(id)
            .flatMap(({ matrices }) =>
              Array.from({ length: 2 }, (_, i) =>
                round(new Matrix4().fromArray(matrices, i * 16).premultiply(level.worldMatrix(id))),
              ),
            ),
        )
        .sort(),
    ).toEqual(inner)
  })

  it('lies along it when it stands with the ground, and released stands where it stood', () => {
    const { level } = bank({ stand: 'surface' })
    const up = new Vector3(0, 1, 0).transformDirection(new Matrix4().fromArray(places(level).matrices))
    expect(up.angleTo(new Vector3(-Math.sin(Math.atan(0.25)), Math.cos(Math.atan(0.25)), 0))).toBeLessThan(1e-3)
    const live = [0, 1, 2, 3, 4].map(i => level.worldMatrix(copy(String(i))).toArray())
    let next = 6000
    applyChange(level, release(level, A, () => testId(next++)).operations)
    level.children(A).forEach((id, i) =>
      level
        .worldMatrix(id)
        .toArray()
        .forEach((value, k) => expect(value).toBeCloseTo(live[i]![k]!, 9)),
    )
  })
})
