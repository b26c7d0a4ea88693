import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { systemScope, type CustomerScope } from '../../src/server/access';
import { beginChange, proposeChange, type Begun } from '../../src/server/changes';
import { wholeEnvironment } from '../../src/server/environments';
import { spied } from './setup/spied';
import { openWorld, provisionFor, type World } from './setup/world';

const MINUTE = 60_000;
/** As many statements as the page of an environment may take. */
const MOST_STATEMENTS = 20;
const SITE_LOCK = /UPDATE site SET lock_no/;

describe('a change that is begun after it was proposed', { timeout: 120_000 }, () => {
  let world: World;
  let scope: CustomerScope;
  let environment = '';
  beforeAll(async () => {
    world = await openWorld('begin-again');
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 12, 'KQ'));
    scope = systemScope((await world.inside('SVG')).customer);
    await settle();
  }, 120_000);
  afterAll(() => world.close());

  const settle = async (): Promise<void> => {
    await world.living.untilQuiet();
    for (const job of ['feed', 'sessions'] as const) await world.living.job(job);
  };
  const changeOf = (kind: string) => {
    const found = world.app.catalogue.changes.find((one) => one.kind === kind);
    if (!found) throw new Error(`${kind} is no change`);
    return found;
  };
  const proposed = async (kind: string, input: object): Promise<(app?: World['app']) => Promise<Begun>> => {
    const asked = { input, environment };
    const { fingerprint, proposal } = await proposeChange(world.app, scope, changeOf(kind), asked);
    expect(proposal.refused).toBeNull();
    return (app = world.app) =>
      beginChange(app, scope, changeOf(kind), { ...asked, fingerprint, reason: 'again' });
  };

  it('asks nothing outside that its proposal asked moments before, and asks it again after a while', async () => {
    const soon = await spied(world, await proposed('add-hosts', { pool: 'desks', hosts: 1 }));
    expect(soon.outside).toBe(0);
    await settle();
    const late = await proposed('add-hosts', { pool: 'desks', hosts: 1 });
    world.clock.at += 2 * MINUTE;
    expect((await spied(world, () => late())).outside).toBeGreaterThan(0);
    await settle();
  });

  it('is told what does not work now, though it did not work moments before either', async () => {
    const { directory } = world.app;
    const broken: World['app'] = {
      ...world.app,
      directory: { ...directory, check: () => Promise.resolve({ worked: false, says: 'is closed' }) },
    };
    const asked = { input: { pool: 'desks', hosts: 1 }, environment };
    const addHosts = changeOf('add-hosts');
    world.clock.at += 2 * MINUTE;
    const { fingerprint } = await proposeChange(broken, scope, addHosts, asked);
    const again = { ...asked, fingerprint, reason: 'again' };
    await expect(beginChange(broken, scope, addHosts, again)).rejects.toThrow('is closed');
    // It was mended in between: what did not work was not remembered.
    await expect(beginChange(world.app, scope, addHosts, again)).resolves.toHaveProperty('run');
    await settle();
  });

  it('locks its site where it takes something there, and nowhere else', async () => {
    const adding = await spied(world, await proposed('add-hosts', { pool: 'desks', hosts: 1 }));
    expect(adding.said.some((one) => SITE_LOCK.test(one))).toBe(true);
    await settle();
    const taking = await spied(world, await proposed('take-hosts', { pool: 'desks', hosts: 1 }));
    expect(taking.said.some((one) => SITE_LOCK.test(one))).toBe(false);
    await settle();
  });

  it('locks its site also where nobody remembers what was proposed', async () => {
    const begin = await proposed('add-hosts', { pool: 'desks', hosts: 1 });
    // As another process, which has not proposed it.
    const elsewhere = { ...world.app, db: { ...world.app.db } };
    const { said } = await spied(world, () => begin(elsewhere));
    expect(said.some((one) => SITE_LOCK.test(one))).toBe(true);
    await settle();
  });
});

describe('the page of an environment', { timeout: 120_000 }, () => {
  let world: World;
  let scope: CustomerScope;
  let environment = '';
  beforeAll(async () => {
    world = await openWorld('environment-page');
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 12, 'KQ'));
    scope = systemScope((await world.inside('SVG')).customer);
  }, 120_000);
  afterAll(() => world.close());

  it('reads each thing once, and asks nothing outside', async () => {
    const { made, said, outside } = await spied(world, () => wholeEnvironment(world.app, scope, environment));
    expect(outside).toBe(0);
    expect(new Set(said).size, said.join('\n')).toBe(said.length);
    expect(said.length, said.join('\n')).toBeLessThanOrEqual(MOST_STATEMENTS);
    expect(made.environment.name).toBe('clinic');
  });

  it('tells the same as what is told of each by itself', async () => {
    const at = (part: string) => `/customers/SVG/environments/${environment}${part}`;
    const read = async (part: string) => (await world.call('ida', 'GET', at(part))).body;
    expect(await read('/whole')).toEqual({
      environment: await read(''),
      hosts: (await read('/hosts')).entries,
      differences: (await read('/differences')).differences,
      origin: await read('/template'),
    });
  });
});
