import fc from 'fast-check'
import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyVec3, testId, testPlacement } from '../../tests/support'
import { RULES } from '../arrange/rules'
import { applyChange } from '../level/change'
import { Level } from '../level/level'
import type { Recipe } from '../level/recipe'
import { recipeFieldsSchema } from '../level/recipe'
import type { Operation, Placement } from '../level/schema'
import type { Quat, Vec3 } from '../math/vectors'
import { FIRST_BLOCKS } from '../mesh/block'
import type { DoneChange } from './making'
import { makeRecipe } from './making'
import { needsOf, playRecipe, recipeProblem } from './playing'

const yes = () => true
const crate = (number: number, fields: Partial<Placement> = {}) =>
  testPlacement(number, { kind: 'part', partId: testId(99), name: `Crate ${number}`, ...fields })
const levelOf = (...things: Placement[]) => new Level(things.map(each => structuredClone(each)))

let made = 500
const newId = () => testId(++made)

/** Does changes one after the other, as the editor does, and makes a recipe of them. */
function record(level: Level, changes: readonly Operation[][], picked?: readonly string[]) {
  const before = new Map([...level.placements()].map(each => [each.id, structuredClone(each)]))
  const done = changes.map((operations, i): DoneChange => {
    applyChange(level, operations, yes)
    return { label: `Step ${i + 1}`, operations, isChosen: true }
  })
  const recipe = makeRecipe('Some', done, id => before.get(id), picked)
  if (!recipe.ok) throw new Error(recipe.error)
  return recipe
}

function play(level: Level, recipe: Recipe, on: readonly string[], inputs?: Record<string, number>) {
  const played = playRecipe(level, recipe, { on, inputs, newId, hasPart: yes })
  if (!played.ok) throw new Error(`${played.step}: ${played.error}`)
  return { undo: applyChange(level, played.operations, yes).inverse, ...played }
}

const anyTurn = fc.tuple(anyVec3, fc.double({ min: -720, max: 720, noNaN: true })).map(([axis, degrees]): Quat => {
  const along = new Vector3(...axis)
  if (along.length() < 1e-3) along.set(0, 1, 0)
  return new Quaternion().setFromAxisAngle(along.normalize(), (degrees * Math.PI) / 180).toArray()
})
const anySize = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.01, max: 50, noNaN: true }))) as fc.Arbitrary<Vec3>
const anyPut = fc.record(
  { translation: anyVec3, rotation: anyTurn, scale: anySize, hidden: fc.boolean() },
  { requiredKeys: [] },
)

describe('recipes', () => {
  it('played on the same things from the same state give the same matrices to the last bit', () => {
    const start = fc.record({ translation: anyVec3, rotation: anyTurn, scale: anySize })
    fc.assert(
      fc.property(
        fc.array(start, { minLength: 1, maxLength: 4 }),
        fc.array(fc.tuple(fc.nat(3), anyPut), { minLength: 1, maxLength: 8 }),
        (starts, puts) => {
          const things = starts.map((fields, i) => crate(i + 1, fields))
          const [done, again] = [levelOf(...things), levelOf(...things)]
          const changes = puts.map(([of, fields]): Operation[] => [
            { do: 'put', id: testId((of % things.length) + 1), fields },
          ])
          const before = new Map(things.map(each => [each.id, each]))
          const recipe = makeRecipe(
            'Some',
            changes.map(operations => {
              applyChange(done, operations, yes)
              return { label: 'Step', operations, isChosen: true }
            }),
            id => before.get(id),
          )
          // Nothing that is otherwise afterwards is no recipe.
          if (!recipe.ok) return
          play(again, recipe.recipe, recipe.subjects)
          for (const { id } of things) {
            // JSON has no zero below zero.
            const bits = (level: Level) => level.worldMatrix(id).elements.map(each => each + 0)
            expect(bits(again)).toEqual(bits(done))
            expect(again.need(id).hidden).toBe(done.need(id).hidden)
          }
        },
      ),
    )
  })

  it('are undone whole, whatever they do', () => {
    fc.assert(
      fc.property(fc.array(anyPut, { minLength: 1, maxLength: 4 }), fc.integer({ min: 1, max: 5 }), (puts, count) => {
        const things = Array.from({ length: count }, (_, i) => crate(i + 1, { translation: [i, 0, 0] }))
        const level = levelOf(...things)
        const { recipe } = record(
          levelOf(...things),
          [
            ...puts.map((fields): Operation[] => [{ do: 'put', id: testId(1), fields: { ...fields, locked: true } }]),
            [{ do: 'put', id: newId(), fields: withoutId(crate(1, { translation: [9, 9, 9] })) }],
          ],
          [testId(1)],
        )
        const was = JSON.stringify([...level.placements()].toSorted((a, b) => (a.id < b.id ? -1 : 1)))
        const { undo } = play(
          level,
          recipe,
          things.map(({ id }) => id),
        )
        expect(level.size).toBe(2 * count)
        applyChange(level, undo, yes)
        expect(JSON.stringify([...level.placements()].toSorted((a, b) => (a.id < b.id ? -1 : 1)))).toBe(was)
      }),
      { numRuns: 50 },
    )
  })

  it('on other things do what the steps say, with other numbers where these are given', () => {
    const { recipe } = record(levelOf(crate(1)), [
      [{ do: 'put', id: testId(1), fields: { translation: [2, 0, 0.5] } }],
      [{ do: 'put', id: testId(1), fields: { rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] } }],
      [{ do: 'put', id: testId(1), fields: { scale: [2, 2, 2] } }],
    ])
    expect(recipe.inputs.map(({ name, first, quantity, axis }) => [name, first, quantity, axis])).toEqual([
      ['moveX', 2, 'length', 0],
      ['moveZ', 0.5, 'length', 2],
      ['turn', 90, 'angle', undefined],
      ['size', 2, 'factor', undefined],
    ])
    expect(needsOf(recipe)).toBe('each')
    const level = levelOf(crate(7, { translation: [1, 1, 1], scale: [3, 1, 1] }), crate(8))
    play(level, recipe, [testId(7), testId(8)])
    expect(level.need(testId(7))).toMatchObject({ translation: [3, 1, 1.5], scale: [6, 2, 2] })
    expect(level.need(testId(8)).translation).toEqual([2, 0, 0.5])
    // A quarter turn about Y takes X to -Z: right-handed, as in glTF.
    const x = new Vector3(1, 0, 0).applyQuaternion(new Quaternion(...level.need(testId(8)).rotation))
    expect(x.toArray().map(each => Math.round(each * 1e9) / 1e9 + 0)).toEqual([0, 0, -1])
    const other = levelOf(crate(1))
    play(other, recipe, [testId(1)], { moveX: -1, turn: 0, size: 1 })
    expect(other.need(testId(1))).toMatchObject({ translation: [-1, 0, 0.5], rotation: [0, 0, 0, 1], scale: [1, 1, 1] })
  })

  it('that did the same to several things are for each that is picked; others are for so many', () => {
    const three = [1, 2, 3].map(number => crate(number, { translation: [number, 0, 0] }))
    const up = three.map(
      ({ id, translation: [x] }): Operation => ({
        do: 'put',
        id,
        fields: { translation: [x, 0.1, 0] },
      }),
    )
    const { recipe } = record(levelOf(...three), [up])
    expect([needsOf(recipe), recipe.inputs.length]).toEqual(['each', 1])
    const apart = record(levelOf(...three), [
      [
        { do: 'put', id: testId(1), fields: { translation: [0, 0, 0] } },
        { do: 'put', id: testId(2), fields: { translation: [2, 0, 7] } },
      ],
    ])
    expect(needsOf(apart.recipe)).toBe(2)
    expect(playRecipe(levelOf(...three), apart.recipe, { on: [testId(1)], newId, hasPart: yes })).toEqual({
      ok: false,
      step: 0,
      error: 'It is played on 2 things; 1 thing is picked.',
    })
  })

  it('make again what was made: like what is picked, in a group, with a relation of its own', () => {
    const [copy, group, block] = [newId(), newId(), newId()]
    const things = [crate(1, { translation: [1, 0, 0] })]
    const { recipe } = record(
      levelOf(...things),
      [
        [
          {
            do: 'put',
            id: copy,
            fields: withoutId(crate(1, { translation: [1, 0, 2.2], name: 'Crate 9', scale: [2, 1, 1] })),
          },
        ],
        [
          { do: 'put', id: group, fields: withoutId(testPlacement(1, { kind: 'group', name: 'Pair' })) },
          { do: 'put', id: copy, fields: { parentId: group } },
        ],
        [{ do: 'put-block', id: block, fields: { shape: FIRST_BLOCKS.box, color: '#aabbcc' } }],
      ],
      [testId(1)],
    )
    const level = levelOf(crate(20, { partId: testId(77), translation: [5, 0, 0], name: 'Barrel' }))
    const { made: ids } = play(level, recipe, [testId(20)])
    const [like, pair] = ids.map(id => level.get(id))
    expect(like).toMatchObject({
      partId: testId(77),
      name: 'Barrel 1',
      translation: [5, 0, 2.2],
      scale: [2, 1, 1],
      parentId: pair!.id,
    })
    expect(pair).toMatchObject({ name: 'Pair', kind: 'group' })
    expect([level.size, level.blocks.size]).toEqual([3, 1])
  })

  it('give the plain numbers of a rule names', () => {
    const row = newId()
    const { recipe } = record(levelOf(crate(1)), [
      [
        {
          do: 'put',
          id: row,
          fields: withoutId(
            testPlacement(1, {
              kind: 'arrangement',
              partId: null,
              name: 'Row',
              own: { rule: { ...RULES.line.first, count: 5 } } as never,
            }),
          ),
        },
        { do: 'put', id: testId(1), fields: { parentId: row } },
      ],
    ])
    expect(recipe.inputs.find(({ name }) => name === 'count')).toMatchObject({ first: 5, quantity: 'count' })
    const level = levelOf(crate(4))
    play(level, recipe, [testId(4)], { count: 8 })
    const arrangement = level.need(level.need(testId(4)).parentId!)
    expect(arrangement.own).toMatchObject({ rule: { count: 8 } })
    const refused = playRecipe(levelOf(crate(4)), recipe, {
      on: [testId(4)],
      inputs: { count: 3_000_000 },
      newId,
      hasPart: yes,
    })
    expect(refused).toMatchObject({ ok: false, step: 1 })
  })

  it('say at which step they cannot be done', () => {
    const layer = newId()
    const { recipe } = record(new Level([crate(1)], { layers: [layerOf(layer)] }), [
      [{ do: 'put', id: testId(1), fields: { translation: [1, 0, 0] } }],
      [{ do: 'put', id: testId(1), fields: { layerId: layer } }],
    ])
    const on = [testId(1)]
    expect(playRecipe(levelOf(crate(1)), recipe, { on, newId, hasPart: yes })).toEqual({
      ok: false,
      step: 2,
      error: 'Crate 1: its layer is gone.',
    })
    const light = record(levelOf(testPlacement(1, { kind: 'group', name: 'Lamp' })), [
      [{ do: 'put', id: testId(1), fields: { hidden: true } }],
      [{ do: 'put', id: testId(1), fields: { own: { open: true } as never } }],
    ])
    expect(playRecipe(levelOf(crate(1)), light.recipe, { on, newId, hasPart: yes })).toMatchObject({
      ok: false,
      step: 2,
    })
    const copied = record(levelOf(crate(1)), [[{ do: 'put', id: newId(), fields: withoutId(crate(1)) }]], on)
    expect(playRecipe(levelOf(crate(1)), copied.recipe, { on, newId, hasPart: () => false })).toEqual({
      ok: false,
      step: 1,
      error: 'The part of Crate 2 is not in the kit any more.',
    })
    const gone = record(levelOf(crate(1), crate(2)), [[{ do: 'put', id: testId(2), fields: { hidden: true } }]], on)
    expect(playRecipe(levelOf(crate(1)), gone.recipe, { on: [], newId, hasPart: yes })).toMatchObject({
      ok: false,
      step: 1,
      error: 'The thing it is about is gone.',
    })
  })

  const byHand = (more: object): Recipe =>
    recipeFieldsSchema.parse({
      name: 'By hand',
      inputs: [{ name: 'gap', label: 'Gap', quantity: 'length', first: 0.5 }],
      steps: [{ label: 'Move', does: [{ do: 'move', who: 'each', by: ['gap * 2 + 0.1', 0, 0], exact: [], ...more }] }],
    })

  it('written by hand use sums over their inputs, and nothing else', () => {
    const level = levelOf(crate(1))
    play(level, byHand({}), [testId(1)], { gap: 2 })
    expect(level.need(testId(1)).translation[0]).toBeCloseTo(4.1, 12)
    for (const bad of ['width', 'gap +', 'constructor', 'gap.x', '__proto__', 'gap = 3', 'min', '"a"'])
      expect(recipeProblem(byHand({ by: [bad, 0, 0] })), bad).toMatch(/^The sum/)
    expect(recipeProblem(byHand({}))).toBeNull()
    expect(
      playRecipe(level, byHand({ by: ['1 / (gap - gap)', 0, 0] }), { on: [testId(1)], newId, hasPart: yes }),
    ).toEqual({ ok: false, step: 1, error: 'The sum “1 / (gap - gap)” gives no number.' })
    expect(playRecipe(level, byHand({ who: 'new3' }), { on: [testId(1)], newId, hasPart: yes })).toMatchObject({
      step: 1,
    })
    const wrong: Record<string, number>[] = [{ other: 1 }, { gap: Number.NaN }, { gap: Infinity }]
    for (const inputs of wrong)
      expect(playRecipe(level, byHand({}), { on: [testId(1)], inputs, newId, hasPart: yes })).toMatchObject({ step: 0 })
  })

  it('that would do too much are refused before they begin', () => {
    const does = Array.from({ length: 500 }, () => ({ do: 'move', who: 'each', by: [1, 0, 0], exact: [] }))
    const recipe = recipeFieldsSchema.parse({ name: 'Much', inputs: [], steps: [{ label: 'Move', does }] })
    const on = Array.from({ length: 500 }, (_, i) => testId(i + 1))
    expect(playRecipe(new Level(), recipe, { on, newId, hasPart: yes })).toMatchObject({ ok: false, step: 0 })
    expect(recipeFieldsSchema.safeParse({ ...recipe, steps: [...recipe.steps, ...recipe.steps] }).success).toBe(false)
    expect(makeRecipe('None', [], () => undefined)).toMatchObject({ ok: false })
  })
})

const withoutId = ({ id: _id, ...fields }: Placement) => fields
const layerOf = (id: string) => ({ id, name: 'Goods', color: '#112233', visible: true, locked: false, order: 0 })
