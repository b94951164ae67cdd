// Puts errors into core on purpose and counts those that no test sees; started by `npm run mutants`.

/** @type {import('@stryker-mutator/core').PartialStrykerOptions} */
export default {
  testRunner: 'vitest',
  plugins: ['@stryker-mutator/vitest-runner'],
  vitest: { configFile: 'vitest.unit.config.ts' },
  coverageAnalysis: 'perTest',
  // What is said to people is not computed.
  mutator: { excludedMutations: ['StringLiteral', 'Regex'] },
  reporters: ['progress-append-only', 'json'],
  jsonReporter: { fileName: 'node_modules/.cache/mutants.json' },
  tempDirName: 'node_modules/.cache/mutants',
  // The types of the tests are read from the folder that the build makes, which is left out otherwise.
  ignorePatterns: ['!.nuxt', '.output', '.data', 'docs', 'public', 'test-results'],
  concurrency: 2,
  timeoutMS: 20_000,
}
