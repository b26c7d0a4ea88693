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
          isolate: false,
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
          // What was imported for one file serves the next: nothing of ours is kept in a module.
          isolate: false,
          // One MariaDB for all, and a database of its own for each file.
          maxWorkers: 2,
          sequence: { groupOrder: 1 },
        },
      },
      {
        test: {
          name: 'processes',
          include: ['tests/processes/**/*.test.ts'],
          globalSetup: ['tests/processes/setup/build.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
          // Real processes that are killed and waited for, one file after the other; it is run beside other checks.
          maxWorkers: 1,
          env: { TEST_PORTS: '10000' },
          sequence: { groupOrder: 2 },
        },
      },
      ...chaos,
    ],
  },
});
