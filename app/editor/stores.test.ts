import { Vector3 } from 'three'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { nextTick, watch } from 'vue'
import { RULES } from '~~/core/arrange/rules'
import type { Operation } from '~~/core/level/schema'
import { MOST_IN_CHANGE } from '~~/core/level/schema'
import { copyId } from '~~/core/scene/copy-id'
import { testId } from '../../tests/support'
import { testEditor } from './test-editor'
import { runDrag } from './tools/drags/drag'
import { useBaking } from '~/editor/baking'
import { useBorrowing } from '~/features/transform/borrowing'
import { useClipboard } from './clipboard'
import { useDuplicating } from '~/features/repeat/duplicating'
import { useEdits } from './edits'
import { useAuth } from './auth'
import { useLevel } from './level'
import { useMirroring } from '~/features/repeat/mirroring'
import { useModes } from './modes'
import { useRepeating } from '~/features/repeat/repeating'
import { useShaping } from '~/features/transform/shaping'
import { useStageSession } from './stage-session'
import { useTools } from './tools'

beforeAll(() => {
  vi.stubGlobal('requestAnimationFrame', () => 0)
  vi.stubGlobal('cancelAnimationFrame', () => {})
})

const [one, two, three] = [testId(1), testId(2), testId(3)]

/** Three cubes in a row, two metres apart; the first is picked. */
function start() {
  const bench = testEditor([
    { name: 'Crate' },
    { name: 'Barrel', translation: [2, 0, 0] },
    { name: 'Basket', translation: [4, 0, 0] },
  ])
  bench.pick([one])
  const x = (id: string) => bench.level.need(id).translation[0]
  return { ...bench, store: useLevel(), x }
}

describe('the level', () => {
  it('tells whoever reads it of every change, undo and redo, with the numbers as they are then', async () => {
    const { store, x } = start()
    const seen: number[] = []
    watch(
      () => store.view.need(one).translation[0],
      value => seen.push(value),
    )
    store.change('Move', [{ do: 'put', id: one, fields: { translation: [1, 0, 0] } }])
    await nextTick()
    store.undo()
    await nextTick()
    store.redo()
    await nextTick()
    expect(seen).toEqual([1, 0, 1])
    expect([x(one), store.undoSteps.length, store.redoSteps.length]).toEqual([1, 1, 0])
  })

  it('refuses more than one change can hold, and is as it was', () => {
    const { store, x } = start()
    const steps = Array.from(
      { length: MOST_IN_CHANGE + 1 },
      (): Operation => ({
        do: 'put',
        id: one,
        fields: { translation: [1, 0, 0] },
      }),
    )
    expect(store.changeAsGiven('Take all', steps)).toBe(false)
    expect(store.notice?.lines.join()).toContain('200,001')
    expect([x(one), store.undoSteps.length]).toEqual([0, 0])
    expect(store.changeAsGiven('Take all', steps.slice(1))).toBe(true)
    expect([x(one), store.undoSteps.length]).toEqual([1, 1])
  })

  it('refuses what cannot be, says so, and is as it was', () => {
    const { store, level } = start()
    const before = JSON.stringify([...level.placements()])
    expect(store.change('Hang', [{ do: 'put', id: one, fields: { parentId: testId(77) } }])).toBe(false)
    expect(store.notice).toMatchObject({ title: '"Hang" is not possible' })
    expect(JSON.stringify([...level.placements()])).toBe(before)
    useAuth().session = { role: 'look', person: null, largestFile: 1 }
    expect(store.change('Move', [{ do: 'put', id: one, fields: { translation: [1, 0, 0] } }])).toBe(false)
    expect([JSON.stringify([...level.placements()]), store.undoSteps.length]).toEqual([before, 0])
  })

  it('undoes the ticks of a wheel together, and cuts what a change is called to the length of a name', () => {
    const { store, x } = start()
    for (const at of [1, 2, 3])
      store.change('Step', [{ do: 'put', id: one, fields: { translation: [at, 0, 0] } }], 'step x')
    store.endJoining()
    store.change('N'.repeat(500), [{ do: 'put', id: one, fields: { translation: [9, 0, 0] } }], 'step x')
    expect(store.undoSteps.map(({ label }) => label.length)).toEqual([4, 500])
    store.undo()
    store.undo()
    expect(x(one)).toBe(0)
  })

  it('lets go of what is removed, and of a copy that is gone picks the arrangement', () => {
    const { store, pick } = start()
    const repeating = useRepeating()
    repeating.create({ rule: { ...RULES.line.first, count: 4 } })
    const id = repeating.current!
    pick([copyId(id, '3')])
    repeating.setRule({ ...RULES.line.first, count: 2 })
    expect([...store.selection.ids]).toEqual([id])
    useEdits().removePicked()
    expect(store.selection).toEqual({ ids: new Set(), last: null })
  })
})

describe('edits', () => {
  it('group, ungroup, hang, hide, lock and rename, each a change with its name that is undone alone', () => {
    const { store, level, pick, seen } = start()
    const edits = useEdits()
    pick([one, two])
    edits.groupPicked()
    const [group] = [...store.selection.ids] as [string]
    expect(level.need(group)).toMatchObject({ kind: 'group', translation: [1, 0, 0] })
    edits.hang([three], group)
    expect(level.children(group)).toEqual([one, two, three])
    expect(new Vector3().setFromMatrixPosition(level.worldMatrix(three)).toArray()).toEqual([4, 0, 0])
    edits.setOpen(group, true)
    edits.setHidden(true)
    edits.setLocked(true, [one])
    edits.rename(one, 'Lantern crate')
    expect([level.isHidden(one), level.isLocked(one), level.need(group).own, level.need(one).name]).toEqual([
      true,
      true,
      { open: true },
      'Lantern crate',
    ])
    expect(seen.labels).toEqual([
      'Group 2 things',
      'Rearrange Basket',
      'Open group Group 1',
      'Hide Group 1',
      'Lock Crate',
      'Rename Crate',
    ])
    for (let i = 0; i < 6; i++) store.undo()
    expect(level.children(null)).toEqual([one, two, three])
  })

  it('swap places, put on layers, and remove a layer with what is on it staying', () => {
    const { level, pick, x } = start()
    const edits = useEdits()
    pick([one, three])
    edits.swapPicked()
    expect([x(one), x(three)]).toEqual([4, 0])
    edits.addLayer()
    const [layer] = [...level.layers.keys()] as [string]
    edits.putOnLayer(layer)
    edits.changeLayer(layer, { visible: false })
    expect([level.isHidden(one), level.isHidden(two)]).toEqual([true, false])
    edits.removeLayer(layer)
    expect([level.layers.size, level.need(one).layerId, level.isHidden(one)]).toEqual([0, null, false])
  })
})

describe('repeating', () => {
  it('makes an arrangement of what is picked where it is, changes its rule, and releases it into things that stand as the copies did', async () => {
    const { store, level, seen } = start()
    const repeating = useRepeating()
    repeating.create({ rule: { ...RULES.line.first, count: 3, along: [0, 0, 2] } })
    expect([repeating.countLive, repeating.names]).toEqual([3, ['Crate']])
    repeating.setRule({ ...RULES.ring.first, count: 5 })
    expect([level.need(repeating.current!).name, repeating.own?.rule.type]).toEqual(['Ring 1', 'ring'])
    repeating.setException('2', { hidden: true })
    expect(level.shapes(repeating.current!)[0]!.indices).toHaveLength(4)
    const id = repeating.current!
    const stood = store.index.shownBy(id).map(({ matrix }) =>
      matrix
        .toArray()
        .map(value => Math.round(value * 1e6) / 1e6 + 0)
        .join(),
    )
    await repeating.releaseCurrent()
    expect(
      level
        .children(id)
        .map(each =>
          level
            .worldMatrix(each)
            .toArray()
            .map(value => Math.round(value * 1e6) / 1e6 + 0)
            .join(),
        )
        .sort(),
    ).toEqual(stood.sort())
    expect(seen.labels).toEqual(['Line of Crate', 'Make Line 1 a ring', 'Change Ring 1', 'Release Ring 1'])
  })

  it('begins side by side, follows the next sources while it is as it came, and keeps gaps that were asked for', () => {
    const { level, pick, store } = start()
    const repeating = useRepeating()
    repeating.task = 'line'
    const along = () => (repeating.drafts.line.rule as typeof RULES.line.first).along
    expect(along()).toEqual([1, 0, 0])
    store.change('Size', [{ do: 'put', id: two, fields: { scale: [3, 1, 1] } }])
    pick([two])
    expect(along()).toEqual([3, 0, 0])
    repeating.ask({ rule: { ...RULES.line.first, measure: 'gap', along: [3.5, 0, 0] } })
    pick([one])
    expect(along()).toEqual([1.5, 0, 0])
    expect(level.arrangementIds.size).toBe(0)
  })

  it('says what lighting another kind would do, and does nothing by that', () => {
    const { store, level } = start()
    const repeating = useRepeating()
    repeating.task = 'line'
    expect(repeating.acts).toBe('new')
    repeating.create({ rule: { ...RULES.line.first, count: 3 } })
    const id = repeating.current!
    const acts = (['line', 'ring', 'mirror', 'once'] as const).map(task => {
      repeating.task = task
      return repeating.acts
    })
    expect(acts).toEqual(['live', 'turn', 'new', 'new'])
    repeating.task = 'ring'
    // Shown as a ring it is a line still.
    store.preview(repeating.turned(RULES.ring.first))
    expect([repeating.own?.rule.type, repeating.acts]).toEqual(['line', 'turn'])
    expect(level.arranged(id).own.rule.type).toBe('line')
  })

  it('keeps a draft of each rule while nothing is arranged', () => {
    const { seen } = start()
    const repeating = useRepeating()
    repeating.setRule({ ...RULES.fan.first, rows: 7 })
    expect([repeating.drafts.fan.rule, repeating.current, seen.labels]).toMatchObject([
      { type: 'fan', rows: 7 },
      null,
      [],
    ])
  })

  it('mirrors live, with the sources where they are', () => {
    const { level, store } = start()
    const mirroring = useMirroring()
    mirroring.through = 'world'
    mirroring.axis = 2
    mirroring.mirrorPicked()
    const [id] = [...store.selection.ids] as [string]
    expect(level.need(id)).toMatchObject({ kind: 'arrangement', own: { rule: { type: 'mirror' } } })
    expect([level.isSource(one), level.children(id)]).toEqual([false, [one]])
  })
})

describe('duplicating and shaping', () => {
  it('duplicates by the given way and goes on by the same step', async () => {
    const { settings, level, store, x } = start()
    const duplicating = useDuplicating()
    settings.kept.duplicate.by = [0, 0, 3]
    await duplicating.duplicatePicked()
    await duplicating.duplicateAgain()
    const [last] = [...store.selection.ids] as [string]
    expect([level.need(last).translation, level.size, x(one)]).toEqual([[0, 0, 6], 5, 0])
    expect(duplicating.instancesPicked()).toMatchObject([{ picked: 1, all: 5 }])
  })

  it('goes on by the step between what a drag left behind and where it led, and by whatever was done to it since', async () => {
    const { level, store, world, view, handling, x } = start()
    const duplicating = useDuplicating()
    const frame = world.frame()!
    const grip = (at: number) => ({ ...view.project(new Vector3(at, 0, 0))!, ctrl: true, shift: false, alt: true })
    const drag = runDrag(world, world.startDrag({ do: 'move', kind: 'axis', axis: 0 }, grip(0))!, grip(0))
    drag.move(grip(4))
    drag.end(grip(4))
    expect(frame.origin.x).toBe(0)
    const [dragged, left] = [x(one)!, [...level.placements()].at(-1)!]
    expect([left.name, left.translation[0]]).toEqual(['Crate 1', 0])
    await duplicating.duplicateAgain()
    await duplicating.duplicateAgain()
    const all = [...level.placements()]
      .filter(({ name }) => name.startsWith('Crate'))
      .map(({ translation }) => translation[0] / dragged)
      .sort()
    all.forEach((at, i) => expect(at).toBeCloseTo(i, 9))
    // Then the last one is also turned and sized, and the next is turned and sized on from it.
    const [last] = [...store.selection.ids] as [string]
    const shaping = useShaping()
    shaping.quickTurn(6)
    store.change('Size', [{ do: 'put', id: last, fields: { scale: [1.5, 1.5, 1.5] } }])
    await duplicating.duplicateAgain()
    const [next] = [...store.selection.ids] as [string]
    expect(level.need(next).scale[0]).toBeCloseTo(2.25, 9)
    expect((2 * Math.acos(Math.abs(level.need(next).rotation[3])) * 180) / Math.PI).toBeCloseTo(180, 6)
    expect(handling.lock).toBeNull()
  })

  it('puts things of a text where they were, says what is none, and keeps all as it was then', () => {
    const { level, store, pick, x } = start()
    const clipboard = useClipboard()
    pick([one, two])
    const text = clipboard.textOfPicked()!
    clipboard.removeCut()
    expect([level.size, store.undoSteps.at(-1)?.label]).toEqual([1, 'Cut 2 things'])
    clipboard.pasteText(text, 'same')
    const [first, second] = [...store.selection.ids] as [string, string]
    expect([x(first), x(second), level.need(first).name, store.undoSteps.at(-1)?.label]).toEqual([
      0,
      2,
      'Crate',
      'Paste 2 things',
    ])
    clipboard.pasteText('two crates', 'same')
    expect([level.size, store.notice?.title]).toEqual([3, 'Nothing to paste'])
    store.undo()
    store.undo()
    expect(level.size).toBe(3)
  })

  it('gives a thousand duplicates names that nothing else has', async () => {
    const { level, pick, settings, store } = start()
    settings.kept.duplicate.by = [0, 0, 3]
    for (let i = 0; i < 10; i++) {
      pick([...level.placements()].map(({ id }) => id))
      await useDuplicating().duplicatePicked()
    }
    expect(level.size).toBe(3 * 1024)
    expect(new Set([...level.placements()].map(({ name }) => name)).size).toBe(level.size)
    expect([...store.selection.ids].map(id => level.need(id).name)[0]).toMatch(/^Crate \d+$/)
  })

  it('nudges by the grid, turns by the step, copies a transform, and resets', () => {
    const { level, pick } = start()
    const shaping = useShaping()
    shaping.nudge('right', 1)
    shaping.quickTurn(6)
    expect(level.need(one).translation).toEqual([0.5, 0, 0])
    expect(level.need(one).rotation[1]).toBeCloseTo(Math.SQRT1_2, 9)
    shaping.copyTransform()
    pick([two])
    shaping.pasteTransform()
    expect(level.need(two)).toMatchObject({ translation: [0.5, 0, 0], rotation: level.need(one).rotation })
    useBaking().resetPicked('turn')
    expect(level.need(two)).toMatchObject({ translation: [0.5, 0, 0], rotation: [0, 0, 0, 1] })
  })

  it('puts a pivot to a place of the box, and the thing stays', () => {
    const { level } = start()
    const before = level.worldMatrix(one).toArray()
    useBorrowing().setPivotPlace([1, 1, 1])
    expect(level.need(one).pivot).toEqual([0.5, 1, 0.5])
    level
      .worldMatrix(one)
      .toArray()
      .forEach((value, i) => expect(value).toBeCloseTo(before[i]!, 12))
  })
})

describe('modes and tools', () => {
  it('say what is on, and Esc ends all of it before it lets go of what is picked', () => {
    const { store, handling } = start()
    const [modes, tools] = [useModes(), useTools()]
    tools.kindFilter = 'camera'
    handling.lock = { kind: 'axis', axis: 1 }
    expect(modes.told).toEqual(['The next drag is locked to Y', 'Only cameras can be picked'])
    expect([tools.canPick(one), store.selection.ids.size]).toEqual([false, 1])
    modes.escape()
    expect([modes.told, tools.kindFilter, handling.lock, store.selection.ids.size]).toEqual([[], null, null, 1])
    modes.escape()
    expect(store.selection.ids.size).toBe(0)
  })

  /** A tool with something begun, on a stage that takes tools. */
  const begun = () => {
    const bench = start()
    const modes = useModes()
    const input = { mode: null, cancel: () => false, hoverAgain: () => {} }
    useStageSession().input = input as never
    const kept: string[] = []
    let work: string | null = null
    const tool = {
      id: { tool: 'area' },
      title: 'Drawing',
      hover: () => {},
      press: () => null,
      leave: () => {},
      stop: () => (work = null),
      work: () => {
        const what = work
        return what === null
          ? null
          : {
              what,
              keep: () => {
                kept.push(what)
                work = null
              },
              drop: () => (work = null),
              resume: () => (work = what),
            }
      },
    }
    modes.take(() => tool as never)
    const draw = (what: string) => (work = what)
    return { ...bench, modes, input, tool, kept, draw, now: () => work }
  }

  it('drop what was begun before they end, and undo brings it back, with the tool where that has ended', () => {
    const { modes, input, tool, draw, now, kept, seen } = begun()
    draw('the path of 3 points')
    modes.escape()
    expect([now(), input.mode, modes.justDropped]).toEqual([null, tool, 'the path of 3 points'])
    modes.escape()
    expect(input.mode).toBeNull()
    modes.undo()
    expect([now(), input.mode]).toEqual(['the path of 3 points', tool])
    modes.done()
    expect([kept, now(), seen.labels]).toEqual([['the path of 3 points'], null, []])
  })

  it('bring back only what was dropped last: after a change undo is of that', () => {
    const { modes, store, draw, now, x } = begun()
    draw('a loop')
    modes.escape()
    store.change('Move', [{ do: 'put', id: one, fields: { translation: [1, 0, 0] } }])
    expect(modes.undoable).toBe('Move')
    modes.undo()
    expect([x(one), now()]).toEqual([0, null])
    draw('another')
    // Taking another tool drops it as well.
    modes.take(() => ({ title: 'Other', hover: () => {}, press: () => null, leave: () => {}, stop: () => {} }) as never)
    expect(modes.undoable).toBe('Drop another')
  })

  it('take the unit worked in for every length that is said', () => {
    const { settings } = start()
    const tools = useTools()
    expect([tools.printLength(1.5), tools.printLength(-0.25, true), tools.printLength(0, true)]).toEqual([
      '1.500 m',
      '-0.250 m',
      '+0.000 m',
    ])
    settings.kept.unit = 'mm'
    expect(tools.printLength(1.5)).toBe('1500 mm')
  })
})
