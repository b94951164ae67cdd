import { afterEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { measureSchema } from '~~/core/level/schema'
import { useLevel } from '~/editor/level'
import { testEditor } from '~/editor/test-editor'
import { keysOf, RULES } from '~~/core/arrange/rules'
import type { Operation, Placement } from '~~/core/level/schema'
import { copyId } from '~~/core/scene/copy-id'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { testId, testPlacement } from '../../../tests/support'
import { useMeasuring } from './measuring'

const [TAPE, GAP] = [testId(200), testId(201)]

/** Two crates of 1 m whose middles are 3 m apart, with a tape between their middles and the gap between them. */
async function begun() {
  const bench = testEditor([{ name: 'Crate' }, { name: 'Barrel', translation: [3, 0, 0] }])
  const [level, measuring] = [useLevel(), useMeasuring()]
  await nextTick()
  const end = (number: number, x: number) => ({ at: [x, 0, 0], on: testId(number), point: [0, 0, 0] })
  const put = (id: string, name: string, fields: object) => {
    const { id: _id, ...whole } = measureSchema.parse({
      id,
      name,
      order: 0,
      connected: false,
      hidden: false,
      ends: [],
      sides: [],
      ...fields,
    })
    level.change(`Keep ${name}`, [{ do: 'put-measure', id, fields: whole }])
  }
  put(TAPE, 'Tape', { kind: 'tape', ends: [end(1, 0), end(2, 3)] })
  put(GAP, 'Gap', { kind: 'clearance', sides: [[testId(1)], [testId(2)]] })
  const value = (id: string) => measuring.results.get(id)?.measured.facts[0]?.value
  return { ...bench, level, measuring, value, session: useStageSession(), grasp: useModes().graspOf }
}

afterEach(() => {
  Object.assign(useLevel(), { summary: null })
})

describe('measures that are kept', () => {
  it('follow their things, their undoing, and what a drag would do', async () => {
    const { level, measuring, value } = await begun()
    expect([value(TAPE), value(GAP)]).toEqual([3, expect.closeTo(2, 6)])
    level.change('Move', [{ do: 'put', id: testId(2), fields: { translation: [0, 0, 5] } }])
    // Apart along Z now: five metres between the middles, four between the faces.
    expect([value(TAPE), value(GAP)]).toEqual([5, expect.closeTo(4, 6)])
    level.undo()
    expect(value(TAPE)).toBe(3)
    level.preview([{ do: 'put', id: testId(2), fields: { translation: [0, 4, 0] } }])
    await nextTick()
    expect(value(TAPE)).toBe(4)
    level.preview(null)
    await nextTick()
    expect([value(TAPE), measuring.textOf(TAPE).split('\n')[0]]).toEqual([3, 'Length: 3.000 m'])
  })

  it('follow copies while their arrangement, its rule or one of them is dragged', async () => {
    const { level, measuring, value } = await begun()
    const rule = { ...RULES.line.first, count: 3, along: [2, 0, 0] as [number, number, number] }
    const [row, source] = [testId(50), testId(51)]
    const put = (placement: Placement): Operation => {
      const { id, ...fields } = placement
      return { do: 'put', id, fields }
    }
    level.change('Lay', [
      put(testPlacement(50, { kind: 'arrangement', own: { rule }, translation: [0, 0, 4] })),
      put(testPlacement(51, { parentId: row })),
    ])
    expect(level.view.has(source)).toBe(true)
    const last = copyId(row, keysOf(rule).keyAt(2))
    const tape = level.view.measures.get(TAPE)!
    const end = { at: [4, 0, 4] as [number, number, number], on: last, point: [0, 0, 0] as [number, number, number] }
    measuring.change(tape, { ends: [tape.ends[0]!, end] })
    expect(value(TAPE)).toBeCloseTo(Math.hypot(4, 4), 9)
    const shown: [Operation, number][] = [
      [{ do: 'put', id: row, fields: { translation: [-1, 0, 4] } }, 5],
      [{ do: 'put', id: row, fields: { own: { rule: { ...rule, along: [1.5, 0, 0] } } } }, 5],
      [{ do: 'put', id: last, fields: { translation: [-4, 0, -4] } }, 4],
    ]
    for (const [operation, metres] of shown) {
      level.preview([operation])
      await nextTick()
      expect(value(TAPE)).toBeCloseTo(metres, 9)
      level.preview(null)
      await nextTick()
      expect(value(TAPE)).toBeCloseTo(Math.hypot(4, 4), 9)
    }
  })

  it('have an end that is moved by a drag, or given up', async () => {
    const { level, measuring, session, value, grasp, over } = await begun()
    const taken = grasp(`${TAPE} 1`)!
    taken.drag.move(over(0, 0, 3))
    expect(session.readout!.value).toBe('3.000 m')
    taken.drag.move(over(0, 0, 6))
    expect([value(TAPE), session.readout!.value]).toEqual([3, '6.000 m'])
    taken.drag.cancel()
    expect([value(TAPE), level.undoSteps.at(-1)!.label]).toEqual([3, 'Keep Gap'])
    const again = grasp(`${TAPE} 1`)!
    again.drag.move(over(0, 0, 6))
    again.drag.end(over(0, 0, 6))
    expect([value(TAPE), level.undoSteps.at(-1)!.label]).toEqual([6, 'Move an end of Tape'])
    expect(level.view.measures.get(TAPE)!.ends[1]).toMatchObject({ on: null, at: [0, 0, 6] })
    // Removed meanwhile, as by somebody else, nothing is written.
    const gone = grasp(`${TAPE} 0`)!
    gone.drag.move(over(0, 0, 1))
    measuring.remove(level.view.measures.get(TAPE)!)
    gone.drag.end(over(0, 0, 1))
    expect([level.view.measures.has(TAPE), level.undoSteps.at(-1)!.label]).toEqual([false, 'Remove Tape'])
    expect(grasp(`${TAPE} 0`)).toBeNull()
  })

  it('say that a thing is gone, and stay where it was', async () => {
    const { level, measuring, value } = await begun()
    level.change('Remove', [{ do: 'remove', id: testId(2) }])
    expect(value(TAPE)).toBe(3)
    expect(measuring.results.get(TAPE)!.measured.remarks.join()).toContain('gone')
  })

  it('are taken away one by one, or all as one change', async () => {
    const { level, measuring, seen } = await begun()
    measuring.remove(level.view.measures.get(GAP)!)
    expect([[...level.view.measures.keys()], measuring.results.has(GAP)]).toEqual([[TAPE], false])
    level.undo()
    measuring.removeAll()
    expect([level.view.measures.size, measuring.results.size]).toEqual([0, 0])
    level.undo()
    expect([level.view.measures.size, seen.labels.length]).toEqual([2, 2])
  })
})
