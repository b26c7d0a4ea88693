import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type {
  GrantsFile,
  Group,
  KeptOut,
  Offered,
  Outlook,
  Person,
  PersonDetail,
  WhyLinkTold,
} from '../../src/contract';
import { peopleOf } from '../../src/demo/people';
import { followDirectories } from '../../src/server/directory-link';
import { keepSeats } from '../../src/server/grants';
import { knownPeople, takePeople } from '../../src/server/people';
import {
  begin,
  change,
  fillDirectory,
  linkDirectory,
  openWorld,
  raise,
  type Called,
  type World,
} from './setup/world';

const DAY = 86_400_000;

/** SVG's twelve: vets and nurses are clinical staff, locums stand outside what is read. Twelve desks are for them. */
describe('grants', { timeout: 120_000 }, () => {
  let world: World;
  let environment = '';
  const known = peopleOf('QFB', 9);
  const account = (n: number): string => known[n]?.account ?? '';
  const entry = (n: number, groups: string[], over: object = {}): object => ({
    ...known[n],
    unit: 'People',
    groups,
    disabled: false,
    ...over,
  });
  const EVERYBODY = [
    entry(0, ['Binders']),
    entry(1, ['Binders']),
    entry(2, ['Gilders']),
    ...[3, 4, 5, 6, 7, 8].map((n) => entry(n, ['Office'])),
  ];
  const fill = (people: readonly object[]): Promise<unknown> =>
    fillDirectory(world, 'QFB', people, [
      { name: 'Craft', unit: 'Groups', groups: ['Binders', 'Gilders'] },
      { name: 'Binders', unit: 'Groups' },
      { name: 'Gilders', unit: 'Groups', groups: ['Craft'] },
      { name: 'Office', unit: 'Groups' },
      { name: 'Guests', unit: 'Visitors' },
      { name: '=1+1', unit: 'Groups' },
    ]);
  const read = async <Answer>(path: string): Promise<Answer> =>
    (await world.call('ida', 'GET', `/customers/QFB${path}`)).body as unknown as Answer;
  const follow = async (): Promise<void> => {
    world.clock.at += 61_000;
    await followDirectories(world.app);
    await keepSeats(world.app);
  };
  const groupId = async (name: string): Promise<string> =>
    (await read<{ entries: Group[] }>('/groups')).entries.find((one) => one.name === name)?.id ?? '';
  const personId = async (n: number): Promise<string> =>
    (await read<{ entries: Person[] }>('/people')).entries.find((one) => one.account === account(n))?.id ??
    '';
  const grantOf = (to: string, id: string, over: object = {}): object => ({
    pool: 'desks',
    item: 'Full desktop',
    to,
    id,
    until: null,
    ...over,
  });
  /** Everything that is there for everyone. */
  let EVERYONE: object[] = [];
  const grant = async (add: object[], take: object[] = []): Promise<void> => {
    await begin(world, 'QFB', 'grant-items', { add, take }, { environment });
    await world.living.untilQuiet();
  };
  /** Accounts that the provider lets in. */
  const letIn = async (): Promise<string[]> => {
    const [publication] = (await world.port().resources({ customer: 'QFB' })).filter(
      ({ kind }) => kind === 'publication',
    );
    return (publication?.attributes.accounts ?? []) as string[];
  };
  const detail = async (n: number): Promise<PersonDetail> => read(`/people/${await personId(n)}`);
  const why = async (n: number): Promise<WhyLinkTold | undefined> =>
    (
      await read<{ links: WhyLinkTold[] }>(
        `/people/${await personId(n)}/why?environment=${environment}&pool=desks&item=Full%20desktop`,
      )
    ).links.find(({ holds }) => !holds);

  beforeAll(async () => {
    world = await openWorld('grants');
    await fill(EVERYBODY);
    await linkDirectory(world, 'QFB', { units: ['People', 'Groups'], groups: [] });
    const made = await begin(world, 'QFB', 'provision', {
      environment: 'bench',
      template: 'shared-office',
      people: 9,
      site: 'KQ',
      inputs: [{ key: 'work', value: 'standard' }],
    });
    environment = made.environment;
    await world.living.untilQuiet();
    const { entries } = await read<{ entries: Offered[] }>('/items');
    EVERYONE = entries.map(({ item }) => grantOf('everyone', '', { item: item.name }));
  });
  afterAll(() => world.close());

  it('are at first for everyone, and all who have a licence seat are let in', async () => {
    const { entries } = await read<{ entries: Offered[] }>('/items');
    const desktop = entries.find(({ item }) => item.name === 'Full desktop');
    expect(desktop?.grants).toMatchObject([{ to: 'everyone', name: 'All people', people: 9, until: null }]);
    expect((await letIn()).sort()).toEqual(known.map((one) => one.account).sort());
  });

  it('know the groups of the directory, round a circle too, and those outside what is read', async () => {
    const { entries } = await read<{ entries: Group[] }>('/groups');
    expect(entries.map(({ name, direct, people, inScope }) => [name, direct, people, inScope])).toEqual([
      ['=1+1', 0, 0, true],
      ['Binders', 2, 2, true],
      ['Craft', 0, 3, true],
      ['Gilders', 1, 3, true],
      ['Guests', 0, 0, false],
      ['Office', 6, 6, true],
    ]);
    const { entries: members } = await read<{ entries: { account: string; way: string[] }[] }>(
      `/groups/${await groupId('Craft')}/members`,
    );
    expect(members.find((one) => one.account === account(0))?.way).toEqual(['Binders', 'Craft']);
  });

  it('tell before what they change, person by person', async () => {
    const { body } = await world.call(
      'ida',
      'POST',
      `/customers/QFB/environments/${environment}/grants/outlook`,
      {
        body: { add: [grantOf('group', await groupId('Craft'))], take: EVERYONE },
      },
    );
    expect(body as unknown as Outlook).toMatchObject({
      gain: 0,
      lose: 9,
      out: 6,
      pools: [{ entitled: 3, licences: 9, short: 0 }],
    });
    expect((await letIn()).length).toBe(9);
  });

  it('to a group reach all who are in it through others, and nobody else any more', async () => {
    await grant([grantOf('group', await groupId('Craft'))], EVERYONE);
    expect((await letIn()).sort()).toEqual([account(0), account(1), account(2)].sort());
    expect((await detail(0)).items).toMatchObject([
      {
        item: { name: 'Full desktop', pool: 'desks' },
        through: [{ to: 'group', way: ['Binders', 'Craft'] }],
        missing: null,
      },
    ]);
    expect((await detail(4)).items).toEqual([]);
    expect(await why(4)).toMatchObject({
      link: 'grant',
      says: `granted to Craft, and ${account(4)} is not in it`,
      mend: 'grant',
    });
  });

  it('to one person end when they were said to', async () => {
    await grant([grantOf('person', await personId(4), { until: world.clock.at + DAY })]);
    expect(await letIn()).toContain(account(4));
    world.clock.at += DAY;
    await keepSeats(world.app);
    expect(await letIn()).not.toContain(account(4));
    expect((await why(4))?.says).toContain('which is over');
  });

  it('follow who comes to a group and who leaves the directory, and give a returner what was theirs', async () => {
    await fill([
      entry(0, ['Office']),
      entry(5, ['Gilders']),
      ...EVERYBODY.filter((_one, n) => n !== 0 && n !== 5),
    ]);
    await follow();
    expect((await letIn()).sort()).toEqual([account(1), account(2), account(5)].sort());
    const id = await personId(2);
    await fill(EVERYBODY.map((one, n) => (n === 2 ? entry(2, ['Gilders'], { disabled: true }) : one)));
    await follow();
    expect((await letIn()).sort()).toEqual([account(0), account(1)].sort());
    expect(await read<PersonDetail>(`/people/${id}`)).toMatchObject({
      leftAt: expect.any(Number),
      items: [],
    });
    await fill(EVERYBODY);
    await follow();
    expect(await letIn()).toContain(account(2));
    expect(await personId(2)).toBe(id);
  });

  it('to a group outside what is read are refused, with where it stands', async () => {
    const refused = await change(
      world,
      'QFB',
      'grant-items',
      { add: [grantOf('group', await groupId('Guests'))] },
      { environment },
    );
    expect(refused.status).toBe(422);
    expect(refused.text).toContain('Guests stands in Visitors, outside what is read');
  });

  it('tell of a whole group who would not get in, and why', async () => {
    const out = await read<KeptOut>(
      `/groups/${await groupId('Office')}/why?environment=${environment}&pool=desks&item=Full%20desktop`,
    );
    expect([out.people, out.getIn, out.keptOut.length]).toEqual([6, 0, 6]);
    expect(out.keptOut[0]?.link.says).toContain('granted to Craft');
  });

  it('are undone like any change', async () => {
    await grant(EVERYONE);
    expect(await letIn()).toHaveLength(9);
    const page = await read<{ version: number }>(`/environments/${environment}`);
    await begin(world, 'QFB', 'undo', { version: page.version - 1 }, { environment });
    await world.living.untilQuiet();
    expect(await letIn()).toHaveLength(3);
  });

  it('come back at the provider when somebody changes them past us', async () => {
    const [publication] = (await world.port().resources({ customer: 'QFB' })).filter(
      ({ kind }) => kind === 'publication',
    );
    if (!publication) throw new Error('there is no publication');
    await world.port().change(publication.ref, publication.version, { grants: ['Full desktop: everyone'] });
    await world.living.untilQuiet();
    const { differences } = await read<{ differences: { attribute: string; says: string }[] }>(
      `/environments/${environment}/differences`,
    );
    expect(differences.find(({ attribute }) => attribute === 'grants')?.says).toMatch(/more.* of its grants/);
  });

  it('are looked at again though taking people in breaks off after its first part', async () => {
    const scope = await world.inside('QFB');
    const version = async (): Promise<number> =>
      (await world.app.db.row<{ v: number }>("SELECT people_version AS v FROM customer WHERE code = 'QFB'"))
        ?.v ?? 0;
    const before = await version();
    const known = await knownPeople(world.app.db, scope);
    const leaver = known.find((one) => one.account === account(8));
    if (!leaver) throw new Error('nobody is left to leave');
    let parts = 0;
    const dying = takePeople(
      world.app,
      scope,
      {
        added: [{ ...leaver, id: 'new', account: 'newcomer', disabled: false }],
        changed: [],
        returned: [],
        left: [leaver],
        same: 0,
        unfit: [],
      },
      async () => {
        parts += 1;
        if (parts > 1) throw new Error('the process ends here');
      },
    );
    await expect(dying).rejects.toThrow('the process ends here');
    expect(await version()).toBe(before + 1);
    await keepSeats(world.app);
    expect(await letIn()).not.toContain(account(8));
  });

  it('are of a template’s making where an item is for a group that is filled in per customer', async () => {
    const text = `name: Craft rooms
naming: '{customer}-{role}{counter:2}'
inputs:
  - key: crafts
    title: Who are the crafts?
    type: group
pools:
  - role: rooms
    image: Ostrel 12 multi-user
    people: =people
    items:
      - name: Full desktop
        kind: desktop
        for: =crafts
`;
    const made = await world.call('ida', 'POST', '/templates/crafts/revisions', {
      body: { text, note: 'for one group' },
    });
    expect(made.status).toBe(201);
    const wish = (value: string): object => ({
      environment: 'crafts',
      template: 'crafts',
      people: 3,
      site: 'KQ',
      inputs: [{ key: 'crafts', value }],
    });
    const strange = (await world.call('ida', 'GET', '/customers/SVG/people')).body.entries as Person[];
    const refused = await change(world, 'QFB', 'provision', wish(strange[0]?.id ?? ''));
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([
      422,
      expect.stringContaining('is no group of QFB'),
    ]);
    const outside = await change(world, 'QFB', 'provision', wish(await groupId('Guests')));
    expect(JSON.stringify(outside.body)).toContain('outside what is read');
    await raise(world, 'QFB', 'hosts', 10);
    const begun = await begin(world, 'QFB', 'provision', wish(await groupId('Craft')));
    await world.living.untilQuiet();
    const { entries } = await read<{ entries: Offered[] }>(`/items?environment=${begun.environment}`);
    expect(
      entries.map(({ item, grants }) => [item.name, grants.map(({ to, name }) => `${to} ${name}`)]),
    ).toEqual([['Full desktop', ['group Craft']]]);
    await begin(world, 'QFB', 'retire', {}, { environment: begun.environment });
    await world.living.untilQuiet();
  });

  describe('from a file', () => {
    const file = (csv: string, code = 'QFB'): Promise<Called> =>
      world.call('ida', 'POST', `/customers/${code}/environments/${environment}/grants/file`, { csv });

    it('are told before anything is done, and what names nobody is left out by line', async () => {
      const { body, status } = await file(
        [
          'pool,item,to,name,until',
          'desks,Murrelmail,group,Gilders,',
          `desks,Murrelmail,person,${account(3)},2027-01-31`,
          'desks,Murrelmail,group,Nobodies,',
          'desks,Murrelmail,person,nobody.known,',
        ].join('\r\n'),
      );
      expect(status).toBe(200);
      const found = body as unknown as GrantsFile;
      expect(found.add.map(({ to, name, people, until }) => [to, name, people, until])).toEqual([
        ['group', 'Gilders', expect.any(Number), null],
        ['person', `${known[3]?.given} ${known[3]?.family}`, 1, Date.UTC(2027, 1, 1)],
      ]);
      expect(found.bad).toEqual([
        { line: 4, reason: 'there is no group "Nobodies"' },
        { line: 5, reason: 'nobody.known is not in the directory' },
      ]);
      const { entries } = await read<{ entries: Offered[] }>('/items');
      expect(entries.flatMap(({ grants }) => grants).some(({ name }) => name === 'Gilders')).toBe(false);
    });

    it('come back as they were written, and no spreadsheet reckons a group’s name', async () => {
      await grant([grantOf('group', await groupId('=1+1'), { item: 'Murrelmail' })]);
      const written = await world.call('ida', 'GET', `/customers/QFB/environments/${environment}/grants.csv`);
      expect(written.headers.get('content-type')).toMatch(/^text\/csv/);
      expect(written.text).toContain("Murrelmail,group,'=1+1,");
      const { body } = await file(written.text);
      expect(body).toMatchObject({ add: [], bad: [] });
      expect((body as unknown as GrantsFile).same).toBe(written.text.trim().split('\r\n').length - 1);
    });

    it.each([
      ['', 'the file is empty'],
      ['account,item\r\n', 'missing: pool, to, name'],
      ['pool,item,to,name\r\n"desks,', 'Quote Not Closed'],
    ])('are not read of %j', async (csv, says) => {
      const { status, body } = await file(csv);
      expect([status, JSON.stringify(body)]).toEqual([422, expect.stringContaining(says)]);
    });

    it('know no other customer’s environment or people', async () => {
      expect((await file('pool,item,to,name\r\n', 'SVG')).status).toBe(404);
      const [stranger] = peopleOf('SVG', 1);
      const { body } = await file(`pool,item,to,name\r\ndesks,Murrelmail,person,${stranger?.account ?? ''}`);
      expect((body as unknown as GrantsFile).bad).toHaveLength(1);
    });
  });

  it('are one customer’s: no other’s group or person is granted, shown or explained', async () => {
    const other = (await world.call('ida', 'GET', '/customers/SVG/people')).body.entries as Person[];
    const strange = other[0]?.id ?? '';
    const refused = await change(
      world,
      'QFB',
      'grant-items',
      { add: [grantOf('person', strange)] },
      { environment },
    );
    expect(refused.status).toBe(422);
    const group = await groupId('Craft');
    const asked = `environment=${environment}&pool=desks&item=Full%20desktop`;
    for (const path of [
      `/customers/QFB/people/${strange}`,
      `/customers/QFB/people/${strange}/why?${asked}`,
      `/customers/SVG/groups/${group}/members`,
      `/customers/SVG/groups/${group}/why?${asked}`,
      `/customers/SVG/people/${await personId(0)}`,
    ])
      expect([path, (await world.call('ida', 'GET', path)).status]).toEqual([path, 404]);
    for (const path of ['/groups', '/items', `/people/${await personId(0)}`, `/groups/${group}/members`])
      expect((await world.call('jonah', 'GET', `/customers/QFB${path}`)).status).toBe(404);
  });
});
