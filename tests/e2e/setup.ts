import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { freePort, needBuild, Processes, startMariaDb } from '../../scripts/lib.mjs';
import { startParts } from '../../scripts/parts.mjs';

/** The demo, on data of its own, as `./laager demo` runs it. */
export default async function setup(): Promise<() => Promise<void>> {
  needBuild();
  const processes = new Processes();
  const folder = mkdtempSync(join(tmpdir(), 'laager-e2e-'));
  const end = async (): Promise<void> => {
    await processes.stopAll();
    rmSync(folder, { recursive: true, force: true });
  };
  try {
    const databasePort = await freePort(5400);
    await startMariaDb(processes, relative(process.cwd(), join(folder, 'data')), databasePort);
    const parts = await startParts(processes, {
      databasePort,
      prefix: 'laager',
      webPort: 5420,
      logs: join(folder, 'logs'),
    });
    process.env.LAAGER_E2E_ADDRESS = parts.address;
    process.env.LAAGER_E2E_TOKEN = parts.loaded.token ?? '';
    return end;
  } catch (error) {
    await end();
    throw error;
  }
}
