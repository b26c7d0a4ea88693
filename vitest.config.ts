import { defineConfig } from 'vitest/config';

/** Only where it is asked for: it takes twenty minutes. */
const chaos =
  process.env.LAAGER_CHAOS_MINUTES === undefined
    ? []
    : [{ test: { name: 'chaos', include: ['tests/chaos/**/*.chaos.ts'], globals: false } }];

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'core',
          include: ['tests/core/**/*.test.ts', 'tests/reference/**/*.test.ts', 'tests/client/**/*.test.ts'],
          testTimeout: 30_000,
        },
      },
      {
        test: {
          name: 'server',
          include: ['tests/server/**/*.test.ts', 'tests/standins/**/*.test.ts'],
          globalSetup: ['tests/server/setup/database.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
          // One MariaDB for all, and a database of its own for each file.
          maxWorkers: 2,
          sequence: { groupOrder: 1 },
        },
      },
      ...chaos,
    ],
  },
});
