import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { EnvironmentWithPools, Host } from '../../src/contract';
import type { PresentResource } from '../../src/server/providers';
import { begin, change, openWorld, raise, type World } from './setup/world';
import { peopleOf } from '../../src/demo/people';
import { getEnvironment, listHosts } from '../../src/server/environments';

const DAY = 24 * 3_600_000;
const template = (assign: string): string => `name: Own desks
naming: '{customer}-{environment}{counter:2}'
pools:
  - role: own
    kind: personal
    image: Ostrel 12 multi-user
    people: =people
    ownDiskGiB: 48
    assign: ${assign}
`;

describe('desktops of people’s own', { timeout: 120_000 }, () => {
  let world: World;
  let environment: string;
  let first: string;
  const [ann, ben, cai, dee] = peopleOf('SVG', 8).map(({ account }) => account) as [
    string,
    string,
    string,
    string,
  ];

  beforeAll(async () => {
    world = await openWorld('desktops');
    for (const assign of ['ahead', 'first sign-in'])
      await world.call('ida', 'POST', `/templates/own-${assign === 'ahead' ? 'ahead' : 'first'}/revisions`, {
        body: { text: template(assign), note: 'first' },
      });
    await raise(world, 'SVG', 'personal', 40);
    const made = await begin(world, 'SVG', 'provision', {
      environment: 'own',
      template: 'own-ahead',
      people: 3,
      site: 'KQ',
    });
    environment = made.environment;
    first = made.run;
    await world.living.untilQuiet();
  });
  afterAll(() => world.close());

  const path = () => `/customers/SVG/environments/${environment}`;
  const hosts = async (): Promise<readonly Host[]> =>
    (await world.call('ida', 'GET', `${path()}/hosts`)).body.entries as unknown as Host[];
  const page = async () => (await world.call('ida', 'GET', path())).body as unknown as EnvironmentWithPools;
  const hostOf = async (person: string): Promise<Host> => {
    const found = (await hosts()).find((one) => one.person === person);
    if (!found) throw new Error(`${person} has none`);
    return found;
  };
  const there = async (kind: string): Promise<PresentResource[]> =>
    (await world.port().resources({ customer: 'SVG' })).filter((one) => one.kind === kind);
  const disk = async (ref: string): Promise<PresentResource | undefined> => world.port().resource(ref);
  const diskOn = async (host: Host): Promise<string> =>
    String((await world.port().resource(host.ref ?? ''))?.attributes.ownDiskRef);
  const done = async (kind: string, input: object) => {
    const made = await change(world, 'SVG', kind, input, { environment });
    expect([kind, made.status, made.status === 201 ? '' : made.text]).toEqual([kind, 201, '']);
    await world.living.untilQuiet();
    const run = (await world.call('ida', 'GET', `/customers/SVG/runs/${String(made.body.run)}`)).body;
    expect([kind, run.state]).toEqual([kind, 'done']);
  };
  const typed = async (kind: string, input: object) => {
    const at = `${path()}/changes/${kind}`;
    const { body } = await world.call('ida', 'POST', `${at}/proposal`, { body: { input } });
    const ask = { input, fingerprint: body.fingerprint, reason: 'a test' };
    expect((await world.call('ida', 'POST', at, { body: ask })).status).toBe(422);
    const begun = await world.call('ida', 'POST', at, { body: { ...ask, code: 'SVG' } });
    expect([kind, begun.status]).toEqual([kind, 201]);
    await world.living.untilQuiet();
  };

  it('stand with a disk each, and are nobody’s at first', async () => {
    const all = await hosts();
    expect(all.map(({ person }) => person)).toEqual(['', '', '']);
    const disks = await there('personal-disk');
    expect(disks.map(({ attributes }) => attributes.gib)).toEqual([48, 48, 48]);
    expect(new Set(await Promise.all(all.map(diskOn)))).toEqual(new Set(disks.map(({ ref }) => ref)));
    // Common practice, no source: three personal hosts take about 15 minutes to build.
    const { body: run } = await world.call('ida', 'GET', `/customers/SVG/runs/${first}`);
    const { begunAt, endedAt } = run as unknown as { begunAt: number; endedAt: number };
    const minutes = (endedAt - begunAt) / 60_000;
    expect(minutes).toBeGreaterThan(10);
    expect(minutes).toBeLessThan(20);
  });

  it('are given to people ahead; who is not in the directory is left out and named', async () => {
    const { body } = await world.call('ida', 'POST', `${path()}/changes/assign-desktops/proposal`, {
      body: { input: { pool: 'own', people: [ann, 'nobody.known', ben] } },
    });
    const { checks } = body.proposal as unknown as { checks: { key: string; state: string; says: string }[] };
    expect(checks.find(({ key }) => key === 'unknown')).toMatchObject({
      state: 'warns',
      says: '2 of 3 get one; nobody.known: not in the directory',
    });
    await done('assign-desktops', { pool: 'own', people: [ann, 'nobody.known', ben] });
    expect((await hosts()).map(({ person }) => person).sort()).toEqual(['', ann, ben].sort());
    expect((await disk(await diskOn(await hostOf(ann))))?.attributes.person).toBe(ann);
    expect((await world.call('ida', 'GET', `${path()}/differences`)).body.differences).toEqual([]);
  });

  it('are rebuilt of their image, and the same disk is on them again', async () => {
    const before = await hostOf(ann);
    const own = await diskOn(before);
    await done('rebuild-desktops', { hosts: [before.id] });
    const after = await hostOf(ann);
    expect(after.name).toBe(before.name);
    expect(after.ref).not.toBe(before.ref);
    expect(await diskOn(after)).toBe(own);
    expect((await disk(own))?.state).toBe('ready');
    await done('rebuild-desktops', { hosts: [before.id] });
    expect((await hostOf(ann)).ref).not.toBe(after.ref);
  });

  it('are moved with what is kept there, with it put aside, or with it wiped', async () => {
    const host = await hostOf(ann);
    const first = await diskOn(host);
    await done('move-desktop', { host: host.id, person: cai, data: 'kept' });
    expect(await diskOn(await hostOf(cai))).toBe(first);
    expect((await disk(first))?.attributes.person).toBe(cai);
    await done('move-desktop', { host: host.id, person: dee, data: 'archived' });
    const second = await diskOn(await hostOf(dee));
    expect(second).not.toBe(first);
    expect((await disk(first))?.attributes).toMatchObject({ kept: true, person: cai });
    const { keptDisks } = await page();
    expect(keptDisks).toMatchObject([{ pool: 'own', person: cai, gib: 48 }]);
    await done('move-desktop', { host: host.id, person: ann, data: 'wiped' });
    expect((await disk(second))?.state ?? 'gone').toBe('gone');
    expect(await diskOn(await hostOf(ann))).not.toBe(second);
  });

  it('keep their people, and those their disks, while they are resized, grown and restarted', async () => {
    const owned = async (): Promise<(readonly [string, string | null | undefined, string])[]> => {
      const all = (await hosts()).filter(({ person }) => person !== undefined && person !== '');
      return Promise.all(all.map(async (one) => [one.name, one.person, await diskOn(one)] as const));
    };
    const before = await owned();
    expect(before.length).toBeGreaterThan(1);
    const disksBefore = (await there('personal-disk')).map(({ ref }) => ref).sort();
    await done('grow-disk', { pool: 'own', diskGiB: 256 });
    await done('resize', { pool: 'own', size: 's4x16' });
    const [first] = (await hosts()).filter(({ person }) => person !== undefined && person !== '');
    await done('restart-hosts', { hosts: [first?.id ?? ''] });
    expect(await owned()).toEqual(before);
    expect((await there('personal-disk')).map(({ ref }) => ref).sort()).toEqual(disksBefore);
    // Nothing differs afterwards.
    await world.living.job('feed');
    const differences = (await world.call('ida', 'GET', `${path()}/differences`)).body.differences;
    expect(differences).toEqual([]);
  });

  it('end only once the code is typed, and the host stays for whoever comes next', async () => {
    const host = await hostOf(ann);
    const own = await diskOn(host);
    await typed('end-desktops', { hosts: [host.id], data: 'archived', host: 'stays' });
    const now = (await hosts()).find(({ id }) => id === host.id);
    expect(now?.person).toBe('');
    expect((await disk(own))?.attributes.kept).toBe(true);
    const [aside] = (await page()).keptDisks;
    await typed('drop-disks', { disks: [aside?.key ?? ''] });
    expect((await page()).keptDisks.some(({ key }) => key === aside?.key)).toBe(false);
  });

  it('are nobody else’s: another customer’s people are not known, nor are its hosts', async () => {
    const [theirs] = peopleOf('MHP', 1);
    const refused = await change(
      world,
      'SVG',
      'assign-desktops',
      { pool: 'own', people: [theirs?.account ?? ''] },
      { environment },
    );
    expect([refused.status, refused.text.includes('not in the directory')]).toEqual([422, true]);
    const foreign = await begin(world, 'MHP', 'provision', {
      environment: 'own',
      template: 'own-ahead',
      people: 1,
      site: 'KQ',
    });
    await world.living.untilQuiet();
    const other = (await world.call('ida', 'GET', `/customers/MHP/environments/${foreign.environment}/hosts`))
      .body.entries as unknown as Host[];
    const mixed = await change(
      world,
      'SVG',
      'rebuild-desktops',
      { hosts: [other[0]?.id ?? ''] },
      { environment },
    );
    expect([mixed.status, mixed.text.includes('not a host of this environment')]).toEqual([422, true]);
  });

  it('go to whoever signs in first, where nobody was named', async () => {
    const made = await begin(world, 'SVG', 'provision', {
      environment: 'walk-in',
      template: 'own-first',
      people: 20,
      ready: 4,
      site: 'KQ',
    });
    const before = environment;
    environment = made.environment;
    await world.living.untilQuiet();
    expect((await hosts()).every(({ person }) => person === '')).toBe(true);
    // A Thursday at ten: people are in.
    const at = new Date(world.clock.at);
    await world.living.moveTo(
      Date.UTC(at.getUTCFullYear(), at.getUTCMonth(), at.getUTCDate() + ((11 - at.getUTCDay()) % 7), 10),
    );
    await world.living.job('feed');
    await world.living.job('sessions');
    const inThere = (await hosts()).filter(({ sessions }) => sessions > 0);
    expect(inThere.length).toBeGreaterThan(1);
    for (let n = 0; n < 6; n++) {
      await world.living.job('desktops');
      await world.living.untilQuiet();
    }
    const owned = await hosts();
    expect(owned.filter(({ person }) => person !== '').length).toBeGreaterThanOrEqual(inThere.length);
    const owners = owned.map(({ person }) => person).filter((one) => one !== '');
    expect(new Set(owners).size).toBe(owners.length);
    // The next day each is on their own.
    await world.living.moveTo(world.clock.at + DAY);
    await world.living.job('sessions');
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/sessions?limit=500'))
      .body as unknown as {
      entries: { account: string; host: string }[];
    };
    for (const host of owned.filter(({ person }) => person !== ''))
      for (const session of entries.filter((one) => one.host === host.name))
        expect([host.name, session.account]).toEqual([host.name, host.person]);
    environment = before;
  });

  it('come from the ready shelf where one like them is ready, with a disk of the person’s own', async () => {
    const [pool] = (await page()).pools;
    await begin(
      world,
      'MSP',
      'stock-shelf',
      {
        site: 'KQ',
        image: pool?.image,
        size: pool?.size,
        diskGiB: pool?.diskGiB,
        hosts: 1,
        most: null,
      },
      { who: 'bram' },
    );
    await world.living.untilQuiet();
    const taken = (await hosts()).flatMap(({ person }) => ((person ?? '') === '' ? [] : [person]));
    const free = (await hosts()).length - taken.length;
    const people = peopleOf('SVG', 96)
      .map(({ account }) => account)
      .filter((one) => !taken.includes(one))
      .slice(-(free + 1));
    const at = `${path()}/changes/assign-desktops/proposal`;
    const input = { pool: 'own', people, ready: true };
    const { body } = await world.call('ida', 'POST', at, { body: { input } });
    const { checks, tasks } = body.proposal as unknown as {
      checks: { key: string; says: string }[];
      tasks: { kind: string; do: string; attributes: { from?: string } }[];
    };
    expect(checks.find(({ key }) => key === 'shelf')?.says).toBe('1 of 1 is ready and only handed over');
    expect(
      tasks
        .filter((one) => one.kind === 'host' && one.do === 'make')
        .map((one) => typeof one.attributes.from),
    ).toEqual(['string']);
    await done('assign-desktops', input);
    for (const person of people) {
      const host = await hostOf(person);
      const own = await disk(await diskOn(host));
      expect([host.status, own?.attributes.person]).toEqual(['serving', person]);
    }
  });

  it('of who left are off and kept, given back to who returns, and end when the days are over', async () => {
    const host = await hostOf(ben);
    const own = await diskOn(host);
    await done('keep-desktops', { hosts: [host.id] });
    expect((await hostOf(ben)).present).toBe('off');
    const kept = (await page()).keptDesktops;
    expect(kept).toHaveLength(1);
    expect((await page()).keptDisks.length).toBeGreaterThan(0);
    // As long as plan Harbour says.
    const days = Math.round(((kept[0]?.until ?? 0) - world.clock.at) / DAY);
    // As long as plan Harbour says.
    expect(days).toBe(365);
    await done('give-back', { hosts: [host.id] });
    expect(await diskOn(await hostOf(ben))).toBe(own);
    expect((await hostOf(ben)).present).toBe('on');
    await done('keep-desktops', { hosts: [host.id] });
    await world.living.job('desktops');
    expect((await hosts()).some(({ person }) => person === ben)).toBe(true);
    await world.living.moveTo(world.clock.at + (days + 1) * DAY);
    await world.living.job('desktops');
    await world.living.untilQuiet();
    // Tokens have ended by then: asked within.
    const svg = await world.inside('SVG');
    const after = await listHosts(world.app.db, svg, environment, { limit: 100 });
    expect(after.some(({ person }) => person === ben)).toBe(false);
    expect((await disk(own))?.state ?? 'gone').toBe('gone');
    // What was put aside before has gone too.
    expect((await getEnvironment(world.app, svg, environment)).keptDisks).toEqual([]);
    const runs = await world.app.db.rows<{ state: string }>('SELECT state FROM run');
    expect(runs.every(({ state }) => state === 'done')).toBe(true);
    await world.living.job('desktops');
    expect((await world.app.db.rows('SELECT id FROM run')).length).toBe(runs.length);
  });
});
