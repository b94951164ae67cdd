import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { FramePace, LONG_REST, REST } from './frame-pace'

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

/** A machine that takes so many milliseconds for each thousand triangles, and so many for all pixels of the stage. */
function machine(perThousand: number, forPixels: number) {
  let [done, redraws, time] = [Infinity, 0, 1000]
  const gl = {
    SYNC_GPU_COMMANDS_COMPLETE: 1,
    SYNC_STATUS: 2,
    SIGNALED: 3,
    fenceSync: () => ({}) as WebGLSync,
    flush: () => {},
    deleteSync: () => {},
    getSyncParameter: () => (time >= done ? 3 : 0),
  }
  const pass = (by: number) => {
    vi.advanceTimersByTime(by)
    time += by
  }
  const pace = new FramePace(
    gl,
    () => redraws++,
    () => time,
  )
  const draw = (all: number) => {
    const quality = pace.next(all)
    const drawn = Math.min(all, quality.triangles)
    pace.asked(quality, drawn, all, time)
    done = time + (drawn / 1000) * perThousand + forPixels * quality.ratio ** 2 * (quality.samples > 0 ? 1.4 : 1)
    const took = done - time
    expect(pace.isBusy).toBe(took > 0)
    pass(took)
    expect(pace.isBusy).toBe(false)
    return { quality, took }
  }
  /** Draws a whole picture by pieces. @returns the milliseconds of each */
  const pieces = (all: number, most: number) => {
    const times: number[] = []
    for (let left = all; left > 0 && times.length < most; ) {
      const drawn = Math.min(left, all <= pace.most ? all : pace.pieceSize)
      const took = (drawn / 1000) * perThousand + forPixels
      pace.took(took, { name: 'piece', ratio: 1, samples: 4, triangles: drawn }, drawn, all)
      left -= drawn
      times.push(took)
    }
    return times
  }
  const orbit = (frames: number, all: number) =>
    Array.from({ length: frames }, () => {
      pace.moved()
      return draw(all)
    })
  return { pace, draw, pieces, orbit, pass, redraws: () => redraws }
}

const DEMO = 140_000

describe('FramePace', () => {
  it('draws everything always where the machine is quick', () => {
    const { draw, orbit } = machine(0.02, 2)
    draw(DEMO)
    expect(orbit(50, DEMO).every(({ quality }) => quality.name === 'whole' && quality.ratio === 1)).toBe(true)
  })

  it('keeps to the time for a frame from the first move on where it is slow, and does not flicker', () => {
    const { draw, orbit } = machine(1.6, 250)
    draw(DEMO)
    const frames = orbit(60, DEMO)
    expect(frames[0]!.took).toBeLessThan(100)
    expect(Math.max(...frames.slice(3).map(({ took }) => took))).toBeLessThan(75)
    expect(new Set(frames.slice(20).map(({ quality }) => quality.triangles)).size).toBe(1)
  })

  it('gives more again where there is less to draw', () => {
    const { draw, orbit } = machine(1.6, 250)
    draw(DEMO)
    orbit(10, DEMO)
    const frames = orbit(30, 5000)
    expect(frames.at(-1)!.quality.triangles / 5000).toBeGreaterThan(frames[0]!.quality.triangles / 5000)
  })

  it('draws at the full resolution soon after the last move, and then everything', () => {
    const { draw, orbit, pass, redraws } = machine(1.6, 250)
    draw(DEMO)
    orbit(5, DEMO)
    pass(REST + 5)
    expect(redraws()).toBe(1)
    expect(draw(DEMO).quality).toMatchObject({ name: 'paused', ratio: 1 })
    pass(LONG_REST)
    expect(redraws()).toBe(2)
    expect(draw(DEMO).quality).toMatchObject({ name: 'whole', ratio: 1, samples: 4 })
    pass(5000)
    expect(redraws()).toBe(2)
  })

  it('counts frames as long as they take, also the slow ones', () => {
    const { pace, orbit } = machine(8, 0)
    orbit(1, DEMO)
    for (let i = 0; i < 10; i++)
      pace.took(1200, { name: 'whole', ratio: 1, samples: 4, triangles: Infinity }, DEMO, DEMO)
    expect(pace.framesPerSecond).toBe(1)
  })

  it('draws at rest by larger and larger pieces where the machine is quick, until all is one', () => {
    const { pace, pieces } = machine(0.001, 1)
    expect(pieces(12_000_000, 20).length).toBeLessThan(12)
    expect(pieces(12_000_000, 20)).toHaveLength(1)
    expect(pace.most).toBeGreaterThan(12_000_000)
  })

  it('draws at rest by pieces that take no longer than one may where it is slow, however much there is', () => {
    const { pieces } = machine(1.6, 30)
    const times = pieces(12_000_000, 1000)
    expect(Math.max(...times.slice(3))).toBeLessThan(130)
    expect(times.length).toBeLessThan(300)
  })

  it('of a large level draws while it moves what there is time for, from the second frame on', () => {
    const { draw, orbit } = machine(1.6, 250)
    draw(67_000_000)
    const frames = orbit(30, 67_000_000)
    expect(Math.max(...frames.slice(2).map(({ took }) => took))).toBeLessThan(75)
    expect(frames.at(-1)!.quality.triangles).toBeGreaterThan(5000)
  })

  it('keeps the full resolution where a level is large and the machine quick', () => {
    const { draw, pieces, orbit } = machine(0.02, 5)
    draw(67_000_000)
    pieces(67_000_000, 20)
    const { quality } = orbit(40, 67_000_000).at(-1)!
    expect([quality.ratio, quality.triangles > 1_000_000, quality.triangles < 4_000_000]).toEqual([1, true, true])
  })

  it('does not wait for ever for a frame whose context was lost', () => {
    const { pace, pass } = machine(1, 1)
    pace.asked(pace.next(10), 10, 10, 1000)
    pass(10)
    expect(pace.isBusy).toBe(true)
    pass(30_000)
    expect(pace.isBusy).toBe(false)
  })
})
