import parse from 'parse-prometheus-text-format';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { figures, mayReadFigures } from '../../src/server/metrics';
import { openWorld, provisionFor, type World } from './setup/world';

interface Family {
  readonly name: string;
  readonly type: string;
  readonly help: string;
  readonly metrics: readonly { readonly value: string; readonly labels?: Readonly<Record<string, string>> }[];
}

describe('figures for the MSP’s own watch', { timeout: 120_000 }, () => {
  let world: World;
  let text = '';
  let type = '';
  beforeAll(async () => {
    world = await openWorld('figures');
    await provisionFor(world, 'MHP', 'office', 12, 'KQ');
    await world.living.moveTo(Date.UTC(2026, 10, 19, 10, 0));
    for (const job of ['sessions', 'signs', 'summary']) await world.living.job(job);
    ({ text, type } = await figures(world.app));
  });
  afterAll(() => world.close());

  const families = (): readonly Family[] => parse(text) as unknown as readonly Family[];
  const family = (name: string): Family => {
    const found = families().find((one) => one.name === name);
    if (!found) throw new Error(`${name} is not told`);
    return found;
  };

  it('are OpenMetrics 1.0: its type, its end, each family once, before its samples', () => {
    expect(type).toBe('application/openmetrics-text; version=1.0.0; charset=utf-8');
    expect(text.endsWith('# EOF\n')).toBe(true);
    const lines = text.trimEnd().split('\n');
    expect(lines.filter((line) => line === '# EOF')).toHaveLength(1);
    const types = lines.flatMap((line) => /^# TYPE (\S+) gauge$/.exec(line)?.[1] ?? []);
    expect(new Set(types).size).toBe(types.length);
    for (const line of lines.filter((one) => !one.startsWith('#'))) {
      const [, name = ''] =
        /^([a-z_]+)(?:\{(?:[a-z_]+="(?:[^"\\\n]|\\["\\n])*",?)+\})? -?\d+(?:\.\d+)?$/.exec(line) ?? [];
      expect([line, types.includes(name)]).toEqual([line, true]);
    }
  });

  it('tell what is there: hosts, people, jobs, nodes', async () => {
    const hosts = family('laager_hosts').metrics.filter((one) => one.labels?.customer === 'MHP');
    expect(hosts.every((one) => one.labels?.status === 'serving')).toBe(true);
    const { body } = await world.call('ida', 'GET', '/customers/MHP/summary');
    expect(hosts.reduce((sum, one) => sum + Number(one.value), 0)).toBe(body.hosts);
    const inside = family('laager_people_in').metrics.find((one) => one.labels?.customer === 'MHP');
    expect(Number(inside?.value)).toBe(body.peopleIn);
    expect(family('laager_node_up').metrics.every((one) => one.value === '1')).toBe(true);
    expect(family('laager_job_age_seconds').metrics.length).toBeGreaterThan(0);
  });

  it('are told to nobody without the token, and nobody where there is none', () => {
    const asking = (authorization?: string): Request =>
      new Request(
        'http://laager.test/metrics',
        authorization === undefined ? {} : { headers: { authorization } },
      );
    const metricsToken = 'a token of sixteen or more';
    expect(mayReadFigures({ metricsToken }, asking(`Bearer ${metricsToken}`))).toBe(true);
    expect(mayReadFigures({ metricsToken }, asking('Bearer another token, as long'))).toBe(false);
    expect(mayReadFigures({ metricsToken }, asking(metricsToken))).toBe(false);
    expect(mayReadFigures({ metricsToken }, asking())).toBe(false);
    expect(mayReadFigures({ metricsToken: undefined }, asking('Bearer '))).toBe(false);
    expect(mayReadFigures({ metricsToken: undefined }, asking('Bearer undefined'))).toBe(false);
  });
});
