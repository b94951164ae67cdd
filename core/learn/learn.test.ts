import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Dealt } from '../arrange/scatter/deal'
import { RULES } from '../arrange/rules'
import { FIRST_INGREDIENT } from '../arrange/scatter/rule'
import { applyChange } from '../level/change'
import { createPlacement } from '../level/create'
import type { Operation, Placement } from '../level/schema'
import { degreesToQuat } from '../math/transform'
import type { Quat, Vec3 } from '../math/vectors'
import type { Scene } from '../scene/scene'
import { makeScene } from '../scene/scene'
import { dealAtOnce, dealerOver } from '../scene/scatter-site'
import { ShapeLibrary } from '../scene/shapes'
import { demoId, lanternQuayKit } from '../../demo/kit'
import { boathouseYard } from '../../demo/starting-points/boathouse-yard'
import { testId } from '../../tests/support'
import type { Yard } from './conditions'
import { isSo, named } from './conditions'
import type { ExerciseName } from './exercises'
import { EXERCISE_NAMES, EXERCISES } from './exercises'

const shapes = new ShapeLibrary()
const kit = lanternQuayKit()
for (const { id, mesh } of kit) shapes.put(id, id, mesh)

const tagsOf = (id: string) => kit.find(part => part.id === id)?.tags ?? []

/** The yard as it begins, after some operations; seen from its front. */
function yardAfter(operations: Operation[] = [], more: Partial<Yard> = {}): Yard {
  const { placements, ...records } = boathouseYard()
  const dealt = new Map<string, Dealt | null>()
  const scene: Scene = makeScene(placements, records, {
    solidOf: shapes.solid,
    tagsOf,
    lampsOf: () => [],
    dealt: id => {
      if (!dealt.has(id)) dealt.set(id, dealAtOnce(scene.level, { shapes, tagsOf }, dealerOver(shapes), id))
      return dealt.get(id)!
    },
  })
  applyChange(scene.level, operations)
  return {
    level: scene.level,
    index: scene.index,
    view: { eye: [2, 6, 16], target: [0, 0, 0] },
    isThrough: false,
    picked: new Set(),
    handedOver: 0,
    ...more,
  }
}

const idOf = (name: string) => demoId(`boathouse yard/${name}`)
const put = (name: string, fields: Partial<Placement>): Operation => ({ do: 'put', id: idOf(name), fields })
const at = (name: string, translation: Vec3) => put(name, { translation })
const turned = (y: number): Quat => degreesToQuat([0, y, 0])
const isDone = (name: ExerciseName, yard: Yard) => EXERCISES[name].until.every(condition => isSo(condition, yard))

const leaf = (translation: Vec3, rule: object): Operation[] => {
  const { id, ...fields } = createPlacement({
    id: testId(1),
    name: 'Leaves',
    kind: 'arrangement',
    translation,
    own: {
      rule: {
        ...RULES.scatter.first,
        on: [{ id: idOf('Paving'), stream: 1 }],
        mix: [{ ...FIRST_INGREDIENT, source: testId(2), stream: 1, room: 0.05 }],
        density: 4,
        ...rule,
      },
    },
  })
  const { id: source, ...shown } = createPlacement({
    id: testId(2),
    name: 'Red leaf',
    kind: 'part',
    partId: demoId('part/Red leaf'),
    parentId: id,
  })
  return [
    { do: 'put', id, fields },
    { do: 'put', id: source, fields: shown },
  ]
}
/** The slabs of the back row alone, away from the way between the marks. */
const backRow = { on: [1, 2, 3, 4, 5].map(i => ({ id: idOf(`Slab ${i}`), stream: i })) }
const tape = (x: number): Operation[] => {
  const end = (name: string, place: Vec3) => ({ at: place, on: idOf(name), point: [0, 0.8, 0] as Vec3 })
  return [
    at('Second bollard', [x, 0, 5.2]),
    {
      do: 'put-measure',
      id: testId(3),
      fields: {
        name: 'Tape 1',
        order: 0,
        hidden: false,
        kind: 'tape',
        ends: [end('Bollard', [4.5, 0.8, 5.2]), end('Second bollard', [x, 0.8, 5.2])],
        sides: [],
        connected: false,
      },
    },
  ]
}
/** The door turned about its left edge, worked out by a matrix: T(hinge) · R · T(-hinge), at once with the pivot. */
function doorBy(degrees: number, edge: number): Operation {
  const hinge = new Vector3(edge, 0, 0)
  const place = hinge.clone().add(new Vector3(-8.2, 0, -2))
  return put('Door', { pivot: hinge.toArray(), translation: place.toArray(), rotation: turned(degrees) })
}

/** What does each exercise, other ways that do it as well, and what nearly does. */
const CASES: Record<ExerciseName, { done: Yard[]; near: Yard[] }> = {
  look: {
    done: [yardAfter([], { view: { eye: [-6, 4, -14], target: [-6, 1.5, -4] } })],
    near: [
      yardAfter([], { view: { eye: [-6, 4, 8], target: [-6, 1.5, -4] } }),
      yardAfter([], { view: { eye: [-6, 4, -14], target: [-6, 4, -30] } }),
      yardAfter([], { view: { eye: [-6, 4, -140], target: [-6, 1.5, -4] } }),
    ],
  },
  behindGlass: {
    done: [yardAfter([], { picked: new Set([idOf('Basket behind the glass')]) })],
    near: [
      yardAfter([], { picked: new Set([idOf('Glass screen')]) }),
      yardAfter([], { picked: new Set([idOf('Basket behind the glass'), idOf('Glass screen')]) }),
      yardAfter([], { picked: new Set([idOf('Basket')]) }),
    ],
  },
  axis: {
    done: [yardAfter([at('Crate', [-3, 0, 2])]), yardAfter(secondCrate([-3, 0, 2]))],
    near: [
      yardAfter([at('Crate', [-3, 0.02, 2])]),
      yardAfter([at('Crate', [-2.995, 0, 2])]),
      yardAfter(secondCrate([-3.1, 0, 2])),
    ],
  },
  plane: {
    done: [yardAfter([at('Barrel', [1, 0, 3.5])])],
    near: [yardAfter([at('Barrel', [1, 0.1, 3.5])]), yardAfter([at('Barrel', [1, 0, 3.45])])],
  },
  number: {
    done: [yardAfter([at('Bench', [2.35, 0, 3.6])]), yardAfter([at('Bench', [2.35, 0, 1])])],
    near: [yardAfter([at('Bench', [2.36, 0, 3.6])]), yardAfter([at('Bench', [2.35, 0.2, 3.6])])],
  },
  turn: {
    done: [yardAfter([put('Bench', { rotation: turned(90) })]), yardAfter([put('Bench', { rotation: turned(-90) })])],
    near: [
      yardAfter([put('Bench', { rotation: turned(89.37) })]),
      yardAfter([put('Bench', { rotation: turned(180) })]),
      yardAfter([put('Bench', { rotation: degreesToQuat([5, 90, 0]) })]),
    ],
  },
  // The lid of the crate lies 4 cm below its rim.
  onAnother: {
    done: [
      yardAfter([at('Basket', [-6, 0.76, 2])]),
      yardAfter([at('Crate', [-3, 0, 2]), at('Basket', [-3.02, 0.76, 2.01])]),
    ],
    near: [
      yardAfter([at('Basket', [-6, 0.75, 2])]),
      yardAfter([at('Basket', [-6, 0.8, 2])]),
      yardAfter([at('Basket', [-6, 0.9, 2])]),
      yardAfter([at('Basket', [-5, 0.76, 2])]),
    ],
  },
  corner: {
    done: [yardAfter([at('Loose planks', [5.1, 0, 0.8])]), yardAfter([at('Loose planks', [3.5, 0.5, 0])])],
    near: [yardAfter([at('Loose planks', [5.12, 0, 0.8])]), yardAfter([at('Loose planks', [5.1, 0.03, 0.8])])],
  },
  abut: {
    done: [yardAfter([at('Loose railing', [-5, 0, 5.75])]), yardAfter([at('Railing', [-5.5, 0, 5.75])])],
    near: [
      yardAfter([at('Loose railing', [-4.98, 0, 5.75])]),
      yardAfter([at('Loose railing', [-5, 0, 5.7])]),
      yardAfter([at('Loose railing', [-5, 0.1, 5.75])]),
    ],
  },
  hinge: {
    done: [yardAfter([doorBy(-90, -0.6)]), yardAfter([doorBy(90, -0.6)])],
    near: [
      yardAfter([doorBy(-89, -0.6)]),
      yardAfter([doorBy(-90, 0)]),
      yardAfter([doorBy(-90, 0.6)]),
      yardAfter([put('Door', { rotation: turned(-90) })]),
      yardAfter([doorBy(0, -0.6)]),
      // Open, at its edge, and hung beside the frame.
      yardAfter([doorBy(-90, -0.6), at('Door', [-8.6, 0, -2])]),
    ],
  },
  row: {
    done: [
      yardAfter([lanterns(5, { '3': { hidden: true } })]),
      yardAfter([lanterns(5, { '1': { move: [0, 0, 0.5] } })]),
    ],
    near: [
      yardAfter([lanterns(5)]),
      yardAfter([lanterns(3, { '1': { hidden: true } })]),
      yardAfter([lanterns(6, { '1': { hidden: true } })]),
    ],
  },
  scatter: {
    done: [yardAfter(leaf([0, 0, 0], backRow))],
    near: [yardAfter(leaf([0, 0, 0], {})), yardAfter(leaf([0, 0, 0], { ...backRow, density: 0.2 })), yardAfter()],
  },
  measure: {
    done: [yardAfter(tape(7.5))],
    near: [yardAfter(tape(7.4)), yardAfter(tape(7.5).slice(0, 1))],
  },
  floats: {
    done: [yardAfter([at('Planter that floats', [8.8, 0, 2.2])]), yardAfter([at('Planter that floats', [4, 0, -4])])],
    near: [
      yardAfter([at('Planter that floats', [8.8, 0.03, 2.2])]),
      yardAfter([at('Planter that floats', [8.8, -0.1, 2.2])]),
    ],
  },
  camera: {
    done: [yardAfter([], { isThrough: true })],
    near: [yardAfter([], { picked: new Set([idOf('Over the yard')]) })],
  },
  handOver: { done: [yardAfter([], { handedOver: 1 })], near: [yardAfter()] },
}

function secondCrate(translation: Vec3): Operation[] {
  const { id, ...fields } = createPlacement({
    id: testId(9),
    name: 'Crate 1',
    kind: 'part',
    partId: demoId('part/Crate'),
    translation,
  })
  return [{ do: 'put', id, fields }]
}

function lanterns(count: number, exceptions: Record<string, object> = {}): Operation {
  return put('Row of lanterns', { own: { rule: { ...RULES.line.first, count, along: [2, 0, 0] }, exceptions } })
}

describe('the first steps', () => {
  it('are twelve to sixteen, each short, about things that are in the yard, and not done yet', () => {
    expect(EXERCISE_NAMES.length).toBeGreaterThanOrEqual(12)
    expect(EXERCISE_NAMES.length).toBeLessThanOrEqual(16)
    const yard = yardAfter()
    for (const name of EXERCISE_NAMES) {
      const { says, why, things, shows } = EXERCISES[name]
      // A key is shown in the place of what it does.
      const lengths = [says, why].map(text => text.replace(/\{[^}]+\}/g, 'G').length)
      expect(Math.max(...lengths), name).toBeLessThan(125)
      for (const thing of things) expect(named(yard.level, thing), thing).toHaveLength(1)
      for (const { at: where, drags, turns } of shows)
        for (const thing of [where && 'thing' in where ? where.thing : null, drags?.thing, turns?.thing])
          if (thing) expect(named(yard.level, thing).length, thing).toBeGreaterThan(0)
      expect(isDone(name, yard), name).toBe(false)
    }
  })

  it.each(EXERCISE_NAMES)('%s is done when it is so, and not when it nearly is', name => {
    CASES[name].done.forEach((yard, i) => expect(isDone(name, yard), `done ${i}`).toBe(true))
    CASES[name].near.forEach((yard, i) => expect(isDone(name, yard), `near ${i}`).toBe(false))
  })

  it('shows drags that end where the exercise is done', () => {
    for (const name of ['axis', 'plane', 'number', 'onAnother', 'corner', 'abut', 'floats'] as const) {
      const drags = EXERCISES[name].shows.flatMap(step => ('drags' in step && step.drags ? [step.drags] : []))
      const yard = yardAfter()
      for (const drag of drags) {
        const before = yard.level.need(idOf(drag.thing)).translation
        const to: Vec3 =
          'to' in drag
            ? (before.map((value, axis) => drag.to[axis] ?? value) as Vec3)
            : (yard.level.need(idOf(drag.on)).translation.map((value, i) => value + [0, 0.76, 0][i]!) as Vec3)
        applyChange(yard.level, [at(drag.thing, to)])
        yard.index.update(new Set([idOf(drag.thing)]))
      }
      expect(isDone(name, yard), name).toBe(true)
    }
  })
})
