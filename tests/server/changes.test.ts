import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { begin, change, changePath, openWorld, provisionFor, type World } from './setup/world';

let world: World;
let environment: string;

beforeAll(async () => {
  world = await openWorld('test_changes');
  ({ environment } = await provisionFor(world, 'SVG', 'office', 24, 'KQ'));
});
afterAll(() => world.close());

interface Host {
  readonly id: string;
  readonly name: string;
  readonly status: string;
  readonly size: string;
  readonly diskGiB: number;
  readonly sessions: number;
  readonly drift: string[];
  readonly ref: string;
  readonly key: string;
}

const at = (path = ''): string => `/customers/SVG/environments/${environment}${path}`;
const hosts = async (): Promise<Host[]> =>
  (await world.call('ida', 'GET', at('/hosts'))).body.entries as Host[];
const refresh = async (): Promise<void> => {
  await world.living.job('feed');
  await world.living.job('sessions');
};

describe('an environment on the planner', () => {
  it('is provisioned: every host serves, and nothing differs', async () => {
    const found = await hosts();
    expect(found.length).toBeGreaterThan(1);
    expect(found.map((host) => host.status)).toEqual(found.map(() => 'serving'));
    expect(found.flatMap((host) => host.drift)).toEqual([]);
    expect((await world.call('ida', 'GET', at('/differences'))).body.differences).toEqual([]);
    const run = (await world.call('ida', 'GET', '/runs')).body.entries[0];
    expect(run).toMatchObject({ state: 'done', failed: 0 });
    // The worker takes steps in the order that the estimate assumes.
    const { expectedSeconds, begunAt, endedAt } = run as {
      expectedSeconds: number;
      begunAt: number;
      endedAt: number;
    };
    const took = (endedAt - begunAt) / 1_000;
    // Which of several hands takes which step differs from time to time.
    expect(Math.abs(took / expectedSeconds - 1)).toBeLessThan(0.15);
  });

  it('grows: the new host is named after the others, and the others are left alone', async () => {
    const before = await hosts();
    await begin(world, 'SVG', 'add-hosts', { pool: 'desks', hosts: 1 }, { environment });
    await world.living.untilQuiet();
    const after = await hosts();
    expect(after.length).toBe(before.length + 1);
    expect(after.slice(0, -1)).toEqual(before);
    expect(after.at(-1)).toMatchObject({ status: 'serving', drift: [] });
  });

  it('grows its disks, and the file systems on them', async () => {
    const made = await begin(
      world,
      'SVG',
      'grow-disk',
      { pool: 'desks', diskGiB: 256 },
      { environment, policy: { waves: 2 } },
    );
    await world.living.untilQuiet();
    expect((await hosts()).map((host) => host.diskGiB)).toEqual((await hosts()).map(() => 256));
    const run = (await world.call('ida', 'GET', `/customers/SVG/runs/${made.run}`)).body;
    const measured = (run.graph as { action: string; says: string }[]).filter(
      (step) => step.action === 'measure',
    );
    expect(measured.map((step) => step.says)).toEqual(measured.map(() => 'measured: 256 GiB to use'));
  });

  it('refuses a disk smaller than its image, beside the field', async () => {
    const refused = await change(world, 'SVG', 'grow-disk', { pool: 'desks', diskGiB: 32 }, { environment });
    expect(refused.status).toBe(422);
    expect(refused.body.fields).toEqual({ 'input.diskGiB': 'Ostrel 12 multi-user alone takes 64 GiB' });
  });

  it('takes the emptiest hosts away, drained first', async () => {
    const before = await hosts();
    await begin(
      world,
      'SVG',
      'take-hosts',
      { pool: 'desks', hosts: 1 },
      { environment, policy: { drainMinutes: 0 } },
    );
    await world.living.untilQuiet();
    await refresh();
    expect((await hosts()).map((host) => host.name)).toEqual(before.slice(0, -1).map((host) => host.name));
  });

  it('is resized in waves; nobody is in on a host while it is', async () => {
    await begin(
      world,
      'SVG',
      'resize',
      { pool: 'desks', size: 's8x32' },
      { environment, policy: { waves: 1, drainMinutes: 5 } },
    );
    await world.living.untilQuiet();
    expect(new Set((await hosts()).map((host) => host.size))).toEqual(new Set(['s8x32']));
    expect((await hosts()).flatMap((host) => host.drift)).toEqual([]);
  });

  it('mends what was changed behind its back, in the way that was chosen', async () => {
    const [first, second] = await hosts();
    if (!first || !second) throw new Error('two hosts are needed');
    for (const host of [first, second])
      await fetch(`${world.simulationUrl}/control/resources/${host.ref}`, {
        method: 'POST',
        body: JSON.stringify({ state: 'off' }),
      });
    await refresh();
    const { differences } = (await world.call('ida', 'GET', at('/differences'))).body;
    expect(differences).toMatchObject([
      { key: first.key, attribute: 'power', says: 'is off, wanted on', takeable: true },
      { key: second.key, attribute: 'power', says: 'is off, wanted on', takeable: true },
    ]);
    await begin(
      world,
      'SVG',
      'mend',
      {
        differences: [
          { key: first.key, attribute: 'power', how: 'as wanted' },
          { key: second.key, attribute: 'power', how: 'as present' },
        ],
      },
      { environment },
    );
    await world.living.untilQuiet();
    const after = await hosts();
    expect(after[0]).toMatchObject({ status: 'serving', drift: [] });
    expect(after[1]).toMatchObject({ status: 'off', drift: [] });
  });

  it('goes back to what was wanted before a run', async () => {
    const runs = (await world.call('ida', 'GET', at().replace(/\/environments.*/, '/runs'))).body.entries as {
      id: string;
    }[];
    const last = (await world.call('ida', 'GET', `/customers/SVG/runs/${runs[1]?.id}`)).body;
    const before = await hosts();
    expect(last.title).toContain('Resize');
    await begin(world, 'SVG', 'undo', { version: last.undoTo }, { environment, policy: { drainMinutes: 0 } });
    await world.living.untilQuiet();
    const after = await hosts();
    expect(after.map((host) => host.name)).toEqual(before.map((host) => host.name));
    expect(new Set(after.map((host) => host.size))).not.toContain('s8x32');
    // Power is no part of what is gone back to: what was taken as off stays off.
    expect(after.map((host) => host.status)).toEqual(before.map((host) => host.status));
    expect(after.filter((host) => host.status !== 'serving')).toHaveLength(1);
  });

  it('does nothing else than was seen: another fingerprint is refused with the new proposal', async () => {
    const path = changePath('SVG', 'add-hosts', environment);
    const input = { pool: 'desks', hosts: 1 };
    const refused = await world.call('ida', 'POST', path, {
      body: { input, fingerprint: 'other', reason: '' },
    });
    expect(refused.status).toBe(409);
    expect(refused.body).toMatchObject({
      type: 'urn:laager:problem:changed',
      fingerprint: expect.any(String),
    });
  });

  it('writes over nothing that stands in the document alone and was not seen', async () => {
    const path = changePath('SVG', 'publish-items', environment);
    const items = (name: string) => ({
      pool: 'desks',
      items: [
        { name: 'Full desktop', kind: 'desktop' },
        { name, kind: 'app', hidden: true },
      ],
    });
    const agreed = async (name: string) => {
      const input = items(name);
      const { body } = await world.call('ida', 'POST', `${path}/proposal`, { body: { input } });
      return { input, fingerprint: String(body.fingerprint), reason: 'two at once' };
    };
    const [mine, theirs] = [await agreed('Tallybrook'), await agreed('Contourwick')];
    expect(mine.fingerprint).toMatch(/^[0-9a-f]{32}$/);
    expect((await world.call('ida', 'POST', path, { body: theirs })).status).toBe(201);
    const late = await world.call('bram', 'POST', path, { body: mine });
    expect(late.body).toMatchObject({ type: 'urn:laager:problem:changed' });
    await world.living.untilQuiet();
    // Seen anew, it is agreed to.
    const again = { ...mine, fingerprint: String(late.body.fingerprint) };
    expect((await world.call('bram', 'POST', path, { body: again })).status).toBe(201);
    await world.living.untilQuiet();
  });

  it('is retired, with proof', async () => {
    await begin(world, 'SVG', 'retire', {}, { environment });
    await world.living.untilQuiet();
    const proof = (await world.call('ida', 'GET', at('/proof'))).body;
    expect(proof.clean).toBe(true);
    const { values } = proof.returned as { values: readonly { space: string; returned: boolean }[] };
    expect(values.map(({ space, returned }) => `${space} ${returned}`)).toEqual([
      'network true',
      'subnet true',
      'address true',
    ]);
    const left = await world.app.db.row<{ left: number }>('SELECT COUNT(*) AS `left` FROM allocation');
    expect(left?.left).toBe(0);
  });
});
