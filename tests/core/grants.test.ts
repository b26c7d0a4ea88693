import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  entitled,
  grantedTo,
  grantLine,
  grantsFor,
  missingLink,
  seated,
  whyOf,
  withGrants,
  type GranteeFacts,
  type Groups,
  type HostFacts,
  type Offer,
  type WhyFacts,
} from '../../src/core/grants';
import { desktopMoves, type PersonNow } from '../../src/core/desktops';
import type { Grant, HostIntent } from '../../src/core/intent';

const AT = Date.UTC(2026, 10, 27, 9);
const grant = (to: Grant['to'], id = '', over: Partial<Grant> = {}): Grant => ({
  item: 'Full desktop',
  to,
  id,
  until: null,
  ...over,
});
const offer = (grants: Grant[], over: Partial<Offer> = {}): Offer => ({
  environmentId: 'e1',
  environment: 'clinic',
  pool: 'desks',
  items: [
    { name: 'Full desktop', kind: 'desktop' },
    { name: 'Paddockbook', kind: 'app' },
  ],
  grants,
  ...over,
});
/** Vets are clinical staff, and those everyone at the clinics; locums stand elsewhere. */
const GROUPS: Groups = new Map([
  ['vets', { name: 'Vets', unit: 'Groups', inScope: true, above: ['clinical'] }],
  ['clinical', { name: 'Clinical staff', unit: 'Groups', inScope: true, above: ['clinics', 'vets'] }],
  ['clinics', { name: 'Clinics', unit: 'Groups', inScope: true, above: [] }],
  ['locums', { name: 'Locum vets', unit: 'Partners/Locums', inScope: false, above: ['vets'] }],
  ['office', { name: 'Office', unit: 'Groups', inScope: true, above: [] }],
]);
const person = (
  id: string,
  groups: string[],
  leftAt: number | null = null,
): GranteeFacts & { account: string } => ({
  id,
  account: id,
  leftAt,
  groups,
});
const ANA = person('ana', ['vets']);
const seen = (grants: Grant[], who: GranteeFacts = ANA): string =>
  grantedTo(who, GROUPS, [offer(grants)], AT)
    .map(
      ({ item, through }) =>
        `${item.name} by ${through.map(({ grant: { to }, way }) => [to, ...way].join(' ')).join(' and ')}`,
    )
    .join('; ');

describe('what somebody sees', () => {
  it.each<[string, Grant[], GranteeFacts, string]>([
    ['nothing that nobody granted', [], ANA, ''],
    ['what is there for everyone', [grant('everyone')], ANA, 'Full desktop by everyone'],
    ['what a group of theirs has', [grant('group', 'vets')], ANA, 'Full desktop by group vets'],
    [
      'what a group around it has',
      [grant('group', 'clinics')],
      ANA,
      'Full desktop by group vets clinical clinics',
    ],
    [
      'one thing by several ways',
      [grant('everyone'), grant('group', 'clinical')],
      ANA,
      'Full desktop by everyone and group vets clinical',
    ],
    ['nothing that another group has', [grant('group', 'office')], ANA, ''],
    [
      'what is theirs by name',
      [grant('person', 'ana', { item: 'Paddockbook' })],
      ANA,
      'Paddockbook by person',
    ],
    ['nothing of somebody else', [grant('person', 'bo')], ANA, ''],
    ['nothing of which the end has come', [grant('everyone', '', { until: AT })], ANA, ''],
    ['what ends later', [grant('everyone', '', { until: AT + 1 })], ANA, 'Full desktop by everyone'],
    ['nothing once they left', [grant('everyone')], person('ana', ['vets'], AT - 1), ''],
    ['nothing of what is published no more', [grant('everyone', '', { item: 'Tidewarden' })], ANA, ''],
    ['nothing through a group outside what is read', [grant('group', 'vets')], person('lo', ['locums']), ''],
  ])('is %s', (_what, grants, who, expected) => expect(seen(grants, who)).toBe(expected));

  it('is the same whether one asks for a person or for the people of an offer', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat({ max: 9 }), fc.nat({ max: 9 })), { maxLength: 25 }),
        fc.array(fc.record({ groups: fc.uniqueArray(fc.nat({ max: 9 })), left: fc.boolean() }), {
          maxLength: 12,
        }),
        fc.array(
          fc.record({
            to: fc.constantFrom<Grant['to'][]>('everyone', 'group', 'person'),
            id: fc.nat({ max: 9 }),
            item: fc.constantFrom('Full desktop', 'Paddockbook', 'gone'),
            until: fc.constantFrom(null, AT - 1, AT + 1),
          }),
          { maxLength: 6 },
        ),
        fc.uniqueArray(fc.nat({ max: 9 })),
        (edges, some, grants, outside) => {
          const groups: Groups = new Map(
            Array.from({ length: 10 }, (_, n) => [
              `g${n}`,
              {
                name: `g${n}`,
                unit: '',
                inScope: !outside.includes(n),
                above: edges.filter(([inner]) => inner === n).map(([, outer]) => `g${outer}`),
              },
            ]),
          );
          const people = some.map(({ groups: own, left }, n) =>
            person(
              `p${n}`,
              own.map((one) => `g${one}`),
              left ? AT - 5 : null,
            ),
          );
          const made = offer(
            grants.map(({ to, id, ...one }) => ({
              ...one,
              to,
              id: to === 'everyone' ? '' : to === 'group' ? `g${id}` : `p${id}`,
            })),
          );
          const each = people
            .filter((one) => grantedTo(one, groups, [made], AT).length > 0)
            .map(({ id }) => id);
          expect(entitled(made, people, groups, AT)).toEqual(each);
        },
      ),
    ));
});

describe('grants', () => {
  it('are added, taken and given another end, each once', () => {
    const before = [grant('everyone'), grant('group', 'vets', { until: AT })];
    const after = withGrants(
      before,
      [grant('group', 'vets'), grant('person', 'ana')],
      [grant('everyone', '', { until: 5 })],
    );
    expect(after.map(grantLine)).toEqual(['Full desktop: group vets', 'Full desktop: person ana']);
  });

  it('are written with their end', () =>
    expect(grantLine(grant('group', 'vets', { until: Date.UTC(2026, 11, 31) }))).toBe(
      'Full desktop: group vets until 2026-12-31T00:00:00.000Z',
    ));

  it('go with their item, and what is new is for everyone only where all was', () => {
    const [desktop, app] = offer([]).items;
    if (!desktop || !app) throw new Error('two items are needed');
    expect(grantsFor([grant('everyone')], [desktop], [desktop, app]).map(grantLine)).toEqual([
      'Full desktop: everyone',
      'Paddockbook: everyone',
    ]);
    expect(grantsFor([grant('group', 'vets')], [desktop], [desktop, app]).map(grantLine)).toEqual([
      'Full desktop: group vets',
    ]);
    expect(grantsFor([grant('everyone')], [desktop], [app]).map(grantLine)).toEqual([
      'Paddockbook: everyone',
    ]);
  });

  it.each([
    [['a', 'b', 'c'], [], 2, 'a b'],
    [['a', 'b', 'c'], ['c'], 2, 'c a'],
    [['a', 'b', 'c'], ['b', 'z'], 5, 'b a c'],
    [['a'], ['a'], 0, ''],
    [[], ['a'], 3, ''],
  ])('of %j, %j of whom have one, %i licence seats go to %s', (to, holders, seats, expected) =>
    expect(seated(to, new Set(holders), seats).join(' ')).toBe(expected),
  );

  it('whoever has a desktop of their own there has a seat before those who have none, if they are entitled', () => {
    expect(seated(['a', 'b', 'c', 'd'], new Set(['a', 'b']), 2, new Set(['d', 'z']))).toEqual(['d', 'a']);
    expect(seated(['a', 'b', 'c'], new Set(['a']), 3, new Set(['c', 'b']))).toEqual(['b', 'c', 'a']);
  });
});

describe('why somebody gets in, or not', () => {
  const host = (over: Partial<HostFacts> = {}): HostFacts => ({
    name: 'SVG-D01',
    status: 'serving',
    sessions: 4,
    seats: 5,
    ...over,
  });
  const facts = (over: Partial<WhyFacts> = {}): WhyFacts => ({
    at: AT,
    person: ANA,
    groups: GROUPS,
    scope: { units: ['Groups'], groups: [] },
    offer: offer([grant('group', 'clinics')]),
    item: 'Full desktop',
    isPersonal: false,
    licence: { has: true, seats: 20, taken: 20 },
    hosts: [host()],
    written: (at) => new Date(at).toISOString().slice(0, 10),
    ...over,
  });
  const off = (grants: Grant[]): Partial<WhyFacts> => ({ offer: offer(grants) });

  it('is told link by link when all of them hold', () =>
    expect(whyOf(facts()).map(({ holds, says }) => [holds, says])).toEqual([
      [true, 'ana is in the directory'],
      [true, 'granted through Vets in Clinical staff in Clinics'],
      [true, 'has a licence seat'],
      [true, '1 free seats on 1 of 1 hosts'],
    ]));

  it.each<[string, Partial<WhyFacts>, string, string | undefined]>([
    [
      'has left',
      { person: person('ana', [], Date.UTC(2026, 10, 1)) },
      'person: ana left 2026-11-01',
      'directory',
    ],
    ['is granted nothing', off([]), 'grant: granted to nobody', 'grant'],
    [
      'is not in the group',
      off([grant('group', 'office')]),
      'grant: granted to Office, and ana is not in it',
      'grant',
    ],
    [
      'had it once',
      off([grant('group', 'vets', { until: AT - 1 })]),
      'grant: granted to Vets until 2026-11-27, which is over',
      'grant',
    ],
    [
      'comes through a group outside what is read',
      off([grant('group', 'office'), grant('group', 'locums')]),
      'grant: granted to Office, and ana is not in it; granted to Locum vets, which stands in Partners/Locums, outside what is read: Groups (4 groups)',
      'scope',
    ],
    [
      'comes through a group between that is outside what is read',
      {
        ...off([grant('group', 'clinics')]),
        person: person('bo', ['office']),
      },
      'grant: granted to Clinics; Locum vets in it stands in Partners/Locums, outside what is read, so nobody knows who is in that',
      'scope',
    ],
    [
      'asks for what is not published',
      { item: 'Tidewarden' },
      'grant: desks does not publish Tidewarden',
      undefined,
    ],
    [
      'finds all licences taken',
      { licence: { has: false, seats: 20, taken: 20 } },
      'licence: all 20 licence seats are taken',
      'licences',
    ],
    [
      'finds every seat taken',
      { hosts: [host({ sessions: 5 })] },
      'host: all 5 seats on 1 hosts are taken',
      'hosts',
    ],
    [
      'finds no host that takes anybody',
      { hosts: [host({ status: 'draining' }), host({ status: 'unwell' }), host({ status: 'unwell' })] },
      'host: none of 3 hosts takes anybody: 1 draining, 2 unwell',
      'hosts',
    ],
    ['finds no host at all', { hosts: [] }, 'host: desks has no hosts', 'hosts'],
    [
      'has none of their own where everyone has one',
      { isPersonal: true, hosts: [host({ personId: 'bo' })] },
      'host: has no desktop of their own in desks',
      'assign',
    ],
    [
      'finds a free one where each is somebody’s beforehand',
      { isPersonal: true, isAssigned: true, hosts: [host({ seats: 1, sessions: 0 })] },
      'host: has no desktop of their own in desks',
      'assign',
    ],
    [
      'has one that is unwell',
      { isPersonal: true, hosts: [host({ personId: 'ana', status: 'unwell' })] },
      'host: their own SVG-D01 is unwell',
      'hosts',
    ],
  ])('names the missing link where one %s', (_who, over, expected, mend) => {
    const missing = missingLink(whyOf(facts(over)));
    expect(`${missing?.link}: ${missing?.says}`).toBe(expected);
    expect(missing?.mend).toBe(mend);
  });

  it('says that a seat may be free in a moment only where there are seats', () => {
    const isFull = (hosts: HostFacts[]): boolean | undefined => missingLink(whyOf(facts({ hosts })))?.isFull;
    expect(isFull([host({ sessions: 5 })])).toBe(true);
    expect([isFull([]), isFull([host({ status: 'draining' })])]).toEqual([undefined, undefined]);
  });

  it.each<[string, Partial<WhyFacts>]>([
    ['a free licence seat', { licence: { has: false, seats: 20, taken: 19 } }],
    [
      'their own that is off',
      { isPersonal: true, hosts: [host({ personId: 'ana', status: 'off', sessions: 0 })] },
    ],
    ['one that is nobody’s yet', { isPersonal: true, hosts: [host({ seats: 1, sessions: 0 })] }],
    ['another host than the full one', { hosts: [host({ sessions: 5 }), host({ sessions: 0 })] }],
  ])('lets in who finds %s', (_what, over) => expect(missingLink(whyOf(facts(over)))).toBeUndefined());
});

describe('a desktop of somebody’s own', () => {
  const host = (person: string | undefined, leftAt?: number): HostIntent => ({
    slot: 1,
    ...(person === undefined ? {} : { person, personId: `id of ${person}` }),
    ...(leftAt === undefined ? {} : { leftAt }),
  });
  const moved = (one: HostIntent, of: Readonly<Record<string, PersonNow>>): string =>
    desktopMoves({ hosts: [one] }, (id) => of[id])
      .map((move) => `${move.do}${move.do === 'rename' ? ` ${move.to}` : ''}`)
      .join();
  const here = (account: string): PersonNow => ({ account, left: false });
  const left = (account: string): PersonNow => ({ account, left: true });

  it.each<[string, HostIntent, Readonly<Record<string, PersonNow>>, string]>([
    ['stays with who is here', host('ana'), { 'id of ana': here('ana') }, ''],
    ['is kept for who left', host('ana'), { 'id of ana': left('ana') }, 'keep'],
    [
      'is kept for who left, though somebody else has the account',
      host('ana'),
      { 'id of ana': left('ana'), 'id of another': here('ana') },
      'keep',
    ],
    ['is given back to who is here again', host('ana', 5), { 'id of ana': here('ana') }, 'give back'],
    ['is given back first, and renamed then', host('ana', 5), { 'id of ana': here('anna') }, 'give back'],
    ['is not given to another of the account', host('ana', 5), { 'id of another': here('ana') }, ''],
    ['is kept on for who is still gone', host('ana', 5), { 'id of ana': left('ana') }, ''],
    ['goes along with another account', host('ana'), { 'id of ana': here('anna') }, 'rename anna'],
    ['is left alone where nothing happened to its person', host('ana'), {}, ''],
    ['is nobody’s', host(undefined), { 'id of ana': left('ana') }, ''],
  ])('%s', (_what, one, of, expected) => expect(moved(one, of)).toBe(expected));
});
