import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { closeApp, type App } from '../../src/server/app';
import { changeHosts, retire } from '../../src/server/environments';
import { Cluster } from './setup/cluster';
import { Engine } from './setup/engine';

/**
 * On a replicated cluster of three MariaDB servers, with web processes and workers on different ones. Row locks are each
 * server's own there: what must not happen twice is kept from it by refused commits.
 */
describe('a replicated cluster', { timeout: 240_000 }, () => {
  const engine = new Engine();
  const cluster = new Cluster(engine.household, engine.folder);
  let webs: App[] = [];

  beforeAll(async () => {
    await cluster.start(5600);
    await engine.openOn(cluster.sqlPort(0));
    webs = [engine.app, await engine.another(cluster.sqlPort(1)), await engine.another(cluster.sqlPort(2))];
  }, 240_000);
  afterEach(() => engine.calm());
  afterAll(async () => {
    for (const web of webs.slice(1)) await closeApp(web);
    await engine.close();
  });

  const web = (n: number): App => webs[n] ?? engine.app;
  /** What became of several tries at once: the good ones' values, the others' problem codes. */
  const together = async <Value>(
    tries: readonly (() => Promise<Value>)[],
  ): Promise<{ good: Value[]; refused: string[] }> => {
    const ended = await Promise.allSettled(tries.map((one) => one()));
    return {
      good: ended.flatMap((one) => (one.status === 'fulfilled' ? [one.value] : [])),
      refused: ended.flatMap((one) =>
        one.status === 'rejected' ? [String((one.reason as { code?: unknown }).code ?? one.reason)] : [],
      ),
    };
  };

  it('has three members', async () => {
    for (const node of [0, 1, 2]) expect(await cluster.status(node, 'wsrep_cluster_size')).toBe('3');
  });

  it('builds a proposal once, though it is confirmed through three servers at once', async () => {
    const { confirm } = await engine.proposed(web(0), 'SVG', 'thrice', 8);
    const { good, refused } = await together(webs.map((through) => () => confirm(through)));
    expect(good).toHaveLength(1);
    expect(refused).toHaveLength(2);
    for (const code of refused) expect(['changed', 'preflight']).toContain(code);
    const named = await web(2).db.rows("SELECT id FROM environment WHERE name = 'thrice'");
    expect(named).toHaveLength(1);
  });

  it('gives no address and no name twice, and overfills no node, when customers build at the same moment', async () => {
    const proposals = [
      await engine.proposed(web(0), 'MHP', 'bridge', 10),
      await engine.proposed(web(1), 'FPS', 'bridge', 10),
      await engine.proposed(web(2), 'SVG', 'bridge', 10),
    ];
    // Whoever is refused because the ground has changed meanwhile looks again and confirms, as a person would.
    const codes = ['MHP', 'FPS', 'SVG'];
    const { good, refused } = await together(
      proposals.map(({ confirm }, n) => async () => {
        try {
          return await confirm(web(n));
        } catch {
          return (await engine.proposed(web(n), codes[n] ?? '', 'bridge', 10)).confirm();
        }
      }),
    );
    expect(refused.filter((code) => code !== 'changed')).toEqual([]);
    expect(good.length).toBeGreaterThan(0);
    const blocks = await web(1).db.rows<{ cidr: string }>('SELECT cidr FROM address_block');
    expect(new Set(blocks.map((one) => one.cidr)).size).toBe(blocks.length);
    const subnets = await web(1).db.rows<{ subnet_cidr: string }>('SELECT subnet_cidr FROM pool');
    expect(new Set(subnets.map((one) => one.subnet_cidr)).size).toBe(subnets.length);
    const addresses = await web(1).db.rows<{ address: string }>('SELECT address FROM host');
    expect(new Set(addresses.map((one) => one.address)).size).toBe(addresses.length);
  });

  it('runs with workers on different servers: nothing is built twice, nothing forgotten', async () => {
    const workers = [engine.startWorker(cluster.sqlPort(1)), engine.startWorker(cluster.sqlPort(2))];
    const runs = await web(0).db.rows<{ id: string; environment_id: string; code: string }>(
      'SELECT r.id, r.environment_id, c.code FROM run r JOIN customer c ON c.id = r.customer_id',
    );
    for (const run of runs) await engine.untilRun(run.id, 'done', 90_000);
    for (const run of runs) await engine.expectExactlyWanted(run.environment_id, run.code);
    expect(workers.filter((worker) => worker.gone)).toEqual([]);
    const doubled = await web(0).db.rows(
      'SELECT wanted_id FROM link GROUP BY customer_id, kind, wanted_id HAVING COUNT(*) > 1',
    );
    expect(doubled).toEqual([]);
  });

  it('never both retires an environment and switches its hosts, though asked through two servers at once', async () => {
    const scope = await engine.inside('SVG');
    for (const name of ['thrice', 'bridge']) {
      const row = await web(0).db.row<{ id: string; host: string }>(
        `SELECT e.id, h.id AS host FROM environment e JOIN pool p ON p.environment_id = e.id JOIN host h ON h.pool_id = p.id
         WHERE e.customer_id = ? AND e.name = ? LIMIT 1`,
        [scope.customer.id, name],
      );
      if (!row) continue;
      const { good, refused } = await together([
        () => retire(web(1), scope, row.id, { code: 'SVG', reason: 'a test' }),
        () =>
          changeHosts(web(2), scope, {
            environment: row.id,
            hosts: [{ id: row.host }],
            change: 'power-off',
            reason: 'a test',
          }),
      ]);
      expect(good).toHaveLength(1);
      expect(['retired', 'busy']).toContain(refused[0]);
    }
  });

  it('goes on when one server dies with a worker on it, and leaves nothing behind', async () => {
    const survivor = engine.startWorker(cluster.sqlPort(0));
    engine.startWorker(cluster.sqlPort(2));
    const { run, environment } = await engine.provision('last', 8);
    await engine.untilWorking(run, 'host');
    await engine.kill(cluster.member(2));
    await engine.untilRun(run, 'done', 90_000);
    await engine.expectExactlyWanted(environment);
    expect(survivor.gone).toBeFalsy();
    await expect.poll(() => cluster.status(0, 'wsrep_cluster_size'), { timeout: 30_000 }).toBe('2');
  });
});
