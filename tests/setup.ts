import fc from 'fast-check'
import { afterAll, vi } from 'vitest'

// The same made-up cases on every machine, so that a failure can be seen again; SEED=… tries others.
fc.configureGlobal({ seed: Number(process.env.SEED ?? 20261124) })

// Files share one world, so none leaves anything behind in it, whatever failed.
afterAll(() => {
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
  vi.useRealTimers()
})
