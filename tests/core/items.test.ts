import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CROSSINGS, SCREENS, type PublishedItem } from '../../src/core/intent';
import {
  crossesOf,
  foundOn,
  inFolders,
  isOn,
  itemLine,
  itemsSchema,
  programOf,
  screenOf,
  tidyItem,
  USUAL_RULES,
} from '../../src/core/items';
import { proposed } from './setup/facts';
import { standing } from './situations/standing';

const refused = (items: readonly object[]): string | undefined =>
  itemsSchema.validate(items, { errors: { label: false } }).error?.details[0]?.message;

describe('what an item may be', () => {
  it('is an app unless it says otherwise, and a desktop starts nothing', () => {
    expect(itemsSchema.validate([{ name: 'Tallybrook' }]).value).toEqual([
      { name: 'Tallybrook', kind: 'app' },
    ]);
    expect(refused([{ name: 'All of it', kind: 'desktop', starts: 'Tallybrook' }])).toMatch(
      /a desktop starts as it is/,
    );
  });

  it('has a name of its own, however it is written', () =>
    expect(refused([{ name: 'Ledgers' }, { name: 'LEDGERS', starts: 'Tallybrook' }])).toMatch(/duplicate/));

  it.each(['--open\nrm', 'a\u0000b', 'a\tb'])('starts with one line: not %j', (given) =>
    expect(refused([{ name: 'Ledgers', arguments: given }])).toBe('is one line of plain text'),
  );

  it('may have arguments in any script, with quotes', () =>
    expect(refused([{ name: 'Ledgers', arguments: '--für "Ardmoth & Söhne" --año 2026' }])).toBeUndefined());

  it('says nothing that goes without saying', () =>
    expect(
      tidyItem({
        name: 'Tallybrook',
        kind: 'app',
        starts: 'Tallybrook',
        hidden: false,
        crosses: ['usb', 'clipboard'],
      }),
    ).toEqual({ name: 'Tallybrook', kind: 'app', crosses: ['clipboard', 'usb'] }));

  it('is written on one line of what goes beyond its name', () => {
    expect(itemLine({ name: 'Full desktop', kind: 'desktop' })).toBeUndefined();
    expect(
      itemLine({
        name: 'Ledgers',
        kind: 'app',
        starts: 'Tallybrook',
        arguments: '--year 2026',
        crosses: [],
        screen: 'every screen',
      }),
    ).toBe('Ledgers: starts Tallybrook, with --year 2026, nothing crosses, shown every screen');
  });
});

describe('what may cross', () => {
  const some = fc.subarray([...CROSSINGS]);

  it('never goes beyond the item, its pool or its customer, and leaves out nothing that all three let cross', () =>
    fc.assert(
      fc.property(fc.option(some, { nil: undefined }), some, some, (own, pool, customer) => {
        const item = own === undefined ? {} : { crosses: own };
        const all = crossesOf(item, pool, customer);
        for (const one of CROSSINGS)
          expect(all.includes(one)).toBe(
            pool.includes(one) && customer.includes(one) && (own === undefined || own.includes(one)),
          );
      }),
    ));

  it('is shown as the item says, else as its customer does', () => {
    expect(screenOf({}, USUAL_RULES)).toBe('as the window');
    expect(screenOf({}, { ...USUAL_RULES, screen: 'every screen' })).toBe('every screen');
    for (const screen of SCREENS) expect(screenOf({ screen }, USUAL_RULES)).toBe(screen);
  });
});

describe('programs on an image', () => {
  const PROGRAMS = ['Tallybrook 4.2', 'Ostrel updates 2026-11', 'Murrelmail 7'];

  it('are found by name, with their version', () =>
    expect(foundOn(PROGRAMS)).toEqual([
      { name: 'Murrelmail', version: '7' },
      { name: 'Ostrel updates', version: '2026-11' },
      { name: 'Tallybrook', version: '4.2' },
    ]));

  it.each<[Pick<PublishedItem, 'name' | 'starts'>, boolean]>([
    [{ name: 'Tallybrook' }, true],
    [{ name: 'TALLYBROOK' }, true],
    [{ name: 'Ledgers', starts: 'Tallybrook' }, true],
    [{ name: 'Ledgers', starts: 'Tallybrook 4.2' }, true],
    [{ name: 'Tally' }, false],
    [{ name: 'Tallybrook', starts: 'Contourwick' }, false],
    // Where a path leads, only the host knows.
    [{ name: 'Ledgers', starts: 'C:\\Tools\\ledgers.exe' }, true],
    [{ name: 'Ledgers', starts: '/opt/ledgers/run' }, true],
  ])('%j', (item, is) => expect(isOn(item, PROGRAMS)).toBe(is));

  it('is the one of the item’s name where nothing is said', () =>
    expect(programOf({ name: 'Tallybrook' })).toBe('Tallybrook'));
});

it('stands under its heading, what has none first', () =>
  expect(
    inFolders([
      { name: 'a', folder: 'Ledgers' },
      { name: 'b', folder: '' },
      { name: 'c', folder: 'Drawing' },
      { name: 'd', folder: 'Ledgers' },
    ]).map(({ folder, items }) => `${folder}: ${items.map(({ name }) => name).join('')}`),
  ).toEqual([': b', 'Drawing: c', 'Ledgers: ad']));

describe('publishing', () => {
  const [pool] = standing.environment?.intent.pools ?? [];
  if (!pool) throw new Error('nothing stands');
  const publish = (items: readonly object[], from = standing) =>
    proposed('publish-items', { pool: pool.role, items }, from);
  const grantsOf = (proposal: ReturnType<typeof publish>) =>
    proposal.intent?.pools[0]?.grants.map(({ item, to }) => `${item} ${to}`);

  it('adds an app for whom everything was there, and touches no host', () => {
    const proposal = publish([
      ...pool.items,
      { name: 'Ledgers', kind: 'app', starts: 'Tallybrook', arguments: '--year 2026' },
    ]);
    expect(proposal.refused).toBeUndefined();
    expect(grantsOf(proposal)).toContain('Ledgers everyone');
    expect(proposal.title).toBe(`Publish Ledgers in ${pool.role} of ${standing.environment?.intent.name}`);
    expect(proposal.tasks.map(({ kind }) => kind.key)).toEqual(['publication']);
    expect(proposal.impact.people).toBe(0);
  });

  it('gives what is new to nobody by itself where something is kept to a few', () => {
    const [first] = pool.items;
    const narrow = {
      ...standing,
      environment: standing.environment && {
        ...standing.environment,
        intent: {
          ...standing.environment.intent,
          pools: [
            { ...pool, grants: [{ item: first?.name ?? '', to: 'group' as const, id: 'g', until: null }] },
          ],
        },
      },
    };
    const proposal = publish([...pool.items, { name: 'Ledgers', kind: 'app' }], narrow as typeof standing);
    expect(grantsOf(proposal)).toEqual([`${first?.name} group`]);
  });

  it('takes the grants of what goes with it, and says whom that concerns', () => {
    const proposal = publish([{ name: 'Ledgers', kind: 'app' }]);
    expect(grantsOf(proposal)).toEqual(['Ledgers everyone']);
    expect(proposal.impact.people).toBe(Math.min(pool.people, standing.customer.people));
  });

  it('keeps whom something is granted to when it gets another name, and concerns nobody with it', () => {
    const [first, ...others] = pool.items;
    const proposal = publish([{ ...first, name: 'Whole desktop', was: first?.name }, ...others]);
    expect(grantsOf(proposal)).toEqual(
      grantsOf(publish([...pool.items, { name: 'x' }]))
        ?.filter((one) => one !== 'x everyone')
        .map((one) => one.replace(first?.name ?? '', 'Whole desktop')),
    );
    expect(proposal.impact.people).toBe(0);
    expect(publish([{ name: 'a', was: 'never there' }]).refused).toHaveProperty(['items.0.was']);
    expect(
      publish([
        { name: 'a', was: first?.name },
        { name: 'b', was: first?.name },
      ]).refused,
    ).toHaveProperty(['items.1.was']);
  });

  it('lets nothing cross that may not cross in the pool, and says where', () => {
    const narrow = {
      ...standing,
      environment: standing.environment && {
        ...standing.environment,
        intent: { ...standing.environment.intent, pools: [{ ...pool, crosses: ['clipboard'] as const }] },
      },
    };
    expect(
      publish(
        [{ name: 'Full desktop', kind: 'desktop', crosses: ['clipboard', 'drives'] }],
        narrow as typeof standing,
      ).refused,
    ).toEqual({ 'items.0.crosses': `drives may not cross in ${pool.role}` });
  });

  it('changes nothing where it is as it was', () =>
    expect(publish(pool.items).refused).toEqual({ items: 'it publishes just these already' }));

  it('warns of a program that is not on the image', () => {
    const image = {
      name: pool.image,
      diskGiB: 64,
      of: { line: 'office', number: 1, state: 'current', at: 0, licences: [], programs: ['Tallybrook 4.2'] },
    } as const;
    const on = { ...standing, site: { ...standing.site, images: [image] } };
    const check = (items: readonly object[]) =>
      publish(items, on).checks.find(({ key }) => key === 'programs');
    expect(check([{ name: 'Ledgers', kind: 'app', starts: 'Tallybrook' }])?.state).toBe('passes');
    expect(check([{ name: 'Contourwick', kind: 'app' }])).toMatchObject({
      state: 'warns',
      says: `Contourwick: not on ${pool.image}`,
    });
    expect(check([{ name: 'Full desktop', kind: 'desktop', folder: 'Desks' }])).toBeUndefined();
  });
});
