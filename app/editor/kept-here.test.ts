import { afterEach, describe, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { keepsNothing, useKeptHere } from './kept-here'

type Kept = { size: number }
const read = (kept: unknown): Kept => ({ size: Number((kept as Partial<Kept> | null)?.size ?? 1) })

describe('what is kept here', () => {
  afterEach(() => {
    vi.unstubAllGlobals()
    keepsNothing.value = false
  })

  it('is there again, and what makes no sense is as it is at first', async () => {
    const all = new Map<string, string>([['handy-grid.broken', '{"size":']])
    vi.stubGlobal('localStorage', {
      getItem: (key: string) => all.get(key) ?? null,
      setItem: (key: string, value: string) => all.set(key, value),
      removeItem: (key: string) => all.delete(key),
    })
    const kept = useKeptHere('some', read)
    kept.value.size = 7
    await nextTick()
    expect(useKeptHere('some', read).value).toEqual({ size: 7 })
    expect(useKeptHere('broken', read).value).toEqual({ size: 1 })
    expect(keepsNothing.value).toBe(false)
  })

  it('lasts as long as the page where storage is full, and that is known', async () => {
    const full = () => {
      throw new DOMException('full', 'QuotaExceededError')
    }
    vi.stubGlobal('localStorage', { getItem: () => null, setItem: full, removeItem: () => {} })
    const kept = useKeptHere('some', read)
    kept.value.size = 7
    await nextTick()
    expect([kept.value.size, keepsNothing.value]).toEqual([7, true])
  })

  it('works where the browser forbids to ask for its storage', async () => {
    vi.stubGlobal('localStorage', undefined)
    Object.defineProperty(globalThis, 'localStorage', {
      configurable: true,
      get: () => {
        throw new DOMException('forbidden', 'SecurityError')
      },
    })
    const kept = useKeptHere('some', read)
    kept.value.size = 3
    await nextTick()
    expect([kept.value.size, keepsNothing.value]).toEqual([3, true])
  })
})
