import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

export const alias = { '~~': fileURLToPath(new URL('.', import.meta.url)), '~': fileURLToPath(new URL('app', import.meta.url)) }

/** The tests that need neither a server nor a browser; `npm run mutants` runs these alone. */
export default defineConfig({
  resolve: { alias },
  test: { name: 'unit', setupFiles: ['tests/setup.ts'], include: ['core/**/*.test.ts', 'app/**/*.test.ts', 'demo/**/*.test.ts', 'server/**/*.test.ts', 'tests/reference/**/*.test.ts'], testTimeout: 60_000 },
})
