import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Host, Life, ProposalView, Proof, Retained } from '../../src/contract';
import { DESKS_AND_LAB } from '../../src/demo/templates';
import { peopleOf } from '../../src/demo/people';
import { notOnce } from '../chaos/audit';
import { begin, change, changePath, openWorld, provisionFor, raise, type World } from './setup/world';

const DAY = 86_400_000;

/** A plan promises that data are kept for so many days after an environment or a pool is retired. */
describe('data of what is retired', { timeout: 180_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('retained');
    // Nobody is signed in for a year.
    await world.app.db.write("UPDATE plan_version SET terms = JSON_SET(terms, '$.retentionDays', 12)");
  });
  afterAll(() => world.close());

  const retained = async (who: 'ida' | 'jonah' = 'ida', code = 'SVG'): Promise<Retained[]> =>
    (await world.call(who, 'GET', `/customers/${code}/retained`)).body.entries as Retained[];
  const settled = async (): Promise<void> => {
    await world.living.untilQuiet();
    await world.living.job('feed');
    await world.living.untilQuiet();
  };
  const shares = async (): Promise<string[]> =>
    (await world.port().resources({ customer: 'SVG' }))
      .filter(({ kind }) => kind === 'share')
      .map(({ name }) => name)
      .sort();
  const proofOf = async (environment: string): Promise<Proof> =>
    (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/proof`))
      .body as unknown as Proof;
  const faults = (): Promise<readonly string[]> =>
    notOnce({ app: world.app, provider: () => world.port(), inside: world.inside }, 'SVG');

  const dropUntyped = async (id: string, environment: string): Promise<{ status: number }> => {
    const path = changePath('SVG', 'drop-retained', environment);
    const input = { retained: [id] };
    const { body } = await world.call('ida', 'POST', `${path}/proposal`, { body: { input } });
    return world.call('ida', 'POST', path, { body: { input, fingerprint: body.fingerprint, reason: 'no' } });
  };

  it('stay on their share: all else goes, its addresses and names with it, and the proof says until when', async () => {
    const { environment } = await provisionFor(world, 'SVG', 'clinic', 4, 'KQ');
    await settled();
    const { proposal } = (
      await world.call('ida', 'POST', `/customers/SVG/environments/${environment}/changes/retire/proposal`, {
        body: { input: {} },
      })
    ).body as never as { proposal: { checks: { key: string; says: string }[]; destroyed: string[] } };
    expect(proposal.destroyed).toEqual([]);
    expect(proposal.checks.find(({ key }) => key === 'retained')?.says).toMatch(
      /^profiles on a share of \d+ GiB until \d+ \w+ 2026, as plan Harbour says$/,
    );
    const { run } = await begin(world, 'SVG', 'retire', {}, { environment });
    await settled();
    const ended = (await world.call('ida', 'GET', `/customers/SVG/runs/${run}`)).body as never as {
      state: string;
      graph: { action: string; subject: string; endedAt: number }[];
    };
    expect(ended.state).toBe('done');
    // Profiles are written to until the last host has gone.
    const at = (action: string, of: RegExp): number[] =>
      ended.graph
        .filter((one) => one.action === action && of.test(one.subject))
        .map(({ endedAt }) => endedAt);
    expect(Math.max(...at('remove', /CLINIC/))).toBeLessThanOrEqual(Math.min(...at('retain', /profiles/)));
    expect((await world.port().resources({ customer: 'SVG' })).map(({ kind }) => kind)).toEqual(['share']);
    const [one, ...others] = await retained();
    expect(others).toEqual([]);
    expect(one).toMatchObject({
      environmentId: environment,
      environment: 'clinic',
      there: true,
      holds: expect.stringMatching(/^profiles on a share/),
    });
    expect(one?.until).toBeGreaterThan(world.clock.at + 11 * DAY);
    const proof = await proofOf(environment);
    expect([
      proof.clean,
      proof.rows
        .filter(({ says }) => says !== 'gone')
        .map(({ kind, says, keptUntil, metering }) => [kind, says, keptUntil, metering]),
    ]).toEqual([true, [['share', 'kept', one?.until, false]]]);
    expect(proof.returned.values.every(({ returned }) => returned)).toBe(true);
    // It is no orphan, and it is paid for.
    expect((await world.call('bram', 'GET', '/orphans')).body.orphans).toEqual([]);
    const open = await world.app.db.rows(
      "SELECT meter FROM meter_interval m JOIN customer c ON c.id = m.customer_id WHERE c.code = 'SVG' AND m.to_at IS NULL",
    );
    expect(open).toEqual([{ meter: 'share' }]);
    expect(await faults()).toEqual([]);
    // Nobody else is told of it.
    expect((await world.call('jonah', 'GET', '/customers/MHP/retained')).status).toBe(404);
  });

  it('are not in the way of who comes next', async () => {
    const { environment } = await provisionFor(world, 'SVG', 'two', 4, 'KQ');
    await settled();
    expect(
      (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/differences`)).body
        .differences,
    ).toEqual([]);
    expect(await shares()).toHaveLength(2);
    await begin(world, 'SVG', 'retire', { data: 'destroyed' }, { environment });
    await settled();
    expect(await retained()).toHaveLength(1);
    expect(await shares()).toHaveLength(1);
  });

  it('are in what the customer costs a month, until they are deleted', async () => {
    const monthly = async (): Promise<number> =>
      ((await world.call('ida', 'GET', '/customers/SVG/life')).body as unknown as Life).now.minor;
    const { environment } = await provisionFor(world, 'SVG', 'paid', 40, 'KQ');
    await settled();
    await begin(world, 'SVG', 'retire', {}, { environment });
    await settled();
    const kept = await monthly();
    const id = (await retained()).find((one) => one.environmentId === environment)?.id ?? '';
    const { body } = await world.call(
      'ida',
      'POST',
      `${changePath('SVG', 'drop-retained', environment)}/proposal`,
      {
        body: { input: { retained: [id] } },
      },
    );
    const { monthly: less } = (body.proposal as unknown as ProposalView).impact;
    // More than what the plan's fee includes.
    expect(less.minor).toBeLessThan(0);
    await begin(world, 'SVG', 'drop-retained', { retained: [id] }, { environment });
    await settled();
    expect((await monthly()) - kept).toBe(less.minor);
  });

  it('of those who were in long ago are kept too: no session is remembered, and the making was disturbed', async () => {
    const { environment } = await provisionFor(world, 'SVG', 'old', 4, 'KQ');
    await settled();
    // A step that another run did: this run alone does not say that it was ever whole.
    await world.app.db.write(
      `UPDATE step s JOIN run r ON (r.customer_id, r.id) = (s.customer_id, s.run_id) SET s.state = 'overtaken'
       WHERE r.environment_id = ? AND s.action = 'check'`,
      [environment],
    );
    const { body } = await world.call('ida', 'POST', `${changePath('SVG', 'retire', environment)}/proposal`, {
      body: { input: {} },
    });
    expect(body.proposal.destroyed).toEqual([]);
    await begin(world, 'SVG', 'retire', { data: 'destroyed' }, { environment });
    await settled();
  });

  it('are deleted before their day only once the code is typed, and only where they are', async () => {
    const [one] = await retained();
    const id = one?.id ?? '';
    const { environment } = await provisionFor(world, 'SVG', 'other', 4, 'KQ');
    await settled();
    const elsewhere = await change(world, 'SVG', 'drop-retained', { retained: [id] }, { environment });
    expect([elsewhere.status, elsewhere.text.includes('not kept here')]).toEqual([422, true]);
    const asked = { environment: one?.environmentId ?? '' };
    const untyped = await dropUntyped(id, asked.environment);
    expect(untyped.status).toBe(422);
    await begin(world, 'SVG', 'drop-retained', { retained: [id] }, asked);
    await settled();
    expect(await retained()).toEqual([]);
    expect(await shares()).toEqual(['other desks profiles']);
    // The environment stays retired.
    const gone = (await world.call('ida', 'GET', `/customers/SVG/environments/${asked.environment}`)).body;
    expect(gone.state).toBe('retired');
    const proof = await proofOf(asked.environment);
    expect([proof.clean, proof.rows.every(({ says }) => says === 'gone')]).toEqual([true, true]);
    expect(await faults()).toEqual([]);
  });

  it('go on their day, by themselves, once', async () => {
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/environments')).body as unknown as {
      entries: { id: string; name: string }[];
    };
    const environment = entries.find(({ name }) => name === 'other')?.id ?? '';
    await begin(world, 'SVG', 'retire', {}, { environment });
    await settled();
    const [one] = await retained();
    await world.living.moveTo((one?.until ?? 0) - 1);
    await world.living.job('retained');
    await settled();
    expect(await retained()).toHaveLength(1);
    await world.living.moveTo((one?.until ?? 0) + 1);
    await world.living.job('retained');
    await world.living.job('retained');
    await settled();
    expect([await retained(), await shares()]).toEqual([[], []]);
    const runs = await world.app.db.rows("SELECT COUNT(*) AS n FROM run WHERE kind = 'drop-retained'");
    expect(runs).toEqual([{ n: 3 }]);
  });

  it('are not swept away where the provider leaves their tags as they were', async () => {
    const { environment } = await provisionFor(world, 'SVG', 'stubborn', 4, 'KQ');
    await settled();
    const { port } = await world.app.providers.at('KQ');
    const tag = vi.spyOn(port, 'tag').mockResolvedValue();
    await begin(world, 'SVG', 'retire', {}, { environment });
    await settled();
    expect(tag).toHaveBeenCalled();
    tag.mockRestore();
    expect(await shares()).toEqual(['stubborn desks profiles']);
    const [one] = await retained();
    expect([one?.there, (await proofOf(environment)).clean]).toEqual([true, true]);
    await begin(world, 'SVG', 'drop-retained', { retained: [one?.id ?? ''] }, { environment });
    await settled();
    expect([await retained(), await shares()]).toEqual([[], []]);
  });

  it('of nobody are not kept: an environment that was never made goes with its share', async () => {
    await world.living.faults(
      ['01', '02', '03'].map((n) => ({ kind: 'fail-host', target: `SVG-NEVER${n}`, amount: 99 })),
    );
    const built = await begin(world, 'SVG', 'provision', {
      environment: 'never',
      people: 4,
      template: 'shared-office',
      site: 'KQ',
    });
    await world.living.untilQuiet();
    await world.living.faults([]);
    expect(await shares()).toEqual(['never desks profiles']);
    await begin(world, 'SVG', 'retire', {}, { environment: built.environment });
    await settled();
    expect([await retained(), await shares()]).toEqual([[], []]);
  });

  it('stay where one pool of several goes, and no difference is seen', async () => {
    await world.call('ida', 'POST', '/templates/desks-and-lab/revisions', {
      body: { text: DESKS_AND_LAB, note: 'first' },
    });
    const { environment } = await begin(world, 'SVG', 'provision', {
      environment: 'works',
      people: 8,
      template: 'desks-and-lab',
      site: 'KQ',
    });
    await settled();
    await begin(world, 'SVG', 'retire-pool', { pool: 'lab' }, { environment });
    await settled();
    expect(await shares()).toEqual(['works desks profiles', 'works lab profiles']);
    expect((await retained()).map(({ name }) => name)).toEqual(['works lab profiles']);
    expect(
      (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/differences`)).body
        .differences,
    ).toEqual([]);
    expect((await world.call('bram', 'GET', '/orphans')).body.orphans).toEqual([]);
    // Retired as a whole, what was kept before stays kept, until its own day.
    const [lab] = await retained();
    await world.living.moveTo(world.clock.at + 3 * DAY);
    await begin(world, 'SVG', 'retire', {}, { environment });
    await settled();
    const days = (await retained()).map(({ name, until }) => [name, until - (lab?.until ?? 0) >= 3 * DAY]);
    expect(days).toEqual([
      ['works lab profiles', false],
      ['works desks profiles', true],
    ]);
  });

  it('of desktops of people’s own: disks stay, each until the day that was promised for it', async () => {
    const text =
      "name: Own\nnaming: '{customer}-{environment}{counter:2}'\npools:\n  - role: own\n    kind: personal\n    image: Ostrel 12 multi-user\n    people: =people\n    ownDiskGiB: 48\n    assign: ahead\n";
    await world.call('ida', 'POST', '/templates/own-kept/revisions', { body: { text, note: 'first' } });
    await raise(world, 'SVG', 'personal', 10);
    const asked = { environment: 'own', people: 3, template: 'own-kept', site: 'KQ' };
    const { environment } = await begin(world, 'SVG', 'provision', asked);
    await settled();
    const [ann, ben] = peopleOf('SVG', 2).map(({ account }) => account) as [string, string];
    await begin(world, 'SVG', 'assign-desktops', { pool: 'own', people: [ann, ben] }, { environment });
    await settled();
    const { entries } = (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`))
      .body;
    const host = (entries as Host[]).find(({ person }) => person === ann)?.id;
    const archived = { hosts: [host], data: 'archived', host: 'goes' };
    await begin(world, 'SVG', 'end-desktops', archived, { environment });
    await settled();
    await world.living.moveTo(world.clock.at + 3 * DAY);
    await begin(world, 'SVG', 'retire', {}, { environment });
    await settled();
    const disks = (await retained()).filter(({ kind }) => kind === 'personal-disk');
    expect(disks.map(({ holds }) => holds)).toEqual([`the disk of ${ann}`, `the disk of ${ben}`]);
    expect((disks[1]?.until ?? 0) - (disks[0]?.until ?? 0)).toBeGreaterThanOrEqual(3 * DAY);
    expect(
      (await world.port().resources({ customer: 'SVG' })).filter(({ kind }) => kind === 'personal-disk'),
    ).toHaveLength(2);
    expect(await faults()).toEqual([]);
  });
});
