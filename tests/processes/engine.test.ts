import { OVER_SCIM } from '../../src/contract';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { control } from '../../src/demo/living';
import { peopleOf } from '../../src/demo/people';
import { SYSTEM } from '../../src/server/access';
import { newId } from '../../src/server/db';
import { askForReading, directoryLink, keepLink } from '../../src/server/directory-link';
import { addRevision } from '../../src/server/templates';
import { Engine } from './setup/engine';

/** Real processes, killed at their worst moments: nothing is built twice, nothing is forgotten. */
describe('the engine', { timeout: 240_000 }, () => {
  const engine = new Engine(700);
  beforeAll(() => engine.open());
  afterEach(() => engine.calm());
  afterAll(() => engine.close());

  it('takes a directory in once, although its worker is killed while it reads and while it writes', async () => {
    const many = Array.from({ length: 9_000 }, (_, n) => ({
      account: `person${n}`,
      given: 'Quill',
      family: `Saltash ${n}`,
      mail: `person${n}@hsb.example`,
      unit: `Rooms/${n % 12}`,
      groups: [`Group ${n % 30}`],
      disabled: false,
    }));
    const { app } = engine;
    const inside = await engine.inside('HSB');
    await app.db.write(
      `INSERT INTO allowance (customer_id, id, limit_name, most, until_at, reason, actor, made_at)
       VALUES (?, ?, 'people', 20000, ?, 'a test', 'a test', 0)`,
      [inside.customer.id, newId(), app.clock.now() + 86_400_000],
    );
    for (let at = 0; at < many.length; at += 3_000)
      await control(engine.directoryUrl, 'PUT', `/control/realms/hsb.example?${at === 0 ? '' : 'add=1'}`, {
        token: 'a token',
        people: many.slice(at, at + 3_000),
      });
    await keepLink(app, inside, {
      ...OVER_SCIM,
      secret: 'a token',
      units: [],
      groups: [],
      reason: '',
    });
    await askForReading(app, inside, null);
    let worker = engine.startWorker();
    const left = new Set<string>(['reading', 'taking']);
    const look = async (): Promise<boolean> => {
      const { state, readAt } = await directoryLink(app.db, inside);
      if (left.delete(state)) {
        await engine.kill(worker);
        worker = engine.startWorker();
      }
      return state === 'linked' && readAt !== null;
    };
    await expect.poll(look, { timeout: 60_000, interval: 5 }).toBe(true);
    expect([...left]).toEqual([]);
    const counted = await app.db.row<{ people: number; accounts: number; members: number; pages: number }>(
      `SELECT COUNT(*) AS people, COUNT(DISTINCT account) AS accounts,
         (SELECT COUNT(*) FROM group_member m WHERE m.customer_id = p.customer_id) AS members,
         (SELECT COUNT(*) FROM directory_page) AS pages
       FROM person p WHERE p.customer_id = ? AND p.left_at IS NULL AND p.directory_id IS NOT NULL`,
      [inside.customer.id],
    );
    // The simulation's groups are those of the last part that it was given.
    expect(counted).toEqual({ people: 9_000, accounts: 9_000, members: 3_000, pages: 0 });
    await engine.kill(worker);
  });

  const MAKING = [
    'network make',
    'subnet make',
    'share make',
    'pool make',
    'host make',
    'host agent',
    'host join',
    'host register',
    'host check',
    'publication make',
  ];
  const REMOVING = [
    'environment warn',
    'publication remove',
    'share retain',
    'host unregister',
    'host leave',
    'host remove',
    'pool remove',
    'subnet remove',
    'network remove',
    'environment sweep',
    'environment prove',
  ];

  let environment = '';

  it('provisions although its worker is killed at every kind of step', async () => {
    // Each call takes a while, so that every kind of step can be met at work.
    await engine.faults({ kind: 'slow', amount: 120 });
    const made = await engine.provision('hard', 12);
    environment = made.environment;
    let worker = engine.startWorker();
    for (const left = new Set(MAKING); left.size > 0;) {
      left.delete(await engine.untilOneWorks(made.run, left));
      await engine.kill(worker);
      worker = engine.startWorker();
    }
    await engine.untilRun(made.run, 'done');
    await engine.expectExactlyWanted(made.environment);
  });

  it('retires although its worker is killed at every kind of step', async () => {
    await engine.faults({ kind: 'slow', amount: 120 });
    let worker = engine.startWorker();
    const { run } = await engine.change('retire', {}, environment);
    for (const left = new Set(REMOVING); left.size > 0;) {
      left.delete(await engine.untilOneWorks(run, left));
      await engine.kill(worker);
      worker = engine.startWorker();
    }
    await engine.untilRun(run, 'done');
    // What people kept is all that is left, and goes too when that is asked for.
    const kept = await engine.provider().resources({ customer: 'SVG' });
    expect(kept.map(({ kind }) => kind)).toEqual(['share']);
    const rows = await engine.app.db.rows<{ id: string }>(
      'SELECT id FROM resource WHERE retained_until IS NOT NULL AND environment_id = ?',
      [environment],
    );
    const dropped = await engine.change('drop-retained', { retained: rows.map(({ id }) => id) }, environment);
    await engine.untilOneWorks(dropped.run, new Set(['share remove']));
    await engine.kill(worker);
    engine.startWorker();
    await engine.untilRun(dropped.run, 'done');
    expect(await engine.provider().resources({ customer: 'SVG' })).toEqual([]);
    expect(await engine.app.directory.computers('svg.example')).toEqual([]);
  });

  it('builds an image although its worker is killed at every kind of step, and leaves no machine', async () => {
    await engine.faults({ kind: 'slow', amount: 120 });
    const recipe =
      'steps:\n  - install: Tallybrook 4.2\n  - set: lock\n    to: 10\n  - check: Tallybrook starts\n';
    const begun = {
      code: 'office',
      name: 'Office',
      says: '',
      site: 'KQ',
      from: 'Ostrel 12 multi-user',
      recipe,
      keep: 1,
      size: 's4x16',
      diskGiB: 64,
      licences: [],
    };
    const ours = { code: 'MSP' };
    let worker = engine.startWorker();
    const image = await engine.change('new-image', begun, undefined, ours);
    await engine.untilRun(image.run, 'done');
    const { run } = await engine.change('build-image', { note: 'the first' }, image.environment, ours);
    const kinds = [
      'builder make',
      'image apply',
      'image settle',
      'image generalise',
      'image stop',
      'image capture',
    ];
    for (const left = new Set(kinds); left.size > 0;) {
      left.delete(await engine.untilOneWorks(run, left));
      await engine.kill(worker);
      worker = engine.startWorker();
    }
    await engine.untilRun(run, 'done');
    const present = async (kind: string) =>
      (await engine.provider().resources({ customer: 'MSP' })).filter((one) => one.kind === kind);
    await expect.poll(async () => (await present('builder')).length, { timeout: 45_000 }).toBe(0);
    const captured = await present('image');
    expect(captured.map((one) => one.attributes.programs)).toEqual([['Ostrel 12', 'Tallybrook 4.2']]);
    // Each step was done on the machine once: what had been begun was found again.
    const applied = await engine.app.db.rows<{ state: string }>(
      "SELECT state FROM step WHERE run_id = ? AND action = 'apply' ORDER BY ordinal",
      [run],
    );
    expect(applied.map((one) => one.state)).toEqual(['done', 'done', 'done']);
  });

  it('moves a desktop to another person although its worker is killed at every kind of step, and loses no disk', async () => {
    const text = `name: Own
naming: '{customer}-{environment}{counter:2}'
pools:
  - role: own
    kind: personal
    image: Ostrel 12 multi-user
    people: =people
    ownDiskGiB: 32
`;
    await addRevision(engine.app, SYSTEM, { code: 'own', owner: '', note: 'first', text });
    const [ann = '', ben = ''] = peopleOf('SVG', 4).map(({ account }) => account);
    let worker = engine.startWorker();
    const asked = { environment: 'own', template: 'own', people: 1, site: 'KQ' };
    const made = await engine.change('provision', asked, undefined);
    await engine.untilRun(made.run, 'done');
    const first = await engine.change('assign-desktops', { pool: 'own', people: [ann] }, made.environment);
    await engine.untilRun(first.run, 'done');
    const disks = async () =>
      (await engine.provider().resources({ customer: 'SVG' })).filter((one) => one.kind === 'personal-disk');
    const [before] = await disks();
    await engine.faults({ kind: 'slow', amount: 120 });
    const [host] = await engine.hosts(made.environment);
    const moving = { host: host?.id ?? '', person: ben, data: 'archived' };
    const { run } = await engine.change('move-desktop', moving, made.environment);
    const kinds = ['personal-disk make', 'personal-disk set', 'host attach', 'host assign'];
    for (const left = new Set(kinds); left.size > 0;) {
      left.delete(await engine.untilOneWorks(run, left));
      await engine.kill(worker);
      worker = engine.startWorker();
    }
    await engine.untilRun(run, 'done');
    const after = await disks();
    expect(after.map(({ attributes: { person, kept } }) => [person, kept]).sort()).toEqual(
      [
        [ann, true],
        [ben, false],
      ].sort(),
    );
    expect(after.some(({ ref }) => ref === before?.ref)).toBe(true);
    const [there] = (await engine.provider().resources({ customer: 'SVG' })).filter(
      (one) => one.kind === 'host',
    );
    expect(there?.attributes.ownDiskRef).toBe(after.find(({ attributes }) => attributes.kept === false)?.ref);
    expect(there?.attributes.person).toBe(ben);
  });

  it('builds nothing twice when answers are lost after the work was done', async () => {
    engine.startWorker();
    const { run, environment: made } = await engine.provision('lossy', 10);
    await engine.faults({ kind: 'lose-answer', amount: 25 });
    await engine.untilRun(run, 'done');
    await engine.expectExactlyWanted(made);
  });

  it('waits out a provider that is slow to answer, refuses, and is killed', async () => {
    engine.startWorker();
    const { run, environment: made } = await engine.provision('patient', 10);
    await engine.untilWorking(run, 'host make');
    await engine.faults({ kind: 'throttle' });
    await expect
      .poll(
        async () =>
          (
            await engine.app.db.row<{ n: number }>('SELECT MAX(attempt) AS n FROM step WHERE run_id = ?', [
              run,
            ])
          )?.n,
        { timeout: 20_000 },
      )
      .toBeGreaterThan(0);
    await engine.faults();
    await engine.kill(engine.members.get('provider'));
    await expect
      .poll(() =>
        engine
          .provider()
          .signIn()
          .then(
            () => 'in',
            () => 'out',
          ),
      )
      .toBe('out');
    await engine.startStandin('provider');
    await engine.untilRun(run, 'done');
    await engine.expectExactlyWanted(made);
  });

  it('goes on after its database was killed in the middle', async () => {
    const worker = engine.startWorker();
    const { run, environment: made } = await engine.provision('sturdy', 10);
    await engine.untilWorking(run, 'host make');
    await engine.kill(engine.members.get('database'));
    expect(await engine.runState(run)).toBeUndefined();
    await engine.startDatabase();
    await engine.untilRun(run, 'done');
    expect(worker.gone).toBeFalsy();
    await engine.expectExactlyWanted(made);
  });

  it('waits for a database that is down when it begins', async () => {
    await engine.kill(engine.members.get('database'));
    const worker = engine.startWorker();
    await expect.poll(() => worker.tail(), { timeout: 20_000 }).toContain('the database does not answer');
    expect(worker.gone).toBeFalsy();
    await engine.startDatabase();
    const { run } = await engine.provision('late', 4);
    await engine.untilRun(run, 'done');
  });

  it('shares its queue between two workers, and keeps to the limit', async () => {
    const workers = [engine.startWorker(), engine.startWorker()];
    const made = [await engine.provision('left', 12), await engine.provision('right', 12)];
    let most = 0;
    const watching = setInterval(() => {
      void engine.app.db
        .row<{ n: number }>("SELECT COUNT(*) AS n FROM step WHERE state = 'working' AND run_id = ?", [
          made[0]?.run ?? '',
        ])
        .then((row) => (most = Math.max(most, row?.n ?? 0)))
        .catch(() => undefined);
    }, 20);
    for (const { run } of made) await engine.untilRun(run, 'done');
    clearInterval(watching);
    expect(most).toBeGreaterThan(1);
    expect(most).toBeLessThanOrEqual(5);
    for (const one of made) await engine.expectExactlyWanted(one.environment);
    for (const worker of workers) {
      worker.child.kill('SIGTERM');
      expect(await worker.exited).toBe(0);
    }
  });

  it('has metered every host from the moment it was there, each state once', async () => {
    engine.startWorker();
    const gaps = async (): Promise<number> => {
      const row = await engine.app.db.row<{ n: number }>(
        `SELECT COUNT(*) AS n FROM resource r WHERE r.kind = 'host' AND r.ref IS NOT NULL AND NOT EXISTS (
           SELECT 1 FROM meter_interval i WHERE i.ref = r.ref AND i.meter = 'host')`,
      );
      return row?.n ?? -1;
    };
    await expect.poll(gaps, { timeout: 20_000 }).toBe(0);
    const doubled = await engine.app.db.rows(
      `SELECT a.ref FROM meter_interval a JOIN meter_interval b ON a.ref = b.ref AND a.meter = b.meter AND a.id < b.id
       WHERE a.from_at < IFNULL(b.to_at, 9e15) AND b.from_at < IFNULL(a.to_at, 9e15)`,
    );
    expect(doubled).toEqual([]);
  });
});
