import { Quaternion, Vector3 } from 'three'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { findSnapPoint, SNAP_POINT_KINDS } from '~~/core/edit/snap/vertex'
import { testId } from '../../../tests/support'
import { keyFor } from '../keys/test-keys'
import type { Pointing, ViewGesture } from '../pointing/pointing'
import { pointingOf } from '../pointing/pointing'
import { useSettings } from '../settings'
import { testEditor } from '../test-editor'
import { FASTEST, fly, orbitCentre, pointUnder, SLOWEST, steerByWheel, steering } from './navigate'
import type { MeasureDraft } from '~/features/measure/measure-tool'
import { MeasureTool } from '~/features/measure/measure-tool'
import { PickTool } from './pick-tool'
import { TouchTool } from './touch-tool'

beforeAll(() => {
  vi.stubGlobal('requestAnimationFrame', (run: () => void) => {
    run()
    return 0
  })
  vi.stubGlobal('cancelAnimationFrame', () => {})
})

const [one, two, three] = [testId(1), testId(2), testId(3)]

describe('touching and measuring', () => {
  const start = () => {
    const bench = testEditor([{ name: 'One' }, { name: 'Other', translation: [4, 0, 4] }])
    bench.view.lookFrom(new Vector3(2, 8, 12), new Vector3(2, 0, 2))
    return bench
  }

  it('means the middle of what is touched off its middle, and the spot with a key', () => {
    const bench = start()
    const touched: number[][] = []
    const tool = new TouchTool(
      bench.world,
      'Touch',
      'middle',
      ({ point }) => {
        touched.push(point.toArray().map(value => Math.round(value * 1e6) / 1e6))
        return false
      },
      () => {},
    )
    tool.press(bench.over(4.3, 1, 4.2))
    tool.press(bench.over(4.3, 1, 4.2, { ctrl: true }))
    expect(touched[0]).toEqual([4, 0.5, 4])
    expect(Math.hypot(touched[1]![0]! - 4.3, touched[1]![2]! - 4.2)).toBeLessThan(0.05)
    expect(bench.seen.readouts.length).toBe(0)
    tool.hover(bench.over(4.3, 1, 4.2))
    expect(bench.seen.readouts.at(-1)).toMatchObject({ value: 'the middle of Other' })
  })

  it('catches a corner within a few pixels of the middle of an edge, and the middle where the corner is farther', () => {
    for (const [height, kind] of [
      [0.1, 'vertex'],
      [1, 'edge'],
    ] as const) {
      const bench = testEditor([{ name: 'One', scale: [1, height, 1] }])
      bench.view.lookFrom(new Vector3(5, 4, 9), new Vector3(0, 0, 0))
      // On the middle of an upright edge.
      const [x, y, z] = [0.5, bench.index.bounds().max.y - height / 2, 0.5]
      const found = findSnapPoint(
        bench.level,
        bench.index,
        bench.view.aim(bench.over(x, y, z)),
        new Set(SNAP_POINT_KINDS),
        () => true,
      )
      expect(found?.kind).toBe(kind)
    }
  })

  it('measures nothing against itself, and can be dropped and resumed', () => {
    const bench = start()
    bench.pick([])
    const made: MeasureDraft[] = []
    const tool = new MeasureTool(bench.world, 'clearance', 'clearance', '', {
      show: () => [],
      keep: draft => made.push(draft),
      axes: () => new Quaternion(),
    })
    tool.press(bench.over(0, 0.4, 0))
    tool.press(bench.over(0, 0.4, 0))
    expect([made.length, bench.seen.readouts.at(-1)!.value]).toEqual([0, 'from One: now point at the other'])
    const work = tool.work()!
    work.drop()
    expect(tool.work()).toBeNull()
    work.resume()
    tool.press(bench.over(4, 0.4, 4))
    expect(made.map(({ sides }) => sides)).toEqual([[[one], [two]]])
  })
})

describe('picking', () => {
  // Two boxes behind each other as seen from the front, a third aside.
  const start = () => {
    const bench = testEditor([{ translation: [0, 0, 2] }, { translation: [0, 0, -2] }, { translation: [5, 0, 0] }])
    const tool = new PickTool(bench.world)
    const click = (...at: Parameters<typeof bench.over>) => {
      const pointer = bench.over(...at)
      tool.press(pointer).end(pointer)
      return [...bench.seen.selection.ids]
    }
    bench.view.lookFrom(new Vector3(0, 0.5, 12), new Vector3(0, 0.5, 0))
    return { ...bench, tool, click }
  }

  it('takes the nearest, then what is behind, round and round, and lets go on nothing', () => {
    const { click } = start()
    expect(click(0, 0.5, 0)).toEqual([one])
    expect(click(0, 0.5, 0)).toEqual([two])
    expect(click(0, 0.5, 0)).toEqual([one])
    expect(click(-6, 4, 0)).toEqual([])
  })

  it('begins with the nearest again after something else was picked', () => {
    const { click } = start()
    click(0, 0.5, 0)
    click(5, 0.5, 0)
    expect(click(0, 0.5, 0)).toEqual([one])
  })

  it('adds with Shift and toggles with Ctrl', () => {
    const { click } = start()
    click(0, 0.5, 0)
    expect(click(5, 0.5, 0, { shift: true })).toEqual([one, three])
    expect(click(5, 0.5, 0, { ctrl: true })).toEqual([one])
    expect(click(-6, 4, 0, { shift: true })).toEqual([one])
  })

  it('goes on by key before the click', () => {
    const { tool, over, click } = start()
    expect(tool.hover(over(0, 0.5, 0))).toBe(one)
    expect(tool.next()).toBe(two)
    expect(tool.hover(over(0, 0.5, 0))).toBe(two)
    expect(click(0, 0.5, 0)).toEqual([two])
    expect(tool.hover(over(5, 0.5, 0))).toBe(three)
  })

  it('passes over what is locked, and prefers marks where they may be picked', () => {
    const { click, seen, world } = start()
    world.change('', [{ do: 'put', id: one, fields: { locked: true } }])
    expect(click(0, 0.5, 0)).toEqual([two])
    seen.markHits = [{ id: three, distance: 1 }]
    expect(click(0.1, 0.9, 0)).toEqual([three])
  })

  it('draws a frame that counts, and takes by touch downwards and whole things upwards', () => {
    const { tool, over, seen } = start()
    const down = tool.press(over(4.2, 1.6, 0))
    down.move(over(5, 0.5, 0))
    expect(seen.frames.at(-1)).toMatchObject({ rule: 'touch', count: 1 })
    down.end(over(5, 0.5, 0))
    expect([...seen.selection.ids]).toEqual([three])
    expect(seen.frames.at(-1)).toBeNull()

    const up = tool.press(over(5, -0.4, 0))
    up.move(over(4.2, 1.6, 0))
    expect(seen.frames.at(-1)).toMatchObject({ rule: 'inside', count: 0 })
    up.end(over(4.2, 1.6, 0))
    expect(seen.selection.ids.size).toBe(0)
  })

  it('of a frame that is cancelled leaves what was picked', () => {
    const { tool, over, seen, pick } = start()
    pick([two])
    const gesture = tool.press(over(4.2, 1.6, 0))
    gesture.move(over(5, 0.5, 0))
    gesture.cancel()
    expect([...seen.selection.ids]).toEqual([two])
  })
})

describe("finding one's way", () => {
  it('orbits around what is picked, else what is under the pointer, else something as far off', () => {
    const { world, view, over, pick } = testEditor([{ translation: [2, 0, 0] }])
    expect(orbitCentre(world, view, over(2, 1, 0.2)).y).toBeCloseTo(1, 6)
    pick([one])
    expect(orbitCentre(world, view, over(-5, 0, 0)).toArray()).toEqual([2, 0.5, 0])
    const nowhere = pointUnder(world, view, over(-6, 3, 0))
    expect(Number.isFinite(nowhere.length())).toBe(true)
    expect(view.project(nowhere)!.x).toBeCloseTo(over(-6, 3, 0).x, 3)
  })

  it('zooms to what is under the pointer by the wheel, never through it', () => {
    const { world, view, over } = testEditor([{}])
    const at = over(0, 1, 0.3)
    for (let i = 0; i < 200; i++) steerByWheel(world, view, at, { dx: 0, dy: -300, isPinch: false })
    expect(view.eye.distanceTo(new Vector3(0, 1, 0.3))).toBeLessThan(0.2)
    expect(view.eye.y).toBeGreaterThan(1)
  })

  it('is steered as the pointing device is set', () => {
    const { world, view, over } = testEditor([{}])
    const at = over(0, 0.5, 0)
    const settings = useSettings()
    /** What a turn of the wheel does: how much nearer it comes, and how far it is shifted across. */
    const after = (turn: { dx?: number; dy?: number; isPinch?: boolean }, more: Partial<Pointing> = {}) => {
      settings.kept.pointing = { ...pointingOf('three-button mouse'), ...more }
      const before = view.savePose()
      steerByWheel(world, view, at, { dx: 0, dy: 0, isPinch: false, ...turn })
      const [eye, target] = [view.eye.clone(), view.target.clone()]
      const was = { eye: before.eye.clone(), target: before.target.clone() }
      view.setPose(before)
      return {
        nearer: was.eye.distanceTo(was.target) - eye.distanceTo(target),
        shifted: target.clone().sub(was.target),
      }
    }
    const plain = after({ dy: -100 }).nearer
    expect(plain).toBeGreaterThan(0)
    expect(after({ dy: 100 }, { wheelTurned: true }).nearer).toBeCloseTo(plain, 9)
    expect(after({ dy: -100 }, { zoomSpeed: 2 }).nearer).toBeGreaterThan(plain * 1.5)
    expect(after({ dy: -10, isPinch: true }, { wheel: 'pan' }).nearer).toBeGreaterThan(0)
    // Two fingers to the right bring what is on the left.
    const panned = after({ dx: 100 }, { wheel: 'pan' })
    expect(panned.nearer).toBeCloseTo(0, 9)
    expect(panned.shifted.dot(view.directions().right)).toBeGreaterThan(0)

    const dragged = (gesture: ViewGesture, more: Partial<Pointing> = {}) => {
      settings.kept.pointing = { ...pointingOf('three-button mouse'), ...more }
      const before = view.savePose()
      const run = steering(world, gesture, at)
      run.move({ ...at, x: at.x + 20, y: at.y + 30 })
      run.end(at)
      const now = view.savePose()
      view.setPose(before)
      return { eye: now.eye.clone(), target: now.target.clone(), moved: now.eye.distanceTo(before.eye) }
    }
    expect(dragged('zoom').moved).toBeGreaterThan(0)
    expect(dragged('orbit', { orbitSpeed: 2 }).moved).toBeGreaterThan(dragged('orbit').moved * 1.5)
    const [down, up] = [dragged('fly').target.y, dragged('fly', { lookTurned: true }).target.y]
    expect(Math.sign(down - view.target.y)).toBe(-Math.sign(up - view.target.y))
  })

  it('flies while keys are held, slower with Shift, with the speed within its limits', () => {
    const { world, view, over, seen } = testEditor([])
    const gesture = fly(world, view, over(0, 0, 0))
    expect(gesture.key!(keyFor())).toBe(false)
    gesture.key!(keyFor('flyForward'))
    expect(view.velocity!.toArray()).toEqual([0, 0, 6])
    for (const [use, way] of [
      ['flyUp', [0, 6, 6]],
      ['flyDown', [0, -6, 6]],
      ['flyLeft', [-6, 0, 6]],
    ] as const) {
      gesture.key!(keyFor(use))
      const wanted = new Vector3(...way).setLength(6).toArray()
      expect(view.velocity!.toArray().map(value => value.toFixed(9))).toEqual(wanted.map(value => value.toFixed(9)))
      gesture.key!(keyFor(use, false))
    }
    gesture.key!(keyFor('flyRight'))
    expect(view.velocity!.length()).toBeCloseTo(6, 12)
    gesture.key!(keyFor('flySlowly'))
    expect(view.velocity!.length()).toBeCloseTo(1.2, 12)
    gesture.key!(keyFor('flySlowly', false))
    for (let i = 0; i < 100; i++) gesture.wheel!(-500)
    expect(seen.speed).toBe(FASTEST)
    for (let i = 0; i < 100; i++) gesture.wheel!(500)
    expect(seen.speed).toBe(SLOWEST)
    gesture.end(over(0, 0, 0))
    expect(view.velocity).toBeNull()
    expect(seen.readouts.at(-1)).toBeNull()
  })
})
