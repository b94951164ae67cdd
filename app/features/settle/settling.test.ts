import { describe, expect, it, vi } from 'vitest'
import { useLevel } from '~/editor/level'
import { testEditor } from '~/editor/test-editor'
import { WorkerHere } from '../../../tests/page'
import { testId } from '../../../tests/support'
import { useSettling } from './settling'

const [FLOOR, CRATE] = [testId(1), testId(2)]

/** A floor whose top lies at 0, and a crate of 1 m that hangs two metres over it. */
function begun() {
  vi.stubGlobal('Worker', WorkerHere)
  const bench = testEditor([
    { name: 'Floor', translation: [0, -0.5, 0], scale: [10, 1, 10] },
    { name: 'Crate', translation: [0, 2.5, 0] },
  ])
  bench.pick([CRATE])
  return { ...bench, level: useLevel(), settling: useSettling() }
}

describe('settling', () => {
  it('lets what is picked fall until it rests, shows that, and keeps it as one change', async () => {
    const { level, settling, seen } = begun()
    settling.settle()
    await vi.waitFor(() => expect(settling.news?.isDone).toBe(true), 60_000)
    // Shown, and not done yet.
    expect([level.view.need(CRATE).translation[1], seen.labels, level.previewed.has(CRATE)]).toEqual([2.5, [], true])
    settling.keep()
    const { translation, rotation } = level.view.need(CRATE)
    // What rests on a floor has its middle half its height over it; contacts of the library give way by a millimetre.
    expect(translation[1]).toBeCloseTo(0.5, 2)
    expect(Math.abs(rotation[3])).toBeCloseTo(1, 3)
    expect([seen.labels, settling.run, level.view.need(FLOOR).translation]).toEqual([
      ['Settle Crate'],
      null,
      [0, -0.5, 0],
    ])
    level.undo()
    expect(level.view.need(CRATE).translation).toEqual([0, 2.5, 0])
  }, 90_000)

  it('keeps nothing where that was changed meanwhile, and leaves all as it was when it is dismissed', async () => {
    const { level, settling, seen } = begun()
    settling.settle()
    await vi.waitFor(() => expect(settling.news?.seconds).toBeGreaterThan(0.1), 60_000)
    level.change('Rename', [{ do: 'put', id: CRATE, fields: { name: 'Box' } }])
    settling.keep()
    expect([level.notice?.title, seen.labels]).toEqual(['What was falling was changed meanwhile', ['Rename']])
    settling.settle()
    settling.dismiss()
    expect([settling.run, level.previewed.size, level.view.need(CRATE).translation]).toEqual([null, 0, [0, 2.5, 0]])
  }, 90_000)

  it('says why nothing can fall, or be poured', () => {
    const { level, settling, pick } = begun()
    pick([])
    settling.settle()
    expect(level.notice?.title).toBe('Nothing that is picked can fall')
    settling.pour()
    expect([level.notice?.title, settling.run]).toEqual(['Nothing to pour', null])
  })
})
