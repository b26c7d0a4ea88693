import { defineConfig } from 'vitest/config';

/** The tests that deliberate errors in the core are held against. */
export default defineConfig({
  test: {
    include: ['tests/core/**/*.test.ts', 'tests/reference/**/*.test.ts'],
    testTimeout: 120_000,
    env: { LAAGER_MUTANTS: '1' },
  },
});
