import { BoxGeometry, Vector3 } from 'three'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { testId, testSolid } from '../../../tests/support'
import { testEditor } from '../test-editor'
import { useStageSession } from '../stage-session'
import { useModes } from '../modes'
import { AreaTool } from '~/features/scatter/area-tool'
import type { StageMode } from './gesture'
import { dragOut } from '~/features/kit/drag-out'
import { MarkTool } from '~/features/cameras/mark-tool'
import { PlaceTool } from '~/features/kit/place-tool'
import { PourTool } from '~/features/settle/pour-tool'

beforeAll(() => {
  vi.stubGlobal('requestAnimationFrame', (run: () => void) => {
    run()
    return 0
  })
})

/** A floor of ten metres, its top at the ground plane, and what the stage shows besides stood in for. */
function start() {
  const bench = testEditor([{ name: 'Floor', scale: [10, 1, 10], translation: [0, -1, 0] }])
  const drafts: (readonly object[] | null)[] = []
  Object.assign(bench.world.stage.shown.marks, {
    shapes: { claimDraft: () => (marks: readonly object[] | null) => drafts.push(marks) },
  })
  return { ...bench, drafts }
}
const thing = () => ({
  name: 'Crate',
  solid: testSolid(new BoxGeometry(1, 1, 1)),
  pivot: [0, 0, 0] as [number, number, number],
  make: () => ({ fields: { kind: 'part' as const, partId: testId(99) }, before: [] }),
})
const made = ({ level }: ReturnType<typeof start>) => [...level.placements()].filter(({ name }) => name !== 'Floor')

describe('putting things down', () => {
  it('puts a part where it is clicked, and where it is let go of when it is dragged from beside the stage', () => {
    const bench = start()
    const tool = new PlaceTool(bench.world, { tool: 'place', what: testId(99) }, 'Placing Crate', thing)
    tool.hover(bench.over(2, 0, 1))
    tool.press(bench.over(2, 0, 1))
    tool.letGo(bench.over(-2, 0, 1))
    expect(made(bench).map(({ name, translation }) => [name, translation])).toEqual([
      ['Crate 1', [2, 0, 1]],
      ['Crate 2', [-2, 0, 1]],
    ])
    expect(bench.seen.labels).toEqual(['Place Crate 1', 'Place Crate 2'])
    tool.stop()
  })

  it('lets go of what is dragged out of a list over the stage alone', () => {
    const bench = start()
    const tool = new PlaceTool(bench.world, { tool: 'place', what: testId(99) }, 'Placing Crate', thing)
    const canvas = {}
    const listeners = new Map<string, (event: object) => void>()
    vi.stubGlobal('document', {
      elementsFromPoint: (x: number) => (x < 900 ? [canvas] : []),
      elementFromPoint: () => null,
    })
    vi.stubGlobal('window', { addEventListener: () => {} })
    const input = {
      canvas,
      mode: tool,
      pointerOf: ({ clientX: x, clientY: y }: { clientX: number; clientY: number }) => ({
        x,
        y,
        ctrl: false,
        shift: false,
        alt: false,
      }),
    }
    const entry = {
      setPointerCapture: () => {},
      addEventListener: (name: string, listener: never) => listeners.set(name, listener),
    }
    const at = ({ x, y }: { x: number; y: number }) => ({ clientX: x, clientY: y })
    const drag = (to: { x: number; y: number }) => {
      const done: string[] = []
      dragOut({ ...at({ x: 5, y: 5 }), currentTarget: entry, pointerId: 1 } as never, {
        input: () => input as never,
        start: () => done.push('start'),
        stop: () => done.push('stop'),
        click: () => done.push('click'),
      })
      listeners.get('pointermove')!(at(to))
      listeners.get('pointerup')!(at(to))
      return done
    }
    expect(drag({ x: 1000, y: 20 })).toEqual(['start', 'stop'])
    expect(made(bench)).toHaveLength(0)
    expect(drag(bench.over(1, 0, 1))).toEqual(['start', 'stop'])
    expect(made(bench).map(({ translation }) => translation)).toEqual([[1, 0, 1]])
    expect(drag({ x: 6, y: 5 })).toEqual(['click'])
  })

  it('puts a camera at eye height, turned to where a drag goes', () => {
    const bench = start()
    const tool = new MarkTool(
      bench.world,
      'camera',
      () => 40,
      () => {},
    )
    const gesture = tool.press(bench.over(0, 0, 3))!
    gesture.move(bench.over(0, 0, -3))
    gesture.end(bench.over(0, 0, -3))
    const [camera] = made(bench)
    expect(camera).toMatchObject({
      kind: 'camera',
      own: { fieldOfView: 40 },
      translation: [expect.closeTo(0, 1), 1.7, expect.closeTo(3, 1)],
    })
    // A camera looks along its own -Z.
    const way = new Vector3(0, 0, -1).transformDirection(bench.level.worldMatrix(camera!.id))
    expect(way.z).toBeLessThan(-0.9)
    expect(bench.drafts.at(-1)).toBeNull()
  })

  it('pours into a circle as wide as it is dragged, and not at all when that is called off', () => {
    const bench = start()
    const poured: [number, number, number][] = []
    const tool = new PourTool(bench.world, 1, ({ x, z }, radius) => poured.push([x, z, radius]))
    const off = tool.press(bench.over(1, 0, 1))!
    off.move(bench.over(3, 0, 1))
    off.cancel()
    expect([poured, bench.drafts.at(-1)]).toEqual([[], null])
    const gesture = tool.press(bench.over(1, 0, 1))!
    gesture.move(bench.over(3, 0, 1))
    gesture.end(bench.over(3, 0, 1))
    expect(poured).toEqual([[expect.closeTo(1, 2), expect.closeTo(1, 2), expect.closeTo(2, 1)]])
  })

  it('draws an area by its corners, until the first is clicked again', () => {
    const bench = start()
    const drawn: [number, string | null][] = []
    const tool = new AreaTool(
      bench.world,
      { type: 'loop', hole: false },
      () => true,
      (points, on) => drawn.push([points.length, on]),
    )
    const click = (x: number, z: number) => {
      const at = bench.over(x, 0, z)
      tool.hover(at)
      tool.press(at)?.end(at)
    }
    for (const [x, z] of [
      [-2, -2],
      [2, -2],
      [2, 2],
    ] as const)
      click(x, z)
    expect(drawn).toEqual([])
    click(-2, -2)
    expect(drawn).toEqual([[3, testId(1)]])
  })
})

describe('asking for a point', () => {
  it('may begin another tool with it, which stays', () => {
    const bench = start()
    const [modes, session] = [useModes(), useStageSession()]
    const input: { mode: StageMode | null } = { mode: null }
    session.input = Object.assign(input, { cancel: () => false, hoverAgain: () => {} }) as never
    modes.touch('Where to begin', 'point', () => {
      modes.take(world => new PourTool(world, 1, () => {}))
      return true
    })
    expect(session.held('touch')).toEqual({ tool: 'touch' })
    input.mode!.press(bench.over(1, 0, 1))
    expect([session.held('touch'), session.held('pour'), input.mode?.id]).toEqual([
      null,
      { tool: 'pour' },
      { tool: 'pour' },
    ])
    modes.touch('Where to end', 'point', () => true)
    input.mode!.press(bench.over(1, 0, 1))
    expect([session.mode, input.mode]).toEqual([null, null])
  })
})
