import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const alias = { '~~': fileURLToPath(new URL('.', import.meta.url)), '~': fileURLToPath(new URL('app', import.meta.url)) }

export default defineConfig({
  test: {
    projects: [
      { resolve: { alias }, test: { name: 'unit', setupFiles: ['tests/setup.ts'], include: ['core/**/*.test.ts', 'app/**/*.test.ts', 'demo/**/*.test.ts', 'tests/reference/**/*.test.ts'], testTimeout: 60_000 } },
      // Each file has a database and a server of its own; a server is slow to start on a small machine.
      { resolve: { alias }, test: { name: 'api', setupFiles: ['tests/setup.ts'], include: ['tests/api/**/*.test.ts', 'tests/trial/**/*.test.ts'], testTimeout: 60_000, hookTimeout: 120_000, fileParallelism: false } },
      { resolve: { alias }, test: { name: 'bench', hookTimeout: 120_000, include: ['bench/**/*.bench.ts'], fileParallelism: false } },
    ],
  },
})
