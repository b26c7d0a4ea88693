import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import type { TestProject } from 'vitest/node';
import { freePort, Household, startMariaDb } from '../../../scripts/lib.mjs';

declare module 'vitest' {
  export interface ProvidedContext {
    databasePort: number;
  }
}

/** A MariaDB of the tests' own, on loopback, in a folder that goes with them. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const household = new Household();
  const folder = mkdtempSync(join(tmpdir(), 'laager-test-'));
  const port = await freePort(4830);
  await startMariaDb(household, relative(process.cwd(), join(folder, 'data')), port);
  project.provide('databasePort', port);
  return async () => {
    await household.stopAll();
    rmSync(folder, { recursive: true, force: true });
  };
}
