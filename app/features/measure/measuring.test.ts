import { afterEach, describe, expect, it } from 'vitest'
import { nextTick } from 'vue'
import { measureSchema } from '~~/core/level/schema'
import { useLevel } from '~/editor/level'
import { testEditor } from '~/editor/test-editor'
import { testId } from '../../../tests/support'
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
  return { ...bench, level, measuring, value }
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
