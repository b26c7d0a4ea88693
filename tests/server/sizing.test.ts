import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MeasuredPool, Sizing } from '../../src/contract';
import { openWorld, provisionFor, type Called, type Made, type World } from './setup/world';

const HOUR = 3_600_000;

/** What sizing goes by: what was measured, and what work takes at a customer. */
describe('sizing', () => {
  let world: World;
  let clinic: Made;

  beforeAll(async () => {
    world = await openWorld('sizing');
    clinic = await provisionFor(world, 'SVG', 'clinic', 48, 'KQ');
    await provisionFor(world, 'MHP', 'watch', 10, 'KQ');
  });
  afterAll(() => world.close());

  const sizing = async (code = 'SVG'): Promise<Sizing> =>
    (await world.call('ida', 'GET', `/customers/${code}/sizing`)).body as unknown as Sizing;
  const pool = async (): Promise<MeasuredPool> => {
    const [found] = (await sizing()).pools;
    if (!found) throw new Error('there is no pool');
    return found;
  };
  const keep = (needs: object[], who: 'ida' | 'petra' = 'ida'): Promise<Called> =>
    world.call(who, 'PUT', '/customers/SVG/profiles', { body: { needs } });
  const measure = async (): Promise<void> => {
    await world.living.job('sessions');
    await world.living.job('peaks');
  };
  const inNow = async (): Promise<number> =>
    (
      await world.app.db.rows<{ n: number }>(
        'SELECT COUNT(*) AS n FROM session s JOIN customer c ON c.id = s.customer_id WHERE c.code = ?',
        ['SVG'],
      )
    )[0]?.n ?? 0;

  it('says nothing of what was not measured', async () => {
    const { peak, verdict, week } = await pool();
    expect([peak, verdict, week.every((one) => one === null), week.length]).toEqual([null, null, true, 168]);
  });

  it('notes the most that were in at once in each hour, and goes by the most of all', async () => {
    let most = 0;
    // A Wednesday from nine on, in Dublin.
    for (let hour = 0; hour < 10; hour++) {
      await measure();
      most = Math.max(most, await inNow());
      await world.living.moveTo(world.clock.at + HOUR);
    }
    expect(most).toBeGreaterThan(10);
    const { peak, week, verdict, needed, hosts, seats } = await pool();
    expect(peak).toBe(most);
    expect(Math.max(...week.map((one) => one ?? 0))).toBe(most);
    // Wednesday is the third day of the week (ISO 8601).
    expect(week.flatMap((one, n) => (one === null ? [] : n)).every((n) => n >= 48 && n < 72)).toBe(true);
    expect(needed).toBe(Math.ceil((most * 1.1) / seats) + 1);
    expect(verdict).toBe(hosts > needed ? 'too big' : hosts < needed ? 'too small' : 'right');
  });

  it('keeps the higher of two in an hour, and does not forget it when fewer are in', async () => {
    await measure();
    const before = (await pool()).peak;
    await world.app.db.write('DELETE FROM session');
    await world.living.job('peaks');
    expect((await pool()).peak).toBe(before);
  });

  it('takes what work takes at a customer from there on, and is as usual for others', async () => {
    const need = {
      key: 'standard',
      peoplePerVcpu: 2,
      memoryGiB: 4,
      diskOperations: 12,
      graphicsGiB: 0,
      source: 'a week in May',
    };
    expect((await keep([need])).status).toBe(200);
    expect((await sizing()).needs.find((one) => one.key === 'standard')).toEqual(need);
    expect((await sizing('MHP')).needs.find((one) => one.key === 'standard')?.source).toBe('');
    const asked = {
      body: { input: { environment: 'two', people: 12, template: 'shared-office', site: 'KQ' } },
    };
    const path = '/changes/provision/proposal';
    const says = async (code: string): Promise<string> => {
      const { checks } = (await world.call('ida', 'POST', `/customers/${code}${path}`, asked)).body
        .proposal as unknown as { checks: { key: string; says: string }[] };
      return checks.find((one) => one.key.startsWith('size'))?.says ?? '';
    };
    expect(await says('SVG')).not.toBe(await says('MHP'));
    expect((await keep([])).status).toBe(200);
    expect(await says('SVG')).toBe(await says('MHP'));
  });

  it.each([
    [{ source: '' }, 'say where the figures come from'],
    [{ peoplePerVcpu: 0 }, 'must be greater than 0'],
    [{ memoryGiB: 9_999 }, 'must be less than or equal to 512'],
    [{ key: 'idle' }, 'must be one of'],
  ])('refuses %j beside its field', async (over, says) => {
    const need = { key: 'light', peoplePerVcpu: 6, memoryGiB: 1, diskOperations: 6, source: 'x', ...over };
    const refused = await keep([need]);
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([422, expect.stringContaining(says)]);
  });

  it('is not for everyone to say', async () => expect((await keep([], 'petra')).status).toBe(403));

  it('is on the trail', async () => {
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/trail')).body as unknown as {
      entries: { action: string }[];
    };
    expect(entries.filter((one) => one.action === 'set work profiles')).toHaveLength(2);
  });

  it('forgets what was measured after sixty days', async () => {
    const { environment } = clinic;
    const rows = await world.app.db.rows('SELECT 1 FROM session_peak WHERE environment_id = ?', [
      environment,
    ]);
    expect(rows.length).toBeGreaterThan(5);
    await world.living.moveTo(world.clock.at + 61 * 24 * HOUR);
    await world.living.job('peaks');
    expect(
      await world.app.db.rows('SELECT 1 FROM session_peak WHERE environment_id = ? AND hour_at < ?', [
        environment,
        world.clock.at - 60 * 24 * HOUR,
      ]),
    ).toEqual([]);
  });
});
