import Ajv2020 from 'ajv/dist/2020';
import { parse } from 'yaml';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Difference, OriginView, TemplateFile, WholeTemplate } from '../../src/contract';
import { SHARED_OFFICE, SHARED_OFFICE_LATER } from '../../src/demo/templates';
import { begin, openWorld, provisionFor, type World } from './setup/world';

const BRANCH = `# ours
name: Branch office
naming: '{customer}-{environment}{counter:2}'
inputs:
  - key: tellers
    title: Tellers
    type: count
    most: 40
    usual: 2
pools:
  - role: desks
    image: Ostrel 12 multi-user
    people: =people
`.replace('people: =people\n', 'people: =people\n    diskGiB: =tellers * 64\n');

describe('templates', { timeout: 90_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('templates');
  });
  afterAll(() => world.close());

  const draft = (text: string, before: number, more: object = {}, code = 'branch') =>
    world.call('ida', 'PUT', `/templates/${code}/draft`, { body: { text, before, ...more } });
  const read = async (code = 'branch') =>
    (await world.call('ida', 'GET', `/templates/${code}`)).body as unknown as WholeTemplate;
  const publish = (
    text: string,
    note: string,
    more: object = {},
    code = 'branch',
    who: 'ida' | 'jonah' = 'ida',
  ) => world.call(who, 'POST', `/templates/${code}/revisions`, { body: { text, note, ...more } });

  it('keep a draft as it was typed, whole or not, and say what is wrong with it', async () => {
    const kept = await draft('name: Half\npools: [', 0);
    expect(kept.status).toBe(200);
    expect(kept.body).toMatchObject({ version: 1, faults: [{ line: expect.any(Number) as number }] });
    expect(await read()).toMatchObject({
      revision: 0,
      text: '',
      draft: { text: 'name: Half\npools: [' },
      draftVersion: 1,
      hasDraft: true,
    });
    expect((await world.call('ida', 'GET', '/customers/SVG/facts?site=KQ&template=branch')).status).toBe(404);
  });

  it('do not write over what somebody else has kept meanwhile', async () => {
    expect((await draft(BRANCH, 0)).status).toBe(409);
    const both = await Promise.all([draft(BRANCH, 1), draft(`${BRANCH}# mine\n`, 1)]);
    expect(both.map(({ status }) => status).sort()).toEqual([200, 409]);
  });

  it('are of one owner, however many publish the first at once', async () => {
    for (const code of ['meet-a', 'meet-b', 'meet-c']) {
      const both = await Promise.all([
        publish(BRANCH, 'for everyone', {}, code),
        publish(BRANCH.replace('Branch office', 'Only theirs'), 'for one', { owner: 'SVG' }, code),
      ]);
      expect(both.map(({ status }) => status).sort()).toEqual([201, 409]);
      expect((await read(code)).revisions).toHaveLength(1);
    }
  });

  it('are published by revision, with what is new, and the draft is over', async () => {
    expect((await publish('name: x', 'broken')).status).toBe(422);
    expect((await publish(BRANCH, '')).status).toBe(422);
    expect((await publish(BRANCH, 'the first')).body).toMatchObject({ revision: 1 });
    expect((await publish(BRANCH.replace('usual: 2', 'usual: 3'), 'three tellers')).body).toMatchObject({
      revision: 2,
    });
    const now = await read();
    expect(now).toMatchObject({ revision: 2, draft: null, note: 'three tellers', name: 'Branch office' });
    // What a draft calls it is told once it is published.
    expect((await draft(BRANCH.replace('Branch office', 'Renamed'), now.draftVersion)).status).toBe(200);
    expect((await read()).name).toBe('Branch office');
    expect((await world.call('ida', 'DELETE', '/templates/branch/draft')).status).toBe(204);
    expect(now.revisions.map(({ revision, note }) => [revision, note])).toEqual([
      [2, 'three tellers'],
      [1, 'the first'],
    ]);
    expect((await world.call('ida', 'GET', '/templates/branch/revisions/1')).body.text).toBe(BRANCH);
    expect((await world.call('ida', 'GET', '/templates/branch/revisions/9')).status).toBe(404);
  });

  it('get each revision a number of its own when two publish at once', async () => {
    const made = await Promise.all(
      ['a', 'b', 'c'].map((note) => publish(`${BRANCH}# ${note}\n`, note, {}, 'crowd')),
    );
    expect(made.map(({ body }) => body.revision).sort()).toEqual([1, 2, 3]);
  });

  it('give a draft up, and with it what was never published', async () => {
    await draft(BRANCH, 0, {}, 'thought');
    expect((await world.call('ida', 'DELETE', '/templates/thought/draft')).status).toBe(204);
    expect((await world.call('ida', 'GET', '/templates/thought')).status).toBe(404);
    expect((await world.call('ida', 'DELETE', '/templates/thought/draft')).status).toBe(404);
  });

  it('of one customer are for nobody else, and seen by nobody out of reach', async () => {
    expect((await publish(BRANCH, 'own', { owner: 'CAO' }, 'clinics')).status).toBe(201);
    expect((await read('clinics')).owner).toBe('CAO');
    const others = await world.call('ida', 'GET', '/customers/MHP/facts?site=KQ&template=clinics');
    expect(others.status).toBe(404);
    expect((await world.call('ida', 'GET', '/customers/CAO/facts?site=KQ&template=clinics')).status).toBe(
      200,
    );
    // Jonah reaches SVG and FPS alone.
    for (const [method, path] of [
      ['GET', '/templates/clinics'],
      ['GET', '/templates/clinics/revisions/1'],
      ['GET', '/templates/clinics/file'],
      ['GET', '/templates/clinics/environments'],
      ['DELETE', '/templates/clinics/draft'],
    ] as const)
      expect([path, (await world.call('jonah', method, path)).status]).toEqual([path, 404]);
    const list = await world.call('jonah', 'GET', '/templates');
    expect(list.text).not.toContain('clinics');
    for (const owner of ['', 'CAO', 'FPS']) {
      const taken = await publish(BRANCH, 'mine now', { owner }, 'clinics', 'jonah');
      expect([owner, taken.status, taken.text.includes('CAO')]).toEqual([owner, 409, false]);
    }
    expect((await publish(BRANCH, 'x', { owner: 'CAO' }, 'fresh', 'jonah')).status).toBe(404);
    // Two of the customers whose hosts could meet are out of reach: that they are there is not told.
    const alike = BRANCH.replace('{customer}-', 'PC-');
    const told = await Promise.all(
      (['ida', 'jonah'] as const).map((who) => publish(alike, 'x', { owner: '' }, 'alike', who)),
    );
    // What is for everyone is published by who reaches everyone.
    expect(told.map(({ status }) => status)).toEqual([422, 403]);
    const [toIda, toJonah] = told.map(({ text }) => text);
    expect(toIda).toMatch(/one name, [A-Z]{3} and [A-Z]{3}: say/);
    expect(toJonah).not.toMatch(/[A-Z]{3} and [A-Z]{3}/);
    // The database itself refuses a row that would make one customer's environment of another's template.
    const { environment } = await provisionFor(world, 'MHP', 'watch', 4, 'KQ');
    await expect(
      world.app.db.write(
        "UPDATE environment SET template_code = 'clinics', revision = 1, template_owner = (SELECT customer_id FROM template WHERE code = 'clinics') WHERE id = ?",
        [environment],
      ),
    ).rejects.toThrow();
  });

  it('are as the published JSON Schema says', async () => {
    const { body, status } = await world.call('ida', 'GET', '/templates.schema.json');
    expect(status).toBe(200);
    const check = new Ajv2020({ strict: false, validateFormats: false }).compile(body);
    expect([check(parse(BRANCH)), check.errors]).toEqual([true, null]);
    expect(check(parse(BRANCH.replace('pools:', 'pulls:')))).toBe(false);
  });

  it('go into a file with their images, and come back from it', async () => {
    const { text } = await world.call('ida', 'GET', '/templates/branch/file');
    const send = async (file: string, query: string) =>
      (await world.call('ida', 'POST', `/templates/file?${query}`, { yaml: file }))
        .body as unknown as TemplateFile;
    expect(await send(text, 'keep=check')).toMatchObject({
      kept: false,
      templates: [{ code: 'branch', outcome: 'same', revision: 2 }],
      images: [{ code: 'Ostrel 12 multi-user', outcome: 'here' }],
      faults: [],
    });
    const other = text
      .replace('code: branch', 'code: branch-copy')
      .replace('three tellers', 'from elsewhere');
    expect((await send(other, 'keep=check')).templates).toMatchObject([{ outcome: 'new', revision: 1 }]);
    expect((await world.call('ida', 'GET', '/templates/branch-copy')).status).toBe(404);
    expect((await send(other, 'keep=all')).kept).toBe(true);
    expect((await read('branch-copy')).note).toBe('from elsewhere');
    // Sent again after it was cut off, nothing is doubled.
    expect((await send(other, 'keep=all')).templates).toMatchObject([{ outcome: 'same', revision: 1 }]);
    const image = `images:
  - { code: stamp, name: Stamp, from: Ostrel 12 multi-user, diskGiB: 96, vcpu: 2, memoryGiB: 8, recipe: "steps:\\n  - check: it starts\\n" }
`;
    const withImage = other
      .replace('code: branch-copy', 'code: stamped')
      .replace('image: Ostrel 12 multi-user', 'image: stamp')
      .replace('images: []\n', image);
    expect((await send(withImage, 'keep=check')).images).toMatchObject([
      { code: 'stamp', outcome: 'missing' },
    ]);
    const taken = await send(withImage, 'keep=all&site=KQ');
    expect(taken.images).toMatchObject([{ code: 'stamp', outcome: 'begun' }]);
    await world.living.untilQuiet();
    const over = await world.call('ida', 'GET', `/parent-runs/${String(taken.run)}`);
    expect(over.body).toMatchObject({ state: 'done', list: [{ about: 'stamp', says: 'is begun' }] });
    expect((await world.call('ida', 'GET', '/images')).text).toContain('"stamp"');
    const bad = await send('templates: [', 'keep=all');
    expect([bad.kept, bad.faults.length > 0]).toEqual([false, true]);
  });
});

describe('an environment and its template', { timeout: 120_000 }, () => {
  let world: World;
  let environment: string;
  beforeAll(async () => {
    world = await openWorld('drift');
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 12, 'KQ'));
  });
  afterAll(() => world.close());

  const path = () => `/customers/SVG/environments/${environment}`;
  const origin = async () =>
    (await world.call('ida', 'GET', `${path()}/template`)).body as unknown as OriginView;
  const differences = async () =>
    (await world.call('ida', 'GET', `${path()}/differences`)).body.differences as unknown as Difference[];
  const change = async (kind: string, input: object) => {
    const begun = await begin(world, 'SVG', kind, input, { environment });
    await world.living.untilQuiet();
    return begun;
  };

  it('is as it was given, with what was filled in', async () => {
    expect(await origin()).toMatchObject({
      template: 'shared-office',
      revision: 1,
      newest: 1,
      inputs: [{ key: 'work', title: 'What they do', value: 'standard' }],
      deviations: [],
      changes: [],
    });
  });

  it('drifts in three ways, each told apart and mended', async () => {
    // From the template: somebody grew the disks.
    await change('grow-disk', { pool: 'desks', diskGiB: 200 });
    expect((await origin()).deviations).toEqual([
      { key: 'desks.diskGiB', pool: 'desks', what: 'Disk', given: '128 GiB', is: '200 GiB' },
    ]);
    expect(await differences()).toEqual([]);
    const used = await world.call('ida', 'GET', '/templates/shared-office/environments');
    expect(used.body.entries).toMatchObject([{ id: environment, deviations: 1, revision: 1 }]);
    // At the provider: somebody switched a host off there.
    const [host] = (await world.port().resources({ customer: 'SVG' })).filter((one) => one.kind === 'host');
    await world.port().act(host?.ref ?? '', host?.version ?? 0, 'power-off', {}, 'by hand');
    await world.living.moveTo(world.clock.at + 10 * 60_000);
    await world.living.job('feed');
    expect(await differences()).toMatchObject([{ attribute: 'power', cause: 'changed there' }]);
    // From what is wanted: a host more was asked for, and its making failed.
    const count = (await world.port().resources({ customer: 'SVG' })).filter(
      ({ kind }) => kind === 'host',
    ).length;
    await world.living.faults([{ kind: 'fail-host', target: `SVG-CLINIC0${count + 1}`, amount: 50 }]);
    await change('add-hosts', { pool: 'desks', hosts: 1 });
    await world.living.faults([]);
    const both = await differences();
    expect(both.map(({ cause, what }) => [cause, what]).sort()).toEqual([
      ['changed there', 'otherwise'],
      ['not done yet', 'missing'],
    ]);
    await change('mend', {
      differences: both.map(({ key, attribute }) => ({
        key,
        ...(attribute === null ? {} : { attribute }),
        how: 'as wanted',
      })),
    });
    expect(await differences()).toEqual([]);
    expect((await origin()).deviations).toHaveLength(1);
  });

  it('follows a newer revision, and keeps what is to stay otherwise', async () => {
    const published = await world.call('ida', 'POST', '/templates/shared-office/revisions', {
      body: { text: SHARED_OFFICE_LATER, note: 'drives may cross' },
    });
    expect(published.status).toBe(201);
    const behind = await origin();
    expect(behind).toMatchObject({ revision: 1, newest: 2 });
    expect(behind.changes.map(({ what, after }) => [what, after])).toEqual([
      ['Profiles', '15 GiB a person'],
      ['May cross', 'clipboard, printers, drives'],
    ]);
    await change('follow-template', { keep: ['desks.diskGiB'] });
    expect(await origin()).toMatchObject({
      revision: 2,
      changes: [],
      deviations: [{ key: 'desks.diskGiB', given: '128 GiB', is: '200 GiB' }],
    });
    const there = await world.port().resources({ customer: 'SVG' });
    expect(there.find(({ kind }) => kind === 'publication')?.attributes.crosses).toEqual([
      'clipboard',
      'printers',
      'drives',
    ]);
    expect(there.find(({ kind }) => kind === 'share')?.attributes.gib).toBe(180);
    expect(
      (await world.call('ida', 'GET', '/templates/shared-office/environments')).body.entries,
    ).toMatchObject([{ revision: 2 }]);
  });

  it('is put back, which makes its hosts anew with the smaller disk, and can be undone', async () => {
    const { run } = await change('follow-template', {});
    expect(run).toBeTruthy();
    expect((await origin()).deviations).toEqual([]);
    const disks = (await world.port().resources({ customer: 'SVG' }))
      .filter(({ kind }) => kind === 'host')
      .map(({ attributes }) => attributes.diskGiB);
    expect(new Set(disks)).toEqual(new Set([128]));
    expect(await differences()).toEqual([]);
    const refused = await world.call('ida', 'POST', `${path()}/changes/follow-template/proposal`, {
      body: { input: {} },
    });
    expect(refused.text).toContain('it is as wanted already');
  });

  it('tells nothing of where the MSP’s own came from', async () => {
    expect(SHARED_OFFICE).toContain('name: Shared office');
    const shelves = await world.call('ida', 'GET', '/customers/MSP/environments');
    expect(shelves.status).toBe(200);
  });
});
