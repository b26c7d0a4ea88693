import { DateTime } from 'luxon';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RunWithSteps } from '../../src/contract';
import { advance } from '../../src/server/worker';
import { isAnyAtWork } from '../../src/server/worker/claim';
import { begin, openWorld, provisionFor, type World } from './setup/world';

const ZONE = 'Europe/Dublin';
const WINDOW = { days: [3], from: '22:00', to: '22:04' };

/** A run that works in a window only, by the customer's clock. */
describe('a run in a window', { timeout: 90_000 }, () => {
  let world: World;
  let environment: string;
  let run: string;

  beforeAll(async () => {
    world = await openWorld('windows');
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 40, 'KQ'));
  });
  afterAll(() => world.close());

  const runOf = async (id: string): Promise<RunWithSteps> =>
    (await world.call('ida', 'GET', `/customers/SVG/runs/${id}`)).body as unknown as RunWithSteps;
  const hour = (at: number): string => DateTime.fromMillis(at, { zone: ZONE }).toFormat('ccc HH:mm');
  /** Lets time pass in small pieces, with all that is due in each. */
  const pass = async (minutes: number): Promise<void> => {
    for (let n = 0; n < minutes * 2; n++) {
      while (await advance(world.app));
      await world.living.moveTo(world.clock.at + 30_000);
      await world.living.job('feed');
    }
    while (await advance(world.app));
    await world.living.job('feed');
  };
  const hosts = async (): Promise<{ id: string; name: string; status: string; diskGiB: number }[]> =>
    (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`)).body
      .entries as never;

  const differences = async (): Promise<{ key: string; name: string; what: string }[]> =>
    (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/differences`)).body
      .differences as never;

  it('waits for it, and says until when', async () => {
    ({ run } = await begin(
      world,
      'SVG',
      'grow-disk',
      { pool: 'desks', diskGiB: 256 },
      { environment, policy: { window: WINDOW, atATime: 1 } },
    ));
    expect(await advance(world.app)).toBe(false);
    const { state, works, done, policy } = await runOf(run);
    expect([state, done, policy.window]).toEqual(['running', 0, WINDOW]);
    expect([hour(works?.from ?? 0), hour(works?.to ?? 0)]).toEqual(['Wed 22:00', 'Wed 22:04']);
  });

  it('lets what is asked for meanwhile go first, on the same hosts too', async () => {
    const [first] = await hosts();
    const off = await begin(world, 'SVG', 'power-off', { hosts: [first?.id ?? ''] }, { environment });
    await pass(5);
    expect((await runOf(off.run)).state).toBe('done');
    expect((await runOf(run)).done).toBe(0);
    // What the window is waited for with is no drift: it is asked for, and its time has not come.
    expect(await differences()).toEqual([]);
  });

  it('works in it, begins nothing once it is over, and goes on in the next', async () => {
    const { works } = await runOf(run);
    await world.living.moveTo((works?.from ?? 0) - 1_000);
    expect(await advance(world.app)).toBe(false);
    await world.living.moveTo(works?.from ?? 0);
    await pass(12);
    const cut = await runOf(run);
    expect(cut.state).toBe('running');
    expect(cut.done).toBeGreaterThan(0);
    expect(cut.done).toBeLessThan(cut.steps);
    // What was begun within it has ended; nothing was begun after it.
    expect(cut.graph.filter((step) => step.state === 'working')).toEqual([]);
    expect(Math.max(...cut.graph.map((step) => step.beganAt ?? 0))).toBeLessThan(works?.to ?? 0);
    await world.living.job('windows');
    const next = (await runOf(run)).works;
    expect((next?.from ?? 0) - (works?.from ?? 0)).toBe(7 * 86_400_000);
    for (let n = 0; n < 12 && (await runOf(run)).state === 'running'; n++) {
      await world.living.moveTo((await runOf(run)).works?.from ?? 0);
      await pass(6);
      await world.living.job('windows');
    }
    expect((await runOf(run)).state).toBe('done');
    // Nothing was lost of what was asked for meanwhile, and nothing of the window's own.
    const after = await hosts();
    expect(after.filter((one) => one.diskGiB !== 256)).toEqual([]);
    expect(after.filter((one) => one.status === 'off')).toHaveLength(1);
  });

  it('is stopped and resumed like any other, and is not worked on outside it', async () => {
    const made = await begin(
      world,
      'SVG',
      'grow-disk',
      { pool: 'desks', diskGiB: 300 },
      { environment, policy: { window: { days: [1], from: '03:00', to: '05:00' } } },
    );
    const to = (act: string) => world.call('ida', 'POST', `/customers/SVG/runs/${made.run}/${act}`);
    expect((await to('stop')).status).toBe(200);
    expect((await runOf(made.run)).state).toBe('stopped');
    // Its window goes by while it is stopped.
    await world.living.moveTo(world.clock.at + 8 * 86_400_000);
    await world.living.job('windows');
    expect((await to('resume')).status).toBe(200);
    expect(await advance(world.app)).toBe(false);
    const { works, state } = await runOf(made.run);
    expect([state, hour(works?.from ?? 0), (works?.from ?? 0) > world.clock.at]).toEqual([
      'running',
      'Mon 03:00',
      true,
    ]);
  });

  it('hides no trouble meanwhile: what is lost is seen, and mended before its time comes', async () => {
    const [, lost] = await hosts();
    const there = (await world.port().resources({ customer: 'SVG' })).find((one) => one.name === lost?.name);
    const removing = await world.port().remove(there?.ref ?? '', there?.version ?? 0, 'behind our back');
    expect(removing).toBeDefined();
    await pass(3);
    expect((await hosts()).find((one) => one.id === lost?.id)?.status).toBe('missing');
    const found = await differences();
    expect(found.map((one) => [one.name, one.what])).toEqual([[lost?.name, 'missing']]);
    const mending = await begin(
      world,
      'SVG',
      'mend',
      { differences: found.map(({ key }) => ({ key, how: 'as wanted' })) },
      { environment },
    );
    await pass(15);
    expect((await runOf(mending.run)).state).toBe('done');
    expect(await differences()).toEqual([]);
  });

  it('does not keep what it has not begun from being retired', async () => {
    const gone = await begin(world, 'SVG', 'retire', {}, { environment });
    await pass(20);
    await pass(2);
    expect((await runOf(gone.run)).state).toBe('done');
    const waiting = (await world.call('ida', 'GET', '/customers/SVG/runs')).body.entries as {
      id: string;
      title: string;
      state: string;
    }[];
    expect(waiting.filter((one) => one.state !== 'done')).toEqual([]);
  });

  it('warns people before it comes, of the hour at which it does, and once', async () => {
    const { environment: dusk } = await provisionFor(world, 'SVG', 'dusk', 4, 'KQ');
    const mails = async (): Promise<string[]> =>
      ((await (await fetch(`${world.mailUrl}/messages`)).json()) as { messages: { body: string }[] }).messages
        .map(({ body }) => body)
        .filter((body) => body.includes('dusk'));
    const gone = await begin(
      world,
      'SVG',
      'retire',
      {},
      { environment: dusk, policy: { window: { days: [1, 2, 3, 4, 5, 6, 7], from: '05:00', to: '09:00' } } },
    );
    const { works } = await runOf(gone.run);
    // Else it would be in its window by now.
    expect(works?.from).toBeGreaterThan(world.clock.at);
    while (await advance(world.app));
    const at = DateTime.fromMillis(works?.from ?? 0, { zone: ZONE, locale: 'en-GB' });
    expect(await mails()).toEqual([
      `Please save your work and sign out before 05:00 on ${at.toFormat('cccc d LLLL yyyy')} (${ZONE}). After that the desktops of dusk close for good.`,
    ]);
    const before = await runOf(gone.run);
    expect([before.state, before.done]).toEqual(['running', 1]);
    expect(await isAnyAtWork(world.app)).toBe(false);
    await world.living.moveTo(works?.from ?? 0);
    await world.living.job('windows');
    await pass(50);
    expect((await runOf(gone.run)).state).toBe('done');
    expect(await mails()).toHaveLength(1);
  });

  it('is refused, beside its field, where it is none', async () => {
    const path = `/customers/SVG/environments/${environment}/changes/grow-disk/proposal`;
    const { status, text } = await world.call('ida', 'POST', path, {
      body: {
        input: { pool: 'desks', diskGiB: 400 },
        policy: { window: { days: [], from: '22:00', to: '4' } },
      },
    });
    expect(status).toBe(422);
    expect(text).toContain('policy.window.days');
    expect(text).toContain('policy.window.to');
  });
});
