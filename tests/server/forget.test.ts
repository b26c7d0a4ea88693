import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { peopleOf } from '../../src/demo/people';
import { begin, openWorld, type World } from './setup/world';

/* When the days are over that a plan promised, nobody is named any more who had a desktop of their own. */

describe('who had a desktop', { timeout: 90_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('forget');
  });
  afterAll(() => world.close());

  /** What is the MSP's own record stays: the trail, and answers that a repeated request gets for a day. */
  const KEPT = new Set(['trail', 'idempotency']);

  it('is said nowhere but on the trail, once data were kept as long as was promised', async () => {
    const [ann = '', ben = ''] = peopleOf('SVG', 4).map(({ account }) => account);
    const text =
      "name: Own\nnaming: '{customer}-{environment}{counter:2}'\npools:\n  - role: own\n    kind: personal\n    image: Ostrel 12 multi-user\n    people: =people\n    ownDiskGiB: 32\n";
    await world.call('ida', 'POST', '/templates/own-svg/revisions', {
      body: { text, owner: 'SVG', note: 'only theirs' },
    });
    const { environment } = await begin(world, 'SVG', 'provision', {
      environment: 'own',
      template: 'own-svg',
      people: 2,
      site: 'KQ',
    });
    await world.living.untilQuiet();
    const change = async (kind: string, input: object) => {
      await begin(world, 'SVG', kind, input, { environment });
      await world.living.untilQuiet();
    };
    await change('assign-desktops', { pool: 'own', people: [ann, ben] });
    const hosts = (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`)).body
      .entries as unknown as { id: string; person: string }[];
    const [first] = hosts;
    await change('rebuild-desktops', { hosts: [first?.id ?? ''] });
    await change('keep-desktops', { hosts: [first?.id ?? ''] });
    const named = async (): Promise<string[]> => {
      const tables = await world.app.db.rows<{ name: string }>(
        "SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' ORDER BY table_name",
      );
      const found: string[] = [];
      for (const { name } of tables) {
        const rows = JSON.stringify(await world.app.db.rows(`SELECT * FROM \`${name}\``));
        if (rows.includes(ann) || rows.includes(ben)) found.push(name);
      }
      return found;
    };
    expect(await named()).toEqual(expect.arrayContaining(['intent', 'person', 'resource', 'run']));
    await change('retire', {});
    const left = await world.call('bram', 'POST', '/customers/SVG/leave', { body: { code: 'SVG' } });
    expect(left.status).toBe(201);
    await world.living.untilQuiet();
    for (const job of ['feed', 'leaving']) await world.living.job(job);
    await world.app.db.write("UPDATE plan_version SET terms = JSON_SET(terms, '$.retentionDays', 1)");
    await world.living.moveTo(world.clock.at + 2 * 24 * 3_600_000);
    for (const job of ['sessions', 'retention', 'sweep']) await world.living.job(job);
    expect((await named()).filter((name) => !KEPT.has(name))).toEqual([]);
    // What was a template of theirs is not shown any more, and its text is gone.
    expect((await world.call('ida', 'GET', '/templates/own-svg')).status).toBe(404);
    expect((await world.call('ida', 'GET', '/templates')).text).not.toContain('own-svg');
    expect(
      await world.app.db.rows("SELECT text FROM template_revision WHERE template_code = 'own-svg'"),
    ).toEqual([{ text: '' }]);
  });
});
