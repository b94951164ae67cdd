import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { FrameBudget } from './frame-budget'

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

function start() {
  const ratios: number[] = []
  const budget = new FrameBudget(2, ratio => ratios.push(ratio))
  let time = 1000
  const frames = (count: number, gap: number) => Array.from({ length: count }, () => budget.count(time += gap)).at(-1)!
  return { budget, ratios, frames }
}

describe('FrameBudget', () => {
  it('leaves the resolution alone while frames come in time', () => {
    const { ratios, frames } = start()
    expect(frames(100, 16)).toBeGreaterThan(55)
    expect(ratios).toEqual([2])
  })

  it('lowers it step by step while they do not, but not without end, and restores it at rest', () => {
    const { budget, ratios, frames } = start()
    frames(200, 60)
    expect(ratios.length).toBeGreaterThan(3)
    expect(ratios.at(-1)).toBe(0.5)
    const redraw = vi.fn()
    budget.rest(redraw)
    vi.advanceTimersByTime(1000)
    expect(ratios.at(-1)).toBe(2)
    expect(redraw).toHaveBeenCalledOnce()
  })

  it('does not take a rest for a slow frame', () => {
    const { ratios, frames } = start()
    frames(20, 2000)
    expect(ratios).toEqual([2])
  })

  it('does not come back while the view moves on', () => {
    const { budget, ratios, frames } = start()
    frames(50, 60)
    budget.rest(() => {})
    frames(1, 60)
    vi.advanceTimersByTime(1000)
    expect(ratios.at(-1)).toBeLessThan(2)
  })
})
