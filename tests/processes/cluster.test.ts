import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { NO_LIMITS } from '../../src/core/plans';
import { SYSTEM } from '../../src/server/access';
import { closeApp, type App } from '../../src/server/app';
import { keepPlan, moveToPlan } from '../../src/server/plans';
import { Cluster } from './setup/cluster';
import { Engine } from './setup/engine';
import { own } from '../server/setup/ports';

/**
 * On a replicated cluster of three MariaDB servers, with web processes and workers on different ones. Row locks are each
 * server's own there: what must not happen twice is kept from it by refused commits.
 */
describe('a replicated cluster', { timeout: 240_000 }, () => {
  const engine = new Engine();
  const cluster = new Cluster(engine.processes, engine.folder);
  let webs: App[] = [];

  beforeAll(async () => {
    await cluster.start(own(5600));
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
    for (const [kind, attribute] of [
      ['subnet', 'cidr'],
      ['host', 'address'],
    ]) {
      const given = await web(1).db.rows<{ value: string }>(
        `SELECT JSON_VALUE(attributes, '$.${attribute}') AS value FROM resource WHERE kind = '${kind}'`,
      );
      expect(given.length).toBeGreaterThan(0);
      expect(new Set(given.map((one) => one.value)).size).toBe(given.length);
    }
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
      `SELECT resource_id FROM present_resource WHERE present_condition <> 'gone'
       GROUP BY customer_id, resource_id HAVING COUNT(*) > 1`,
    );
    expect(doubled).toEqual([]);
  });

  it('gives the last host that a plan allows to one of three who ask for it through three servers at once', async () => {
    const row = await web(0).db.row<{ id: string; hosts: number }>(
      `SELECT e.id, (SELECT COUNT(*) FROM resource r JOIN environment x ON (x.customer_id, x.id) = (r.customer_id, r.environment_id)
         WHERE r.customer_id = e.customer_id AND r.kind = 'host' AND r.wanted AND x.wanted = 'serving') AS hosts
       FROM environment e JOIN customer c ON c.id = e.customer_id WHERE c.code = 'SVG' AND e.name = 'thrice'`,
    );
    const hosts = row?.hosts ?? 0;
    const terms = {
      sizes: [],
      sites: [],
      fees: [],
      retentionDays: 30,
      localAdministrator: false,
      included: [],
      readyHosts: 0,
    };
    await keepPlan(web(1), SYSTEM, 'exact', {
      ...terms,
      name: 'Exact',
      most: { ...NO_LIMITS, hosts: hosts + 1 },
      from: null,
      note: '',
    });
    await moveToPlan(web(2), await engine.inside('SVG'), {
      plan: 'exact',
      version: null,
      from: null,
      allowUntil: null,
      reason: '',
    });
    const { good, refused } = await together(
      webs.map(
        (app) => () => engine.change('add-hosts', { pool: 'desks', hosts: 1 }, row?.id ?? '', { app }),
      ),
    );
    expect(good).toHaveLength(1);
    // One who saw the other's by then is told of the limit; one who did not, that things have changed.
    for (const code of refused) expect(['preflight', 'changed']).toContain(code);
    expect(refused).toContain('preflight');
    const wanted = await engine.hosts(row?.id ?? '');
    expect(wanted.length).toBeLessThanOrEqual(hosts + 1);
    engine.startWorker(cluster.sqlPort(1));
    await engine.untilRun(good[0]?.run ?? '', 'done', 90_000);
  });

  it('retires an environment once, though its hosts are switched through another server at once', async () => {
    const row = await web(0).db.row<{ id: string; host: string }>(
      `SELECT e.id, r.id AS host FROM environment e JOIN customer c ON c.id = e.customer_id
         JOIN resource r ON (r.customer_id, r.environment_id) = (e.customer_id, e.id) AND r.kind = 'host'
       WHERE c.code = 'SVG' AND e.name = 'thrice' LIMIT 1`,
    );
    const { good, refused } = await together([
      () => engine.change('retire', {}, row?.id ?? '', { app: web(1) }),
      () => engine.change('power-off', { hosts: [row?.host] }, row?.id ?? '', { app: web(2) }),
    ]);
    // Either order is right; whoever saw something else by then is told so, twice over at worst.
    for (const code of refused) expect(['retired', 'changed']).toContain(code);
    for (const one of good) expect(one.environment).toBe(row?.id);
    const wanted = await web(0).db.row<{ wanted: string }>('SELECT wanted FROM environment WHERE id = ?', [
      row?.id ?? '',
    ]);
    if (wanted?.wanted !== 'retired') await engine.change('retire', {}, row?.id ?? '');
    const runs = await web(0).db.rows<{ id: string }>(
      "SELECT id FROM run WHERE environment_id = ? AND kind = 'retire'",
      [row?.id ?? ''],
    );
    expect(runs).toHaveLength(1);
    engine.startWorker(cluster.sqlPort(1));
    await engine.untilRun(runs[0]?.id ?? '', 'done', 90_000);
  });

  it('goes on when one server dies with a worker on it, and leaves nothing behind', async () => {
    const survivor = engine.startWorker(cluster.sqlPort(0));
    engine.startWorker(cluster.sqlPort(2));
    const { run, environment } = await engine.provision('last', 8);
    await engine.untilWorking(run, 'host make');
    await engine.kill(cluster.member(2));
    await engine.untilRun(run, 'done', 90_000);
    await engine.expectExactlyWanted(environment);
    expect(survivor.gone).toBeFalsy();
    await expect.poll(() => cluster.status(0, 'wsrep_cluster_size'), { timeout: 30_000 }).toBe('2');
  });
});
