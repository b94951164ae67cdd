import { defineConfig } from 'vitest/config'
import { alias } from './vitest.unit.config'

export default defineConfig({
  test: {
    projects: [
      './vitest.unit.config.ts',
      // Each file has a database and a server of its own. The limits are for what hangs, not for what is slow: a busy
      // machine takes four times as long.
      {
        resolve: { alias },
        test: {
          name: 'api',
          setupFiles: ['tests/setup.ts'],
          include: ['tests/api/**/*.test.ts', 'tests/trial/**/*.test.ts'],
          testTimeout: 400_000,
          hookTimeout: 400_000,
          maxWorkers: 2,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'bench',
          testTimeout: 900_000,
          hookTimeout: 120_000,
          include: ['bench/**/*.bench.ts'],
          fileParallelism: false,
        },
      },
    ],
  },
})
