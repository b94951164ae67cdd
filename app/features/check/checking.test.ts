import { afterEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useLevel } from '~/editor/level'
import { testEditor } from '~/editor/test-editor'
import { testId, testPlacement } from '../../../tests/support'
import { WorkerHere } from '../../../tests/page'
import { useChecking } from './checking'

const GROUP = { kind: 'group', partId: null } as const
const MANY = 4500
/** Of a further group, below the second. */
const { id: _id, ...placementFields } = testPlacement(4, { name: 'Row of stalls', parentId: testId(2) })

/** What is found, by kind, with the last digits of its things. */
const found = (checking: ReturnType<typeof useChecking>) =>
  checking.news.findings
    .map(({ of, things }) => `${of} ${things.map(id => parseInt(id.slice(-6), 16)).join()}`)
    .toSorted()

/** A level that is being checked, in a worker of this thread. */
async function checked(placements: Parameters<typeof testEditor>[0]) {
  vi.stubGlobal('Worker', WorkerHere)
  testEditor(placements)
  const [level, checking] = [useLevel(), useChecking()]
  await nextTick()
  const settled = () => vi.waitFor(() => expect(checking.progress).toBeNull(), 20_000)
  return { level, checking, settled }
}

afterEach(() => {
  Object.assign(useLevel(), { summary: null })
})

describe('the check beside the page', () => {
  it('has what is done while it is handed the level', async () => {
    // More than go over at once, each in a group of its own; the last groups are filled while the first are on their
    // way.
    const { level, checking, settled } = await checked(
      Array.from({ length: MANY }, (_, i) => ({ ...GROUP, name: `Group ${i}` })),
    )
    level.change('Fill', [{ do: 'put', id: testId(1), fields: { parentId: testId(2) } }])
    level.change('Remove', [{ do: 'remove', id: testId(3) }])
    level.change('Limit', [{ do: 'put-limit', id: testId(90_000), fields: { of: 'same-name', off: true, values: {} } }])
    level.undo()
    await settled()
    const empty = found(checking).filter(each => each.startsWith('empty-group'))
    expect(checking.counts.warning + checking.counts.note).toBeGreaterThanOrEqual(MANY - 2)
    expect(empty).toContain('empty-group 1')
    expect(empty).not.toContain('empty-group 2')
    expect(empty).not.toContain('empty-group 3')
  })

  it('follows changes, undoing and others by the same operations', async () => {
    const { level, checking, settled } = await checked([
      { ...GROUP, name: 'Yard' },
      { ...GROUP, name: 'Row', parentId: testId(1) },
      { ...GROUP, name: 'Stall' },
    ])
    await settled()
    const before = found(checking)
    expect(before).toEqual(['empty-group 2', 'empty-group 3'])
    level.change('Move', [{ do: 'put', id: testId(3), fields: { parentId: testId(2) } }])
    await vi.waitFor(() => expect(found(checking)).toEqual(['empty-group 3']))
    level.undo()
    await vi.waitFor(() => expect(found(checking)).toEqual(before))
    // As Sync does when somebody else was first.
    level.session.rebase(
      [],
      [{ id: testId(500), label: 'Theirs', author: 'Ada', operations: [{ do: 'remove', id: testId(3) }] }],
      new Set(),
    )
    level.change('Rename', [{ do: 'put', id: testId(1), fields: { name: 'Quay' } }])
    await vi.waitFor(() => expect(found(checking)).toEqual(['empty-group 2']))
    // Nothing is told twice: what is gone cannot be removed again.
    level.change('Rename', [{ do: 'put', id: testId(2), fields: { name: 'Rows' } }])
    level.change('Fill', [{ do: 'put', id: testId(4), fields: placementFields }])
    await vi.waitFor(() => expect(found(checking)).toEqual(['empty-group 4']))
    expect(level.notice).toBeNull()
  })
})
