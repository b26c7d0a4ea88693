import { describe, expect, it } from 'vitest';
import { dayNamed } from '../../src/core/calendar';
import {
  GRANT_COLUMNS,
  grantHeaderFault,
  grantRows,
  readGrants,
  type PoolGrant,
} from '../../src/core/grants';
import type { Grant } from '../../src/core/intent';

const ZONE = 'Europe/London';
const NOW = Date.UTC(2026, 10, 27, 9);
const facts = {
  offers: [
    {
      pool: 'desks',
      items: [
        { name: 'Full desktop', kind: 'desktop' },
        { name: 'Tallybrook', kind: 'app' },
      ],
      grants: [{ item: 'Tallybrook', to: 'group', id: 'vets', until: null }],
    },
  ],
  groups: new Map(
    [
      ['vets', 'Vets'],
      ['a', 'Office'],
      ['b', 'office'],
    ].map(([id = '', name = '']) => [id, { name, unit: '', inScope: true, above: [] }]),
  ),
  people: [
    { id: 'p1', account: 'Tamsin.Orre', leftAt: null },
    { id: 'p2', account: 'gone.away', leftAt: 5 },
    { id: 'p3', account: 'again', leftAt: 5 },
    { id: 'p4', account: 'Again', leftAt: null },
  ],
  now: NOW,
  zone: ZONE,
} as const;
const read = (...rows: string[][]) =>
  readGrants(
    [...GRANT_COLUMNS],
    rows.map((cells, n) => ({ line: n + 2, cells })),
    facts,
  );
const why = (...cells: string[]): string | undefined => read(cells).bad[0]?.reason;

describe('grants from a file', () => {
  it('are what stands not yet; the same as there is counted, case does not matter', () =>
    expect(
      read(
        ['Desks', 'tallybrook', 'Group', 'VETS', ''],
        ['desks', 'Full desktop', 'person', 'tamsin.orre', ''],
        ['desks', 'Full desktop', 'everyone', 'whoever', ''],
      ),
    ).toEqual({
      add: [
        { pool: 'desks', item: 'Full desktop', to: 'person', id: 'p1', until: null },
        { pool: 'desks', item: 'Full desktop', to: 'everyone', id: '', until: null },
      ],
      same: 1,
      bad: [],
    }));

  it('are of whoever has an account now, not of whoever had it before', () =>
    expect(read(['desks', 'Full desktop', 'person', 'again', '']).add).toMatchObject([{ id: 'p4' }]));

  it('are over with the instant at which they end, and not before', () => {
    // In London the 27th ends with midnight UTC.
    const end = Date.UTC(2026, 10, 28);
    const at = (now: number): number =>
      readGrants(
        [...GRANT_COLUMNS],
        [{ line: 2, cells: ['desks', 'Tallybrook', 'group', 'Vets', '2026-11-27'] }],
        { ...facts, now },
      ).add.length;
    expect([at(end - 1), at(end)]).toEqual([1, 0]);
  });

  it('are granted again with another end', () =>
    expect(read(['desks', 'Tallybrook', 'group', 'Vets', '2026-12-31']).add).toHaveLength(1));

  it.each([
    [['clinic', 'Tallybrook', 'group', 'Vets', ''], 'there is no pool "clinic"'],
    [['desks', 'Contourwick', 'group', 'Vets', ''], 'desks does not publish "Contourwick"'],
    [['desks', 'Tallybrook', 'team', 'Vets', ''], '"team" is none of everyone, group, person'],
    [['desks', 'Tallybrook', 'group', 'Nurses', ''], 'there is no group "Nurses"'],
    [['desks', 'Tallybrook', 'group', 'Office', ''], '2 groups are called "Office"'],
    [['desks', 'Tallybrook', 'person', 'gone.away', ''], 'gone.away has left the directory'],
    [['desks', 'Tallybrook', 'person', 'no.body', ''], 'no.body is not in the directory'],
    [
      ['desks', 'Tallybrook', 'group', 'Vets', '31/12/2026'],
      '"31/12/2026" is no day: write it as 2026-12-31',
    ],
    [
      ['desks', 'Tallybrook', 'group', 'Vets', '2026-02-30'],
      '"2026-02-30" is no day: write it as 2026-12-31',
    ],
    [['desks', 'Tallybrook', 'group', 'Vets', '2026-11-26'], '2026-11-26 is over'],
    [['desks'], 'desks does not publish ""'],
  ])('leave out %j', (cells, reason) => expect(why(...cells)).toBe(reason));

  it('name a group that is called like a formula, as it is exported', () =>
    expect(
      readGrants(
        [...GRANT_COLUMNS],
        [{ line: 2, cells: ['desks', 'Full desktop', 'group', "'=Vets()", ''] }],
        {
          ...facts,
          groups: new Map([['f', { name: '=Vets()', unit: '', inScope: true, above: [] }]]),
        },
      ).add,
    ).toMatchObject([{ to: 'group', id: 'f' }]));

  it('leave out by line what stands twice', () =>
    expect(
      read(
        ['desks', 'Full desktop', 'person', 'tamsin.orre', ''],
        ['desks', 'Full desktop', 'person', 'TAMSIN.ORRE', ''],
      ).bad,
    ).toEqual([{ line: 3, reason: 'stands on a line before it already' }]));

  it('hold through the last day, also where the clock goes back on it', () => {
    const [grant] = read(['desks', 'Tallybrook', 'group', 'Vets', '2027-10-31']).add as [PoolGrant];
    // British summer time ends on 31 October 2027: that day is 25 hours long.
    expect(grant.until).toBe(Date.UTC(2027, 10, 1));
    expect(dayNamed('2027-10-31', ZONE)?.from).toBe(Date.UTC(2027, 9, 30, 23));
  });

  it('need a header of the columns, in any order, and may leave out ends', () => {
    expect(grantHeaderFault(['Name', 'TO', ' item', 'pool'])).toBeUndefined();
    expect(grantHeaderFault(['pool', 'item'])).toMatch(/missing: to, name$/);
    expect(
      readGrants(
        ['to', 'pool', 'item', 'name'],
        [{ line: 2, cells: ['group', 'desks', 'Full desktop', 'Vets'] }],
        facts,
      ).add,
    ).toEqual([{ pool: 'desks', item: 'Full desktop', to: 'group', id: 'vets', until: null }]);
  });

  it('are written as they are read: nothing is to be granted then', () => {
    const grants: Grant[] = [
      { item: 'Tallybrook', to: 'group', id: 'vets', until: Date.UTC(2027, 0, 1) },
      { item: 'Full desktop', to: 'person', id: 'p1', until: null },
      { item: 'Full desktop', to: 'person', id: 'nobody known', until: null },
      { item: 'Full desktop', to: 'group', id: 'a', until: Date.UTC(2027, 5, 1, 14, 30) },
      // Over, and not taken away yet.
      { item: 'Full desktop', to: 'group', id: 'vets', until: Date.UTC(2026, 9, 1) - 3_600_000 },
      { item: 'Full desktop', to: 'everyone', id: '', until: null },
    ];
    const offers = [{ ...facts.offers[0], grants }];
    const rows = grantRows(offers, ({ id }) => ({ vets: 'Vets', a: 'Binders', p1: 'Tamsin.Orre' })[id], ZONE);
    expect(rows[0]).toEqual(['desks', 'Tallybrook', 'group', 'Vets', '2026-12-31']);
    expect(rows).toHaveLength(5);
    expect(
      readGrants(
        [...GRANT_COLUMNS],
        rows.map((cells, n) => ({ line: n + 2, cells })),
        {
          ...facts,
          offers,
          groups: new Map([...facts.groups, ['a', { name: 'Binders', unit: '', inScope: true, above: [] }]]),
        },
      ),
    ).toEqual({ add: [], same: 5, bad: [] });
  });
});
