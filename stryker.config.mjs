/* Deliberate errors in the core, one after the other: which of them does no test see? `./laager mutants`. */
export default {
  mutate: ['src/core/**/*.ts'],
  testRunner: 'vitest',
  vitest: { configFile: 'vitest.mutants.config.ts' },
  plugins: ['@stryker-mutator/vitest-runner'],
  coverageAnalysis: 'perTest',
  // What is evaluated once, when a file is read, would need a run of its own for each: words, lists, schemas.
  ignoreStatic: true,
  concurrency: 2,
  timeoutMS: 8_000,
  reporters: ['clear-text', 'json'],
  clearTextReporter: { logTests: false, reportTests: false, allowColor: false },
  jsonReporter: { fileName: '.laager/mutants/mutants.json' },
  incremental: true,
  incrementalFile: '.laager/mutants/known.json',
  tempDirName: '.laager/mutants/sandbox',
  ignorePatterns: ['/.laager', '/dist', '/docs', '/test-results', '/bench'],
  allowConsoleColors: false,
  cleanTempDir: 'always',
  thresholds: { high: 95, low: 92, break: 92 },
};
