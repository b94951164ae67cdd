import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

export const alias = {
  '~~': fileURLToPath(new URL('.', import.meta.url)),
  '~': fileURLToPath(new URL('app', import.meta.url)),
}

/** Unit tests draw no components: who imports one is given an empty one. */
const withoutComponents = {
  name: 'without-components',
  enforce: 'pre' as const,
  load: (id: string) => (id.endsWith('.vue') ? 'export default {}' : null),
}

/** The tests that need neither a server nor a browser; `npm run mutants` runs these alone. */
export default defineConfig({
  plugins: [withoutComponents],
  resolve: { alias },
  test: {
    name: 'unit',
    setupFiles: ['tests/setup.ts'],
    include: [
      'core/**/*.test.ts',
      'app/**/*.test.ts',
      'demo/**/*.test.ts',
      'server/**/*.test.ts',
      'tests/reference/**/*.test.ts',
    ],
    testTimeout: 120_000,
    // Files share what they read: reading three and the core anew for each of a hundred files took two fifths of the
    // time. None leaves anything behind.
    isolate: false,
    maxWorkers: '100%',
  },
})
