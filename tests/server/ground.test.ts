import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { GroundChangeEntry, ProviderPricesView } from '../../src/contract';
import { openWorld, provisionFor, type World } from './setup/world';

const DAY = 86_400_000;

/** What the providers say now, and did not say before. */
describe('the ground, read again', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('ground');
    await provisionFor(world, 'MHP', 'tower', 4, 'KQ');
    await world.living.job('feed');
  });
  afterAll(() => world.close());

  const readAgain = () => world.living.job('ground');
  const changes = async (who: 'ida' | 'jonah' | 'bram' = 'ida') => {
    const { body } = await world.call(who, 'GET', '/ground/changes');
    return body.changes as readonly GroundChangeEntry[];
  };
  const prices = async (code: string) => {
    const { body } = await world.call('bram', 'GET', '/ground/prices');
    return (body.providers as readonly ProviderPricesView[]).find((one) => one.provider === code);
  };
  const nodeOf = async (): Promise<string> => {
    const row = await world.app.db.row<{ node: string }>(
      "SELECT node FROM present_resource WHERE kind = 'host' AND present_condition <> 'gone' LIMIT 1",
    );
    return row?.node ?? '';
  };

  it('tells nothing where all is as it was', async () => {
    await readAgain();
    await readAgain();
    expect(await changes()).toEqual([]);
  });

  it('tells of a node that is not told any more, once, with whom it touches; nothing is placed there', async () => {
    const node = await nodeOf();
    await world.living.faults([{ kind: 'drop-node', target: node }], 'coast');
    await readAgain();
    await readAgain();
    const [change, ...others] = await changes();
    expect(others).toEqual([]);
    expect(change).toMatchObject({
      kind: 'node gone',
      subject: node,
      site: 'KQ',
      worse: true,
      customers: ['MHP'],
      others: 0,
    });
    expect(change?.hosts).toBeGreaterThan(0);
    // To whom the customer is out of reach, they are only counted.
    expect(await changes('jonah')).toMatchObject([{ customers: [], others: 1 }]);
    const facts = await world.call('ida', 'GET', '/customers/MHP/facts?site=KQ&template=shared-office');
    const { nodes } = facts.body.site as { nodes: { id: string; isDown: boolean }[] };
    expect(nodes.find((one) => one.id === node)?.isDown).toBe(true);
  });

  it('is noted by whom it concerns, and told again when it changes again', async () => {
    const [change] = await changes();
    const path = `/ground/changes/${change?.id ?? ''}/noted`;
    expect((await world.call('runa', 'POST', path)).status).toBe(403);
    expect((await world.call('ida', 'POST', path)).status).toBe(204);
    expect((await world.call('ida', 'POST', path)).status).toBe(404);
    expect(await changes()).toEqual([]);
    await world.living.faults([], 'coast');
    await readAgain();
    expect(await changes()).toMatchObject([{ kind: 'node back', worse: false }]);
    await world.call('ida', 'POST', `/ground/changes/${(await changes())[0]?.id ?? ''}/noted`);
  });

  it('tells of a quota that was lowered and a size that was withdrawn', async () => {
    await world.living.faults(
      [
        { kind: 'quota', amount: 40 },
        { kind: 'drop-size', target: 's8x32' },
      ],
      'northern',
    );
    await readAgain();
    expect(
      (await changes()).map(({ kind, subject, before, after }) => [kind, subject, before, after]),
    ).toEqual([
      ['size withdrawn', 's8x32', '8 vCPU · 32 GiB', ''],
      ['quota lowered', '', '160 vCPU', '40 vCPU'],
    ]);
    await world.living.faults([], 'northern');
  });

  it('brings another price in force by a lead’s word alone, and from a date', async () => {
    await world.living.faults([{ kind: 'price', target: 's2x8', amount: 4 }], 'coast');
    await readAgain();
    const before = await prices('coast');
    const ofSize = before?.prices.find((one) => one.size === 's2x8');
    expect(ofSize).toMatchObject({ kind: 'price up', inForce: '0.044000', told: '0.045760', dearer: 0.04 });
    // So many hosts stand, 730 hours a month, at 0.00176 more an hour.
    expect(before?.monthly?.minor).toBe(Math.round((ofSize?.standing ?? 0) * 730 * 0.176));
    expect((await prices('northern'))?.monthly).toEqual({ minor: 0, currency: 'EUR' });
    for (const who of ['ida', 'petra', 'runa'] as const)
      expect((await world.call(who, 'POST', '/providers/coast/prices', { body: {} })).status).toBe(403);
    const early = await world.call('bram', 'POST', '/providers/coast/prices', {
      body: { from: world.clock.at - DAY },
    });
    expect(early.body.fields).toEqual({ from: 'is over: what was paid then was paid' });
    const from = world.clock.at + 2 * DAY;
    expect((await world.call('bram', 'POST', '/providers/coast/prices', { body: { from } })).body).toEqual({
      taken: 1,
    });
    expect(await prices('coast')).toMatchObject({ plannedFrom: from });
    expect((await prices('coast'))?.prices.find((one) => one.size === 's2x8')?.inForce).toBe('0.044000');
    world.clock.at = from;
    expect((await prices('coast'))?.prices.find((one) => one.size === 's2x8')).toMatchObject({
      kind: 'price same',
      inForce: '0.045760',
    });
    const again = await world.call('bram', 'POST', '/providers/coast/prices', { body: {} });
    expect([again.status, again.body.detail]).toEqual([409, 'They are in force already.']);
  });
});
