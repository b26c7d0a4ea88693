import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import type { TestProject } from 'vitest/node';
import { freePort, needBuild, Processes, startMariaDb } from '../../../scripts/lib.mjs';

declare module 'vitest' {
  export interface ProvidedContext {
    databasePort: number;
  }
}

/** A MariaDB of the tests' own, on loopback, in a folder that goes with them. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  // Tests that start the built programs never run older ones.
  needBuild();
  const processes = new Processes();
  const folder = mkdtempSync(join(tmpdir(), 'laager-test-'));
  const port = await freePort(4830);
  await startMariaDb(processes, relative(process.cwd(), join(folder, 'data')), port);
  project.provide('databasePort', port);
  return async () => {
    await processes.stopAll();
    rmSync(folder, { recursive: true, force: true });
  };
}
