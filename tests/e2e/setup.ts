import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { freePort, HOME, needBuild, Processes, startMariaDb } from '../../scripts/lib.mjs';
import { startParts, type Parts } from '../../scripts/parts.mjs';

/** The demo, loaded once for a build and kept: each worker of Playwright has a copy of its own, as `./laager demo` runs it. */

/** As many as Playwright's workers. */
export const STACKS = 2;

/** What the tests are told: where each worker's demo is, and ida's token, the same in every copy. */
export interface Stacks {
  readonly addresses: readonly string[];
  /** The folders of what its parts log. */
  readonly logs: readonly string[];
  readonly token: string;
  /** Where each worker's simulated provider of the coast is, and the secret that lets one in. */
  readonly providers: readonly string[];
  readonly secret: string;
  /** Where each worker's simulated mail and directory are. */
  readonly mails: readonly string[];
  readonly directories: readonly string[];
}

export default async function setup(): Promise<() => Promise<void>> {
  needBuild();
  const processes = new Processes();
  const folder = mkdtempSync(join(tmpdir(), 'laager-e2e-'));
  const end = async (): Promise<void> => {
    await processes.stopAll();
    rmSync(folder, { recursive: true, force: true });
  };
  try {
    const loaded = await loadedDemo();
    const stacks = await Promise.all(
      Array.from({ length: STACKS }, async (_, n) => {
        const own = join(folder, String(n));
        cpSync(join(loaded.folder, 'data'), join(own, 'data'), { recursive: true });
        const { address, env } = await startStack(processes, own, 5400 + n * 1_300);
        const [provider = ''] = (env.LAAGER_SIMULATION_URLS ?? '').split(',');
        return { address, logs: join(own, 'logs'), provider, env };
      }),
    );
    const told: Stacks = {
      addresses: stacks.map(({ address }) => address),
      logs: stacks.map(({ logs }) => logs),
      token: loaded.token,
      providers: stacks.map(({ provider }) => provider),
      secret: stacks[0]?.env.PROVIDER_SECRET ?? '',
      mails: stacks.map(({ env }) => env.LAAGER_MAIL_URL ?? ''),
      directories: stacks.map(({ env }) => env.LAAGER_DIRECTORY_URL ?? ''),
    };
    process.env.LAAGER_E2E = JSON.stringify(told);
    return end;
  } catch (error) {
    await end();
    throw error;
  }
}

/** The demo's data as it was loaded by this very build; it is loaded when there is none. */
async function loadedDemo(): Promise<{ folder: string; token: string }> {
  const folder = join(HOME, 'tests', 'demo');
  const build = readFileSync('dist/.sources', 'utf8');
  const mark = join(folder, 'loaded.json');
  const known: { build?: string; token?: string } = existsSync(mark)
    ? JSON.parse(readFileSync(mark, 'utf8'))
    : {};
  if (known.build === build && known.token !== undefined) return { folder, token: known.token };
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const processes = new Processes();
  try {
    const { loaded } = await startStack(processes, folder, 5400);
    const token = loaded.token ?? '';
    await processes.stopAll();
    writeFileSync(mark, JSON.stringify({ build, token }), { mode: 0o600 });
    return { folder, token };
  } finally {
    await processes.stopAll();
  }
}

/** Everything that a demo runs, with a folder of its own. */
export async function startStack(
  processes: Processes,
  folder: string,
  port: number,
  scenario: 'eight' | 'empty' = 'eight',
): Promise<Parts> {
  const databasePort = await freePort(port);
  await startMariaDb(processes, relative(process.cwd(), join(folder, 'data')), databasePort);
  return startParts(processes, {
    databasePort,
    prefix: 'laager',
    webPort: port + 20,
    scenario,
    logs: join(folder, 'logs'),
  });
}
