import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MadeImage, MadeVersion, RunWithSteps } from '../../src/contract';
import { advance } from '../../src/server/worker';
import { begin, change, openWorld, raise, type Called, type Made, type World } from './setup/world';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;

const RECIPE = `steps:
  - install: Ostrel updates 2026-10
  - set: screen lock
    to: 10 min
  - install: Tallybrok 4.2
    holds: Tallybrook starts
  - check: Tallybrook starts
`;
const MENDED = RECIPE.replace('Tallybrok', 'Tallybrook');
const NEXT = MENDED.replace('2026-10', '2026-11');

/** An image from its first recipe to the second version that is gone back from, with one pool on trial and one that is not. */
describe('an image that is made here', () => {
  let world: World;
  let image: Made;

  beforeAll(async () => {
    world = await openWorld('images');
    image = await begin(world, 'MSP', 'new-image', {
      code: 'office',
      name: 'Office',
      says: 'Office work for many people',
      site: 'KQ',
      from: 'Ostrel 12 multi-user',
      recipe: RECIPE,
      keep: 1,
      size: 's4x16',
      diskGiB: 96,
      licences: ['Tallybrook'],
    });
    await world.living.untilQuiet();
  });
  afterAll(() => world.close());

  const own = (kind: string, input: object): Promise<Called> =>
    change(world, 'MSP', kind, input, { environment: image.environment });
  const pressed = (kind: string, input: object): Promise<Made> =>
    begin(world, 'MSP', kind, input, { environment: image.environment });
  const office = async (who: 'ida' | 'jonah' = 'ida'): Promise<MadeImage> => {
    const { images } = (await world.call(who, 'GET', '/images')).body as unknown as { images: MadeImage[] };
    const [found] = images;
    if (!found) throw new Error('there is no image');
    return found;
  };
  const version = async (number: number): Promise<MadeVersion> => {
    const found = (await office()).versions.find((one) => one.number === number);
    if (!found) throw new Error(`there is no version ${number}`);
    return found;
  };
  const runOf = async (run: string, code = 'MSP'): Promise<RunWithSteps> =>
    (await world.call('ida', 'GET', `/customers/${code}/runs/${run}`)).body as unknown as RunWithSteps;
  /** Until nothing goes on any more, with what follows by itself. */
  const quiet = async (): Promise<void> => {
    for (let n = 0; n < 2; n++) {
      await world.living.untilQuiet();
      await world.living.moveTo(world.clock.at + MINUTE);
      await world.living.job('feed');
      await world.living.job('machines');
      await world.living.job('refresh');
    }
    await world.living.untilQuiet();
  };
  const machines = async () =>
    (await world.port().resources({ customer: 'MSP' })).filter((one) => one.kind === 'builder');

  it('stops at the step that fails, and shows what it wrote last', async () => {
    const { run } = await pressed('build-image', { note: 'the first' });
    await quiet();
    const stopped = await runOf(run);
    expect([stopped.state, stopped.cause]).toEqual(['stopped', 'failure limit']);
    const failed = stopped.graph.filter((one) => one.state === 'failed');
    expect(failed.map((one) => [one.subject, one.says])).toEqual([
      ['office@1: install Tallybrok 4.2', 'the store has no program called Tallybrok 4.2'],
    ]);
    expect(failed[0]?.output).toContain('asking the store for Tallybrok 4.2');
    expect(failed[0]?.output).toMatch(/error: the store has no program called Tallybrok 4\.2$/);
    expect((await version(1)).capturedAt).toBeNull();
    // Someone may look: the machine is there.
    expect(await machines()).toHaveLength(1);
  });

  it('refuses a recipe with what is wrong at its line, and keeps the one before', async () => {
    const refused = await own('write-recipe', { recipe: `${MENDED}  - instal: Murrelmail 7\n` });
    expect(refused.status).toBe(422);
    expect(JSON.stringify(refused.body)).toContain('line 8: is not known here');
    expect((await office()).recipe).toBe(RECIPE);
  });

  it('goes on from that step once it is mended, and does nothing twice', async () => {
    await pressed('write-recipe', { recipe: MENDED });
    const { run } = await pressed('go-on', { version: 1 });
    await quiet();
    const { state, graph } = await runOf(run);
    expect(state).toBe('done');
    expect(graph.filter((one) => one.action === 'apply').map((one) => one.says)).toEqual([
      'done before',
      'done before',
      'holds: Tallybrook starts',
      '',
    ]);
    expect(graph.find((one) => one.action === 'stop')?.says).toBe('is really off');
    const built = await version(1);
    expect(built.programs).toEqual(['Ostrel 12', 'Ostrel updates 2026-10', 'Tallybrook 4.2']);
    expect([built.state, built.machine, built.gib]).toEqual(['trial', false, 96]);
    // The machine is gone, and the run that had stopped is no trouble any more.
    expect(await machines()).toEqual([]);
    const runs = (await office()).runs.filter((one) => one.state !== 'done');
    expect(runs).toEqual([]);
  });

  it('stores what costs the MSP', async () => {
    const [stored] = (await office()).stored;
    // 96 GiB at 0.0250 a month, as the provider asks.
    expect(stored).toMatchObject({ site: 'KQ', gib: 96, monthly: { minor: 240, currency: 'EUR' } });
    const rows = await world.app.db.rows(
      "SELECT quantity FROM meter_interval WHERE meter = 'image' AND to_at IS NULL",
    );
    expect(rows).toEqual([{ quantity: 96 }]);
  });

  it('warns before a version becomes current that nobody tried, and provisions what is current', async () => {
    const path = `/customers/MSP/environments/${image.environment}/changes/make-current/proposal`;
    const { checks } = (await world.call('ida', 'POST', path, { body: { input: { version: 1 } } })).body
      .proposal as unknown as { checks: { key: string; state: string }[] };
    expect(checks.find((one) => one.key === 'tried')?.state).toBe('warns');
    await pressed('make-current', { version: 1 });
    const revised = await world.call('ida', 'POST', '/templates/on-office/revisions', {
      body: TEMPLATE,
    });
    expect(revised.status).toBe(201);
    const made = await begin(world, 'MHP', 'provision', {
      environment: 'clinic',
      people: 20,
      template: 'on-office',
      site: 'KQ',
    });
    await quiet();
    const ran = await runOf(made.run, 'MHP');
    expect(ran.state).toBe('done');
    const hosts = (await world.port().resources({ customer: 'MHP' })).filter((one) => one.kind === 'host');
    expect(new Set(hosts.map((one) => one.attributes.image))).toEqual(new Set(['office@1']));
    expect((await version(1)).uses.map((one) => [one.customer, one.pool])).toEqual([
      ['MHP', 'desks'],
      ['MHP', 'pilot'],
    ]);
  });

  it('tells of its users only those in reach, and of the others how many', async () => {
    const [found] = (await office('jonah')).versions;
    const hosts = (await version(1)).uses.reduce((all, one) => all + one.hosts, 0);
    expect([found?.uses, found?.otherHosts]).toEqual([[], hosts]);
    // Nor what was done and why, which may name anyone.
    expect((await office('jonah')).runs).toEqual([]);
    expect((await office()).runs.length).toBeGreaterThan(0);
  });

  it('is tried by the pilot, made current, and gone back from', async () => {
    await pressed('write-recipe', { recipe: NEXT });
    await pressed('build-image', { note: 'the updates of November' });
    await quiet();
    const second = await version(2);
    expect(second.recipeChanges).toEqual([
      {
        what: 'install Ostrel updates 2026-11',
        how: 'otherwise',
        before: 'install Ostrel updates 2026-10',
      },
    ]);
    expect(second.programChanges).toEqual([
      { what: 'Ostrel updates 2026-11', how: 'otherwise', before: '2026-10' },
    ]);
    const [use] = (await version(1)).uses;
    const clinic = { environment: use?.environmentId ?? '' };
    await begin(world, 'MHP', 'use-image', { pool: 'pilot', image: 'office@2', track: 'trial' }, clinic);
    await quiet();
    expect((await version(2)).uses.map((one) => one.pool)).toEqual(['pilot']);
    await pressed('make-current', { version: 2 });
    expect((await office()).versions.map((one) => [one.number, one.state])).toEqual([
      [2, 'current'],
      [1, 'kept'],
    ]);
    await pressed('make-current', { version: 1 });
    expect((await office()).versions.map((one) => [one.number, one.state])).toEqual([
      [2, 'kept'],
      [1, 'current'],
    ]);
  });

  it('drops none that hosts stand on, and drops what is too many by itself', async () => {
    const refused = await own('drop-version', { version: 2 });
    expect([refused.status, refused.text]).toEqual([422, expect.stringContaining('stand')]);
    await pressed('build-image', { note: 'the third' });
    await quiet();
    await pressed('make-current', { version: 3 });
    await quiet();
    // One older is to be kept; two are, as hosts stand on both.
    expect((await office()).versions.map((one) => one.state)).toEqual(['current', 'kept', 'kept']);
    const [use] = (await version(1)).uses;
    for (const pool of ['desks', 'pilot'])
      await begin(
        world,
        'MHP',
        'use-image',
        { pool, image: 'office@3' },
        { environment: use?.environmentId ?? '' },
      );
    await quiet();
    await pressed('build-image', { note: 'the fourth' });
    await quiet();
    await pressed('make-current', { version: 4 });
    await quiet();
    expect((await office()).versions.map((one) => one.state)).toEqual([
      'current',
      'kept',
      'dropped',
      'dropped',
    ]);
    const left = (await world.port().resources({ customer: 'MSP' })).filter((one) => one.kind === 'image');
    expect(left.map((one) => one.name).sort()).toEqual(['office@3', 'office@4']);
  });

  it('is not wanted where it is not: the copy is made, also at another provider', async () => {
    await raise(world, 'SVG', 'hosts', 200);
    const refused = await change(world, 'SVG', 'provision', {
      environment: 'north',
      people: 4,
      template: 'on-office',
      site: 'NL',
    });
    expect(refused.status).toBe(422);
    expect(refused.body.detail).toContain('office@4 is not at Norrlight');
    const { run } = await pressed('copy-image', { version: 4, site: 'NL' });
    await quiet();
    expect((await runOf(run)).state).toBe('done');
    expect((await version(4)).sites).toEqual([
      { site: 'KQ', name: 'Kelp Quay', there: true },
      { site: 'NL', name: 'Norrlight', there: true },
    ]);
    expect((await version(4)).programs).toContain('Tallybrook 4.2');
    const made = await begin(world, 'SVG', 'provision', {
      environment: 'north',
      people: 4,
      template: 'on-office',
      site: 'NL',
    });
    await quiet();
    expect((await runOf(made.run, 'SVG')).state).toBe('done');
  });

  it('takes the machine away when nobody went on in time, and gives the version up', async () => {
    await pressed('write-recipe', { recipe: 'steps:\n  - run: exit 1\n' });
    await pressed('build-image', { note: 'cannot work', keepHours: 1 });
    await quiet();
    expect(await machines()).toHaveLength(1);
    await world.living.moveTo(world.clock.at + 2 * HOUR);
    await quiet();
    expect(await machines()).toEqual([]);
    expect((await version(5)).state).toBe('dropped');
    expect((await office()).runs.map((one) => one.state).filter((one) => one !== 'done')).toEqual([]);
  });

  it('tries a step as often as its recipe says', async () => {
    await pressed('write-recipe', { recipe: 'steps:\n  - run: exit 1\n    tries: 3\n' });
    const { run } = await pressed('build-image', { note: 'never works', keepHours: 0 });
    await quiet();
    const applied = await world.app.db.rows<{ round: number; says: string }>(
      "SELECT round, says FROM step WHERE run_id = ? AND action = 'apply'",
      [run],
    );
    expect(applied).toEqual([{ round: 3, says: 'the script ended with an error' }]);
    expect(await machines()).toEqual([]);
  });

  it('ends a step that takes longer than it may', async () => {
    await pressed('write-recipe', { recipe: 'steps:\n  - run: sleep 900\n    minutes: 2\n' });
    const { run } = await pressed('build-image', { note: 'sleeps' });
    // Looked at every minute, as workers do.
    const isOver = async (): Promise<boolean> => (await runOf(run)).state === 'stopped';
    for (let minute = 0; minute < 60 && !(await isOver()); minute++) {
      while (await advance(world.app));
      await world.living.moveTo(world.clock.at + MINUTE);
    }
    const failed = (await runOf(run)).graph.find((one) => one.action === 'apply');
    expect([failed?.state, failed?.says]).toEqual(['failed', 'took longer than 2 minutes']);
    // It did end, after all: whoever goes on finds it done.
    await world.living.moveTo(world.clock.at + HOUR);
    await world.living.job('feed');
    const again = await pressed('go-on', { version: 7 });
    await quiet();
    const { state, graph } = await runOf(again.run);
    expect([state, graph.find((one) => one.action === 'apply')?.says]).toEqual(['done', 'done before']);
  });

  it('is built anew when its rule says so, tried by the pilot, and waits for a word', async () => {
    await pressed('write-recipe', { recipe: 'steps:\n  - install: Ostrel updates newest\n' });
    const rule = { after: 1, time: '06:00', zone: 'Europe/Dublin', country: 'IE' };
    const wrong = await own('refresh-by-rule', { refresh: { ...rule, rule: 'FREQ=HOURLY' } });
    expect([wrong.status, wrong.body.fields]).toEqual([
      422,
      { 'input.refresh.rule': 'is weekly, monthly or yearly' },
    ]);
    await pressed('refresh-by-rule', { refresh: { ...rule, rule: 'FREQ=MONTHLY;BYDAY=2TU' } });
    const [next = 0, then = 0] = (await office()).refresh?.next ?? [];
    expect(new Date(next).toISOString()).toBe('2026-12-09T06:00:00.000Z');
    await world.living.moveTo(next - HOUR);
    await world.living.job('refresh');
    expect((await office()).versions).toHaveLength(7);
    await world.living.moveTo(next + MINUTE);
    await quiet();
    await quiet();
    const built = await version(8);
    expect([built.state, built.note, built.programs]).toEqual([
      'trial',
      'refresh of 9 December 2026',
      ['Ostrel 12', 'Ostrel updates 2026-12'],
    ]);
    // The pilots have it, wherever they are; everyone else stays on what is current, until someone says so.
    expect(built.uses.map((one) => [one.customer, one.pool])).toEqual([
      ['MHP', 'pilot'],
      ['SVG', 'pilot'],
    ]);
    expect((await office()).versions.find((one) => one.state === 'current')?.number).toBe(4);
    // Once is enough.
    await quiet();
    expect((await office()).versions).toHaveLength(8);
    expect(then).toBeGreaterThan(next);
  });

  it('has a calendar for who knows its address, and for nobody else', async () => {
    const address = (await office()).refresh?.calendar.replace('/api/v1', '') ?? '';
    const open = await world.callWith('', 'GET', address);
    expect([open.status, open.headers.get('content-type')]).toEqual([200, 'text/calendar; charset=utf-8']);
    expect(open.text).toContain('SUMMARY:Office is built anew');
    const guessed = await world.callWith(
      '',
      'GET',
      address.replace(/.$/, (last) => (last === 'a' ? 'b' : 'a')),
    );
    expect(guessed.status).toBe(404);
  });

  it('is not retired while hosts of a customer stand on it', async () => {
    const refused = await own('retire', {});
    expect([refused.status, refused.text]).toEqual([422, expect.stringMatching(/hosts? stands? on it/)]);
  });

  it('is no customer’s to see or to change', async () => {
    const path = `/customers/SVG/environments/${image.environment}/changes/drop-version`;
    const refused = await world.call('ida', 'POST', path, {
      body: { input: { version: 3 }, fingerprint: 'x', reason: '' },
    });
    expect(refused.status).toBe(404);
    const inside = await world.call('jonah', 'POST', `/customers/MSP/changes/new-image/proposal`, {
      body: { input: {} },
    });
    expect(inside.status).toBe(404);
  });
});

const TEMPLATE = {
  note: 'the first',
  text: `name: On the office image
says: Two pools, one of them a pilot
naming: '{customer}-{role}-{counter:2}'
pools:
  - role: desks
    image: office
    people: =people * 0.8
    concurrency: 1
  - role: pilot
    image: office
    people: =people * 0.2
    concurrency: 1
    track: trial
`,
};
