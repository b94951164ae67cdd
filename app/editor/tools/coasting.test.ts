import fc from 'fast-check'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { coastedBetween, Coasting, Pace } from './coasting'

describe('a view that goes on after the hand has let go', () => {
  it('goes as far in many small steps as in one, and less in each', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 50 }), fc.double({ min: 0.1, max: 3, noNaN: true }), (steps, lasts) => {
        const pace = { x: 300, y: -90 }
        const each = Array.from({ length: steps }, (_, i) =>
          coastedBetween(pace, lasts, (i / steps) * lasts, ((i + 1) / steps) * lasts),
        )
        const whole = coastedBetween(pace, lasts, 0, lasts)
        expect(each.reduce((sum, { x }) => sum + x, 0)).toBeCloseTo(whole.x, 6)
        expect(each.reduce((sum, { y }) => sum + y, 0)).toBeCloseTo(whole.y, 6)
        expect(each.every(({ x }, i) => i === 0 || x < each[i - 1]!.x)).toBe(true)
        // No farther than it would have gone in that time, and hardly anything is left of it then.
        expect(whole.x).toBeLessThan(pace.x * lasts)
        expect(coastedBetween(pace, lasts, lasts, 100 * lasts).x / whole.x).toBeLessThan(0.06)
      }),
    )
  })

  it('has the pace of the last of the way, and none after a rest', () => {
    const pace = new Pace()
    for (let at = 0; at <= 300; at += 10) pace.add(at < 130 ? 50 : 2, 1, at)
    const { x, y } = pace.now(305)
    expect(x).toBeCloseTo(200, 6)
    expect(y).toBeCloseTo(100, 6)
    expect(pace.now(420)).toEqual({ x: 0, y: 0 })
    expect(new Pace().now(0)).toEqual({ x: 0, y: 0 })
  })

  describe('by frames', () => {
    beforeEach(() => {
      vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout', 'performance'] })
      vi.stubGlobal('requestAnimationFrame', (frame: () => void) => Number(setTimeout(frame, 16)))
      vi.stubGlobal('cancelAnimationFrame', (id: number) => clearTimeout(id))
    })
    afterEach(() => {
      vi.useRealTimers()
      vi.unstubAllGlobals()
    })

    it('comes to rest by itself, ends at once where something else is done, and does nothing where it is off', () => {
      const coasting = new Coasting()
      const turns: number[] = []
      coasting.begin({ x: 400, y: 0 }, 0.5, dx => turns.push(dx))
      vi.advanceTimersByTime(4000)
      const all = turns.length
      // All of its way but for what it would creep at the end.
      const way = turns.reduce((sum, dx) => sum + dx, 0)
      expect([way < 400 / 6, way > 400 / 6 - 2]).toEqual([true, true])
      vi.advanceTimersByTime(1000)
      expect(turns).toHaveLength(all)
      coasting.begin({ x: 400, y: 0 }, 0.5, dx => turns.push(dx))
      vi.advanceTimersByTime(50)
      const some = turns.length
      coasting.end()
      vi.advanceTimersByTime(1000)
      expect([some > all, turns.length]).toEqual([true, some])
      coasting.begin({ x: 400, y: 0 }, 0, dx => turns.push(dx))
      coasting.begin({ x: 3, y: 0 }, 0.5, dx => turns.push(dx))
      vi.advanceTimersByTime(1000)
      expect(turns).toHaveLength(some)
    })
  })
})
