import { createElement, type ComponentType } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import type {
  Watch as WatchData,
  CustomerSummary,
  Difference,
  EnvironmentWithPools,
  OriginView,
  Host,
  MonthCosts,
  Pool,
  Proof as ProofOfGoing,
  ProposalView,
  ProposedTask,
  Run,
  Session,
  Site,
  TrailEntry,
  Try,
} from '../../src/contract';
import type { Arc } from '../../src/core/status';
import { looksOf, type LookFacts } from '../../src/server/watch/looks';
import { Table } from '../../src/ui/Table';
import { Build } from '../../src/views/build/Build';
import { Costs } from '../../src/views/costs/Costs';
import { Customers } from '../../src/views/customers/Customers';
import { Environment } from '../../src/views/environment/Environment';
import { Proof } from '../../src/views/environment/Proof';
import { Retire } from '../../src/views/environment/Retire';
import { Connect } from '../../src/views/ground/Connect';
import { Ground } from '../../src/views/ground/Ground';
import { Tries } from '../../src/views/ground/Tries';
import { MoneyAcross } from '../../src/views/money/MoneyAcross';
import { People } from '../../src/views/people/People';
import { Retained } from '../../src/views/retained/Retained';
import { Runs } from '../../src/views/runs/Runs';
import { Serve } from '../../src/views/serve/Serve';
import { Trail } from '../../src/views/trail/Trail';
import { EVERYONE, GROUPINGS, groupsOf, isChosen, stepFrom, type Choice } from '../../src/views/watch/choose';
import { needsOf, steady } from '../../src/views/watch/needs';
import { Watch } from '../../src/views/watch/Watch';

/* Every view as it comes with its page: none, one, thousands; whole, partial, failed. */

const show = <Props extends object>(view: ComponentType<Props>, props: Props): string =>
  renderToStaticMarkup(createElement(view, props))
    .replace(/<!-- -->/g, '')
    .replace(/\s+/g, ' ');
const many = <Thing>(count: number, make: (n: number) => Thing): Thing[] =>
  Array.from({ length: count }, (_, n) => make(n));
const countOf = (html: string, what: RegExp): number => [...html.matchAll(new RegExp(what, 'g'))].length;

const AT = Date.UTC(2026, 10, 19, 9, 40);
const eur = (minor: number) => ({ minor, currency: 'EUR' });
const mark = (n: number) => ({ code: `C${n}`, hue: n % 360, shape: n % 6, pattern: n % 5 });
const serving: Arc = { status: 'serving', hosts: 4, fill: 0.5 };

const customer = (n: number, over: Partial<CustomerSummary> = {}): CustomerSummary => ({
  code: `C${n}`,
  name: `Customer ${n}`,
  state: 'active',
  zone: 'Europe/Dublin',
  plan: 'Harbour',
  site: 'Kelp Quay',
  mark: mark(n),
  tags: {},
  arcs: [serving],
  hosts: 4,
  people: 25,
  peopleIn: 20,
  seats: 40,
  seatsFree: 20,
  soFar: eur(10_000),
  forecast: eur(20_000),
  attention: [],
  ...over,
});
const run = (n: number, over: Partial<Run> = {}): Run => ({
  id: `r${n}`,
  customer: 'C1',
  environment: 'office',
  environmentId: 'e1',
  kind: 'drain',
  title: `Drain host ${n}`,
  state: 'done',
  cause: null,
  steps: 1,
  done: 1,
  failed: 0,
  expectedSeconds: 5,
  works: null,
  impact: { people: 0, hosts: 1, monthly: eur(0), seconds: 5, undo: 'can be undone' },
  version: 1,
  actor: 'Ida Quist',
  reason: 'a reason',
  begunAt: AT,
  endedAt: AT + 5_000,
  ...over,
});
const site = (over: Partial<Site> = {}): Site => ({
  code: 'KQ',
  name: 'Kelp Quay',
  kind: 'own nodes',
  provider: 'Coast Compute',
  images: [{ name: 'Ostrel 12', diskGiB: 48 }],
  sizes: [{ key: 's2x8', vcpu: 2, memoryGiB: 8 }],
  quota: null,
  nodes: [
    {
      id: 'kq-a1',
      zone: 'kq-a',
      state: 'up',
      dedicatedTo: null,
      vcpu: 128,
      memoryGiB: 384,
      diskGiB: 8_000,
      hosts: 3,
      memoryUsed: 96,
      vcpuUsed: 24,
    },
  ],
  hosts: 3,
  signIn: { worked: true, says: 'signed in just now' },
  readAt: AT,
  ...over,
});

/** Watch as the server tells it: what needs a look comes of its parts. */
const asWatch = (
  over: Partial<Omit<LookFacts, 'customers'>> & { customers: CustomerSummary[] },
): WatchData => {
  const { customers, runs = [], attention = [], signs = [] } = over;
  return {
    customers,
    runs: [...runs],
    lately: [],
    mine: [],
    looks: looksOf({ signs, customers, runs, parents: [], attention }, new Map()),
  };
};

describe('Watch', () => {
  const watch = (customers: CustomerSummary[], over: object = {}, count = customers.length) =>
    show(Watch, {
      initial: asWatch({ customers, ...over }),
      count,
      sites: [site()],
      mayMark: true,
    });

  it('says so when one reaches no customer', () => expect(watch([])).toContain('You reach no customer yet.'));

  it('draws one, two or three with their figures beside the ring, and four with their seats free', () => {
    const three = watch(many(3, customer));
    expect(countOf(three, /20 of 25/)).toBe(3);
    expect(three).toContain('€200.00');
    expect(watch(many(4, customer))).not.toContain('20 of 25');
    expect(countOf(watch(many(4, customer)), /20 seats free/)).toBe(4);
  });

  it('adds each currency by itself', () => {
    const html = watch([
      customer(1, { soFar: eur(100_00) }),
      customer(2, { soFar: eur(50_00) }),
      customer(3, { soFar: { minor: 7_00, currency: 'GBP' }, forecast: { minor: 9_00, currency: 'GBP' } }),
    ]);
    expect(html).toContain('€150');
    expect(html).toContain('£7');
    expect(html).not.toContain('157');
  });

  it('draws five hundred rings, and counts on while only the first of them have come', () => {
    expect(countOf(watch(many(500, customer)), /href="\/customers\/C\d+"/)).toBe(500);
    expect(watch(many(60, customer), {}, 500)).toContain('Counting 500 customers …');
  });

  it('names what needs a look with the way there: the provider, stopped runs, drift', () => {
    const html = watch([customer(1, { attention: [{ kind: 'drift', says: 'H1: does not answer' }] })], {
      attention: [{ kind: 'provider', says: 'Provider: account or secret is wrong' }],
      runs: [
        run(1, { state: 'stopped', cause: 'steps failed', failed: 2, title: 'Provision office' }),
        run(2, { state: 'stopped', cause: 'by hand', title: 'Provision annex' }),
      ],
    });
    expect(html).toContain('account or secret is wrong');
    expect(html).toContain('Provision office: stopped, 2 steps failed');
    expect(html).toContain('Provision annex: stopped, by hand');
    expect(html).toContain('H1: does not answer');
    expect(html).not.toContain('Nothing does.');
    expect(watch([customer(1)])).toContain('Nothing does.');
  });

  it('stands the twelve that need it most large and in words beside five hundred, and counts the others', () => {
    const bad: Arc = { status: 'unwell', hosts: 2, fill: 0 };
    const fleet = many(500, (n) =>
      customer(
        n,
        n % 25 === 1 ? { attention: [{ kind: 'drift', says: `reason ${n}.` }], arcs: [serving, bad] } : {},
      ),
    );
    const html = watch(fleet, {
      runs: [
        run(7, {
          state: 'stopped',
          cause: 'steps failed',
          failed: 2,
          title: 'Provision yard',
          customer: 'C9',
        }),
      ],
    });
    expect(html.indexOf('Provision yard: stopped, 2 steps failed')).toBeGreaterThan(0);
    expect(countOf(html, /reason \d+\./)).toBe(11);
    expect(html).toContain('9 more stand first among the rings.');
    expect(countOf(html, /aria-label="Needs a look"/)).toBe(1);
    expect(html).toContain('Calm</h2> <span>479</span>');
    // One stop of Tab for each group, not one for each ring.
    expect(countOf(html, /tabindex="0"[^>]*aria-label="Customer/)).toBe(2);
  });
});

describe('among many customers', () => {
  const fleet = many(30, (n) =>
    customer(n, {
      site: n % 3 === 0 ? 'Tor Field' : 'Kelp Quay',
      plan: n % 2 === 0 ? 'Jetty' : 'Harbour',
      state: n === 4 ? 'paused' : 'active',
    }),
  );
  const codes = (choice: Partial<Choice>, mine: string[] = []): string[] =>
    fleet.filter((one) => isChosen(one, { ...EVERYONE, ...choice }, new Set(mine))).map((one) => one.code);

  it('chooses by site, plan, status, name or code, and those of one’s own, all together', () => {
    expect(codes({})).toHaveLength(30);
    expect(codes({ site: 'Tor Field', plan: 'Jetty' }).every((code) => Number(code.slice(1)) % 6 === 0)).toBe(
      true,
    );
    expect(codes({ status: 'paused' })).toEqual(['C4']);
    expect(codes({ find: ' c12' })).toEqual(['C12']);
    expect(codes({ find: 'customer 7' })).toEqual(['C7']);
    expect(codes({ mine: true }, ['C3', 'C5'])).toEqual(['C3', 'C5']);
    expect(codes({ mine: true, site: 'Tor Field' }, ['C3', 'C5'])).toEqual(['C3']);
  });

  it('groups each of them once, whoever needs a look first in every group', () => {
    for (const by of GROUPINGS) {
      const groups = groupsOf(fleet, by, (one) => (one.code === 'C9' ? 'Needs a look' : 'Calm'));
      expect(groups.flatMap((group) => group.customers.map((one) => one.code)).sort()).toEqual(
        fleet.map((one) => one.code).sort(),
      );
      const mine = groups.find((group) => group.customers.some((one) => one.code === 'C9'));
      expect(mine?.customers[0]?.code).toBe('C9');
    }
  });

  it('is gone through with the arrows, from ring to ring and row to row, and never out of the group', () => {
    const step = (key: string, at: number): number | undefined => stepFrom(at, key, 10, 25);
    expect([step('ArrowRight', 3), step('ArrowLeft', 3), step('ArrowDown', 3), step('ArrowUp', 13)]).toEqual([
      4, 2, 13, 3,
    ]);
    expect([step('Home', 17), step('End', 17)]).toEqual([0, 24]);
    expect([
      step('ArrowLeft', 0),
      step('ArrowRight', 24),
      step('ArrowUp', 4),
      step('ArrowDown', 16),
      step('a', 3),
    ]).toEqual(Array(5).fill(undefined));
  });

  it('lets nothing that is shown change places when what is needed changes', () => {
    const order = (before: string[], now: string[]): string[] => steady(before, now, (key) => key);
    expect(order([], ['b', 'a', 'c'])).toEqual(['b', 'a', 'c']);
    expect(order(['a', 'b', 'c'], ['c', 'b', 'a'])).toEqual(['a', 'b', 'c']);
    expect(order(['a', 'b', 'c'], ['x', 'c', 'y', 'a'])).toEqual(['a', 'c', 'x', 'y']);
  });

  it('has whoever needs it more come first: a run that stopped, then the most hosts of all that are out', () => {
    const out = (hosts: number): Partial<CustomerSummary> => ({
      attention: [{ kind: 'drift', says: 'out' }],
      hosts: 4 + hosts,
      arcs: [serving, { status: 'missing', hosts, fill: 0 }],
    });
    const needs = needsOf(
      asWatch({
        customers: [
          customer(1, { attention: [{ kind: 'money', says: 'no rate' }] }),
          customer(2, out(1)),
          customer(3, out(9)),
          customer(4),
        ],
        runs: [run(1, { state: 'stopped', cause: 'steps failed', failed: 1, customer: 'C4' })],
        attention: [{ kind: 'provider', says: 'Coast: does not answer' }],
      }),
    );
    expect(needs.map((need) => need.looks[0]?.says)).toEqual([
      'Coast: does not answer',
      expect.stringContaining('stopped, 1 step failed'),
      'out',
      'out',
      'no rate',
    ]);
    expect(needs.slice(1).map((need) => need.key)).toEqual(['C4', 'C3', 'C2', 'C1']);
  });
});

describe('Customers', () => {
  const shown = (customers: CustomerSummary[], count = customers.length) =>
    show(Customers, { initial: { customers, runs: [], lately: [], mine: [], looks: [] }, count });
  const of = (n: number) =>
    customer(n, { plan: n % 3 === 0 ? 'Skiff' : 'Harbour', site: n % 2 === 0 ? 'Tor Field' : 'Kelp Quay' });

  it('are drawn by plan and site: few as their marks, many as so many', () => {
    const few = shown(many(6, of));
    expect(few).toContain('aria-label="Harbour at Kelp Quay: 2 customers"');
    expect(few).toContain('aria-label="Skiff at Tor Field: 1 customer"');
    const counts = [...shown(many(500, of)).matchAll(/<b>(\d+)<\/b><\/button>/g)].map(([, n]) => Number(n));
    expect(counts).toHaveLength(4);
    expect(counts.reduce((sum, n) => sum + n, 0)).toBe(500);
  });

  it('are not counted while only the first of them have come, nor drawn for one alone', () => {
    expect(shown(many(60, of), 500)).toContain('Counting 500 customers …');
    expect(shown(many(60, of), 500)).not.toContain('Harbour at');
    expect(shown([customer(1)])).not.toContain('By plan');
  });
});

describe('lists of none, of one, of thousands', () => {
  const session = (n: number): Session => ({
    id: `s${n}`,
    provider: 'coast',
    personId: n % 2 === 0 ? `p${n}` : null,
    customer: 'C1',
    account: `account${n}`,
    person: n % 2 === 0 ? 'Quill Saltash' : null,
    host: 'C1-OFFICE01',
    hostId: null,
    environment: 'office',
    environmentId: 'e1',
    state: n % 2 === 0 ? 'active' : 'idle',
    since: AT,
    stateSince: AT,
  });
  const entry = (n: number, over: Partial<TrailEntry> = {}): TrailEntry => ({
    id: `t${n}`,
    at: AT,
    customer: 'C1',
    actor: 'Ida Quist',
    role: 'engineer',
    action: 'begin drain',
    subject: `Drain ${n}`,
    run: 'r1',
    before: null,
    after: null,
    reason: 'because',
    isLong: false,
    ...over,
  });
  const person = (n: number) => ({
    id: `p${n}`,
    account: `a${n}`,
    given: 'Quill',
    family: 'Saltash',
    mail: `a${n}@c1.example`,
    unit: '',
  });
  const page = <Thing>(entries: Thing[], next: string | null = null) => ({ entries, next });

  const views: readonly [string, (n: number) => string, string][] = [
    [
      'Customers',
      (n) =>
        show(Customers, {
          initial: { customers: many(n, customer), runs: [], lately: [], mine: [], looks: [] },
          count: n,
        }),
      'You reach no customer yet.',
    ],
    ['Runs', (n) => show(Runs, runsOf(n)), 'No run yet.'],
    [
      'Serve',
      (n) =>
        show(Serve, { initial: page(many(n, session)), counts: [], marks: { C1: mark(1) }, mayChange: true }),
      'Nobody is signed in at the moment.',
    ],
    [
      'People',
      (n) =>
        show(People, {
          zone: 'Europe/Dublin',
          mark: mark(1),
          messages: [],
          code: 'C1',
          count: n,
          initial: page(many(n, person)),
          groups: { entries: [], units: [] },
          mayChange: true,
          find: '',
        }),
      'Nobody is known yet.',
    ],
  ];
  const runsOf = (n: number) => ({
    path: '/runs',
    events: '/events',
    initial: page(many(n, (i) => run(i))),
    zone: 'UTC',
  });

  it.each(views)('%s says what would be here, and draws only the rows in sight', (_name, view, empty) => {
    expect(view(0)).toContain(empty);
    expect(view(0)).not.toContain('<table');
    expect(countOf(view(1), /<td/)).toBeGreaterThan(3);
    const thousands = view(5_000);
    expect(thousands).toContain('aria-rowcount="5000"');
    expect(countOf(thousands, /<tr/)).toBeLessThan(60);
  });

  it('the trail is empty, or tells each deed in words and what it changed', () => {
    const trail = (entries: TrailEntry[], next: string | null = null) =>
      show(Trail, {
        path: '/trail',
        events: '/events',
        initial: page(entries, next),
        zone: 'UTC',
        marks: {},
        mayChange: false,
      });
    expect(trail([])).toContain('Nothing is on the trail here.');
    const html = trail(
      [
        entry(1),
        entry(2, {
          action: 'change state',
          subject: 'C1',
          before: { state: 'active' },
          after: { state: 'leaving' },
          reason: '',
        }),
        entry(3, {
          action: 'run stopped',
          before: { state: 'running', cause: null },
          after: { state: 'stopped', cause: 'steps failed' },
          reason: '',
        }),
        entry(4, { action: 'sign in', customer: null, run: null, actor: 'Laager' }),
      ],
      'more',
    );
    expect(html).toContain('<b>began</b> Drain 1');
    expect(html).toContain('state active → leaving');
    expect(html).toContain('steps failed');
    expect(html).not.toContain('state running → stopped');
    expect(html).toContain('Ida Quist <small>engineer</small>');
    expect(html).toContain('Earlier');
    expect(trail([entry(1)])).not.toContain('Earlier');
  });

  it('a list that is not whole says so and offers the rest; it is not sorted by what has come so far', () => {
    const runs = (next: string | null) =>
      show(Runs, { path: '/runs', events: '/events', initial: page([run(1)], next), zone: 'UTC' });
    expect(runs('r1')).toContain('Show more');
    expect(runs('r1')).toContain('and more');
    expect(runs('r1')).toMatch(/<button type="button" disabled=""/);
    expect(runs(null)).not.toContain('Show more');
    expect(runs(null)).not.toMatch(/<button type="button" disabled=""/);
  });

  it('a session of someone unknown is told by the account', () => {
    const html = show(Serve, {
      initial: page([session(1)]),
      counts: [{ customer: 'C1', active: 3, idle: 1 }],
      marks: {},
      mayChange: false,
    });
    expect(html).toContain('account1');
    expect(html).toContain('aria-label="C1: 3 active sessions, 1 idle"');
  });

  it('the strip of Serve draws twelve customers and counts the others', () => {
    const html = show(Serve, {
      initial: page([]),
      counts: many(40, (n) => ({ customer: `C${n}`, active: 40 - n, idle: 0 })),
      marks: {},
      mayChange: false,
    });
    expect(countOf(html, /aria-pressed/)).toBe(12);
    expect(html).toContain('and 28 more');
  });

  it('a table keeps what it is told: figures at the right, hidden columns away', () => {
    const html = show(Table<{ id: string; n: number }>, {
      rows: [{ id: 'a', n: 7 }],
      columns: [
        { id: 'n', title: 'Number', value: (row) => row.n, figure: true },
        { id: 'h', title: 'Hidden', value: () => 'x', hidden: true },
      ],
      idOf: (row) => row.id,
      label: 'things',
      empty: 'none',
    });
    expect(html).toMatch(/<td class="[^"]*figure[^"]*">7<\/td>/);
    expect(html).not.toContain('<th>Hidden');
    expect(html).toContain('aria-label="Filter things"');
  });
});

describe('an environment', () => {
  const environment = (over: Partial<EnvironmentWithPools> = {}): EnvironmentWithPools => ({
    id: 'e1',
    name: 'office',
    site: 'KQ',
    version: 1,
    siteName: 'Kelp Quay',
    template: 'shared-office',
    revision: 1,
    state: 'serving',
    holds: 'desktops',
    people: 12,
    hosts: 1,
    createdAt: AT,
    retiredAt: null,
    arcs: [serving],
    peopleIn: 3,
    seatsOpen: 9,
    drift: 1,
    network: '10.16.0.0/20',
    pools: [pool()],
    images: ['Ostrel 12'],
    keptDesktops: [],
    keptDisks: [],
    ...over,
  });
  const pool = (over: Partial<Pool> = {}): Pool => ({
    role: 'desks',
    people: 12,
    ceiling: 8,
    hosts: 1,
    image: 'Ostrel 12',
    track: null,
    size: 's2x8',
    seats: 3,
    arrival: 'spread',
    diskGiB: 128,
    shareGiB: 120,
    subnet: '10.16.0.0/27',
    items: [{ name: 'Full desktop', kind: 'desktop' }],
    assign: null,
    ownDiskGiB: 0,
    ...over,
  });
  const host = (over: Partial<Host> = {}): Host => ({
    id: 'h1',
    key: 'host:desks:1',
    environmentId: 'e1',
    wantedPower: 'on',
    wantedAccepting: true,
    overrides: [],
    pictured: false,
    personId: null,
    kept: false,
    present: 'unwell',
    ref: 'r1',
    version: 1,
    person: null,
    pool: 'desks',
    size: 's2x8',
    diskGiB: 128,
    name: 'C1-OFFICE01',
    address: '10.16.0.5',
    node: 'kq-a1',
    status: 'unwell',
    drift: ['does not answer'],
    sessions: 0,
    seats: 3,
    ...over,
  });
  const owner = { code: 'C1', name: 'Customer 1', mark: mark(1), zone: 'UTC' };
  const difference = (over: Partial<Difference> = {}): Difference => ({
    key: 'host:desks:1',
    kind: 'host',
    name: 'C1-OFFICE01',
    attribute: 'power',
    what: 'otherwise',
    says: 'is off, wanted on',
    cause: 'changed there',
    disturbs: false,
    takeable: true,
    ...over,
  });
  const none: OriginView = {
    template: null,
    name: '',
    revision: 0,
    newest: null,
    inputs: [],
    deviations: [],
    changes: [],
  };
  const shown = (
    facts: EnvironmentWithPools,
    hosts: Host[],
    mayChange = true,
    differences: Difference[] = [],
    origin: OriginView = none,
  ) =>
    show(Environment, {
      customer: owner,
      initial: { environment: facts, hosts, differences, origin },
      sizes: [
        { key: 's2x8', vcpu: 2, memoryGiB: 8 },
        { key: 's4x16', vcpu: 4, memoryGiB: 16 },
      ],
      mayChange,
    });

  it('says of a host what differs, beside its status', () => {
    const html = shown(environment(), [host()], true, [
      difference({ attribute: 'condition', says: 'does not answer' }),
    ]);
    expect(html).toContain('does not answer');
    expect(html).toContain('differs');
    expect(html).toContain('Retire…');
  });

  it('tells the three ways apart in which it may be otherwise', () => {
    const origin: OriginView = {
      ...none,
      template: 'shared-office',
      name: 'Shared office',
      revision: 1,
      newest: 2,
      deviations: [{ key: 'desks.diskGiB', pool: 'desks', what: 'Disk', given: '128 GiB', is: '256 GiB' }],
      changes: [{ where: 'pool lab', what: 'pool', before: 'shared, office, for people', after: '' }],
    };
    const differences = [difference(), difference({ key: 'host:desks:2', cause: 'not done yet' })];
    const html = shown(environment(), [host()], true, differences, origin);
    for (const words of [
      'Otherwise than the template gave it',
      'Not done yet',
      'Changed at the provider',
      '256 GiB',
      'given 128 GiB',
      'Follow revision 2…',
      'keep the pool',
    ])
      expect(html).toContain(words);
    const looked = shown(environment(), [host()], false, differences, origin);
    expect(looked).toContain('256 GiB');
    expect(looked).not.toContain('Follow revision');
    expect(shown(environment(), [host()])).not.toContain('revision 0');
  });

  it('offers for each difference what can be done about it, and only that', () => {
    const html = shown(environment(), [host()], true, [
      difference(),
      difference({
        key: 'extra:x',
        attribute: null,
        what: 'extra',
        says: 'there, not wanted',
        takeable: false,
      }),
      difference({ key: 'host:desks:2', attribute: null, what: 'missing', says: 'wanted, not there' }),
    ]);
    expect(html).toContain('3 differences');
    expect(countOf(html, /take as it is/)).toBe(2);
    for (const words of ['make as wanted', 'take it away', 'make it']) expect(html).toContain(words);
    expect(shown(environment(), [host()], false, [difference()])).not.toContain('take as it is');
    expect(shown(environment(), [host()])).not.toContain('difference');
  });

  it('shows each pool by itself, and offers what can be made of it', () => {
    const two = environment({ pools: [pool(), pool({ role: 'lab', hosts: 8 })] });
    const html = shown(two, [host(), host({ id: 'h2', pool: 'lab', name: 'C1-LAB01' })]);
    expect(html).toMatch(/<h2>desks<\/h2>.*<h2>lab<\/h2>/);
    // The lab is as large as it may become; the desks have one host, which stays.
    expect(countOf(html, /Add hosts/)).toBe(1);
    expect(countOf(html, /Take away/)).toBe(1);
    expect(countOf(html, /Grow the disk/)).toBe(2);
    expect(html).toContain('2 vCPU · 8 GiB');
  });

  it('that goes or has gone offers nothing that would change it', () => {
    for (const state of ['leaving', 'retired'] as const)
      expect(shown(environment({ state }), [])).not.toContain('Retire…');
    expect(shown(environment({ state: 'leaving' }), [host()])).not.toContain(
      'type="checkbox" aria-label="Select',
    );
    expect(shown(environment({ state: 'leaving' }), [host()])).not.toContain('Add hosts');
    expect(shown(environment(), [host()], false)).not.toContain('Select');
    expect(shown(environment({ state: 'retired', hosts: 0 }), [])).toContain('It has no hosts any more.');
  });

  it('is retired only with the customer’s code, and says what is lost and what stays', () => {
    const task = (kind: string, name: string, attributes: object = {}, people = 0): ProposedTask => ({
      key: `${kind}:${name}`,
      kind,
      name,
      do: 'remove',
      says: [],
      attributes: { ...attributes },
      people,
    });
    const proposal = (more: readonly ProposedTask[] = []): ProposalView => ({
      kind: 'retire',
      title: 'Retire office',
      refused: null,
      tasks: [
        task('host', 'C1-OFFICE01', {}, 1),
        task('share', 'profiles', { gib: 120 }),
        task('subnet', 'desks', { cidr: '10.16.0.0/27' }),
        task('publication', 'items', { licences: 12 }),
        ...more,
      ],
      steps: [],
      policy: { atATime: 8, failureLimit: 3 },
      seconds: 300,
      monthly: eur(-5_000),
      critical: [],
      destroyed: [],
      cost: [],
      room: 0,
      checks: [],
      impact: { people: 12, hosts: 1, monthly: eur(-5_000), seconds: 300, undo: 'cannot be undone' },
    });
    const retire = (initial: ProposalView) =>
      show(Retire, { customer: owner, environment: { id: 'e1', name: 'office' }, initial });
    const html = retire(proposal());
    expect(html).toMatch(/<button[^>]*disabled=""[^>]*>[^<]*Retire for C1/);
    expect(html).toContain('the network stays: it is still used');
    expect(html).toContain('lost: 120 GiB for profiles');
    const says = 'profiles on a share of 120 GiB until 26 November 2027, as plan Harbour says';
    const shares = proposal().tasks.map((one) =>
      one.kind === 'share' ? { ...one, do: 'retain' as const } : one,
    );
    const check = { key: 'retained', title: 'Data kept', state: 'passes' as const, says };
    const kept = retire({ ...proposal(), tasks: shares, checks: [check] });
    expect(kept).toContain(`kept: ${says}`);
    expect(kept).not.toContain('lost:');
    expect(html).toContain('cannot be undone');
    expect(html).toContain('1 person is signed in now. Their sessions are closed at once.');
    const last = retire(proposal([task('network', 'network', { cidr: '10.16.0.0/20' })]));
    expect(last).toContain('free again: 10.16.0.0/27 in 10.16.0.0/20');
    // A kind that this page has never heard of is named all the same.
    expect(retire(proposal([task('licence-file', 'a licence file')]))).toContain('a licence file');
  });

  it('says which data are kept of it and until when, and what of it cannot be found any more', () => {
    const one = {
      id: 'k1',
      kind: 'share',
      name: 'office profiles',
      holds: 'profiles on a share of 120 GiB',
      environmentId: 'e1',
      environment: 'office',
      until: AT,
      there: true,
    };
    const shown = (initial: readonly (typeof one)[], more: object = {}) =>
      show(Retained, { customer: { ...owner, zone: 'UTC' }, initial, mayChange: true, ...more });
    expect(shown([])).toBe('');
    expect(shown([{ ...one, environmentId: 'e2' }], { environment: 'e1' })).toBe('');
    const html = shown([one, { ...one, id: 'k2', there: false }]);
    expect(html).toContain('profiles on a share of 120 GiB');
    expect(html).toContain('not found at the provider');
    expect(html.match(/Delete now/g)).toHaveLength(2);
    expect(shown([one], { mayChange: false })).not.toContain('Delete now');
  });

  it('has a proof that says at once whether anything is left', () => {
    const proof = (over: Partial<ProofOfGoing> = {}): ProofOfGoing => ({
      environment: 'office',
      askedAt: AT,
      clean: true,
      rows: [
        {
          kind: 'host',
          name: 'C1-OFFICE01',
          ref: 'abc',
          says: 'gone',
          keptUntil: null,
          goneAt: AT,
          lastCharge: eur(1_00),
          metering: false,
        },
      ],
      month: '2026-11',
      lastCharges: eur(1_00),
      returned: {
        names: ['C1-OFFICE01'],
        stillInDirectory: [],
        directory: { worked: true, says: 'asked' },
        values: [
          { space: 'subnet', values: ['s'], returned: true, shared: false },
          { space: 'address', values: ['1', '2', '3', '4'], returned: true, shared: false },
          { space: 'network', values: ['n'], returned: false, shared: true },
        ],
      },
      ...over,
    });
    const shownProof = (facts: ProofOfGoing) =>
      show(Proof, { customer: 'C1', id: 'e1', initial: facts, zone: 'UTC' });
    expect(shownProof(proof())).toContain('Nothing is left of office');
    const [row] = proof().rows;
    const rows = row ? [row, { ...row, ref: 'b', says: 'kept' as const, keptUntil: AT, goneAt: null }] : [];
    const kept = shownProof(proof({ rows }));
    expect(kept).toContain('Only kept data are left of office');
    expect(kept).toContain('1 of 2 resources are gone, 1 kept for its data');
    expect(kept).toContain('kept until');
    const left = shownProof(
      proof({
        clean: false,
        rows: row ? [{ ...row, says: 'still there', goneAt: null, metering: true }] : [],
      }),
    );
    const unasked = shownProof(
      proof({
        clean: false,
        returned: { ...proof().returned, directory: { worked: false, says: 'directory: does not answer' } },
      }),
    );
    expect(unasked).toContain('directory: does not answer');
    expect(unasked).not.toContain('free again');
    expect(unasked).toContain('subnet s given back');
    expect(unasked).toContain('4 addresses given back');
    expect(unasked).toContain('network n serves another environment');
    expect(left).not.toContain('Nothing is left of office');
    expect(left).toContain('still there');
  });
});

describe('ground, templates and money', () => {
  const coast = {
    code: 'coast',
    name: 'Coast Hosting',
    url: 'https://api.coast.example',
    account: 'tern',
    signIn: { worked: true, says: 'signed in just now' },
    answeredAt: AT,
    secretEndsAt: null,
  };

  it('a connection that is to be mended comes with all but its secret, and nothing tried yet', () => {
    const html = show(Connect, { known: coast, taken: ['coast'] });
    expect(html).toContain('value="https://api.coast.example"');
    expect(html).toMatch(/<input[^>]*type="password"[^>]*>/);
    expect(html).not.toMatch(/<input[^>]*type="password"[^>]*value=/);
    expect(html).toContain('0 of 6 tries work');
    expect(countOf(html, /not tried<\/span>/)).toBe(6);
  });

  it('a try says what to do about it; one that waits for the provider says that it is under way', () => {
    const tries: Try[] = [
      {
        what: 'address',
        asked: 'GET /health',
        outcome: 'fails',
        says: 'Shows a certificate for another name',
        fix: 'Use the name that stands in the certificate.',
        at: AT,
        tookMs: 12,
      },
    ];
    const html = show(Tries, { trying: { tries, sites: [], at: 'making', problem: undefined } });
    expect(html).toContain('Use the name that stands in the certificate.');
    expect(html).toContain('12 ms');
    expect(countOf(html, /trying …/)).toBe(1);
  });

  it('say so when there is nothing yet', () => {
    const nothing = { initial: { sites: [] }, ranges: [], orphans: [], providers: [] };
    const forLead = show(Ground, { ...nothing, mayConnect: true });
    expect(forLead).toContain('No provider is connected yet.');
    expect(forLead).toContain('href="/ground/connect"');
    expect(show(Ground, { ...nothing, mayConnect: false })).not.toContain('href');
    expect(show(Build, { templates: [], marks: {}, images: [], sites: [], mayChange: false })).toContain(
      'There is no template yet.',
    );
    expect(
      show(MoneyAcross, {
        initial: { customers: [], runs: [], lately: [], mine: [], looks: [] },
        count: 0,
      }),
    ).toContain('You reach no customer yet.');
  });

  it('show a lost node, a failed sign-in, a full and an empty site by more than colour', () => {
    const [node] = site().nodes;
    const html = show(Ground, {
      initial: {
        sites: [
          site({
            nodes: node ? [{ ...node, state: 'lost' }] : [],
            signIn: { worked: false, says: 'does not answer' },
          }),
          site({ code: 'NL', name: 'Norrlight', quota: { vcpu: 160, vcpuUsed: 160 }, nodes: [] }),
          site({ code: 'TF', name: 'Tor Field', nodes: [], sizes: [] }),
        ],
      },
      ranges: [
        {
          site: 'KQ',
          cidr: '10.16.0.0/12',
          closed: false,
          kept: [],
          given: [{ cidr: '10.16.0.0/20', customer: 'C1', used: 0.5 }],
          others: 1,
          full: 2 / 256,
          largestFree: '10.24.0.0/13',
          fragmentation: 0.5,
        },
      ],
      orphans: [
        {
          provider: 'coast',
          ref: '9f3a',
          kind: 'share',
          name: 'scan-copies',
          site: 'KQ',
          customer: null,
          environment: null,
          environmentId: null,
          madeAt: AT,
          monthly: eur(15_00),
        },
        {
          provider: 'coast',
          ref: '77b0',
          kind: 'host',
          name: 'C1-OFFICE09',
          site: 'KQ',
          customer: 'C1',
          environment: 'office',
          environmentId: 'e1',
          madeAt: AT,
          monthly: null,
        },
      ],
      providers: [coast],
      mayConnect: false,
    });
    expect(html).toContain(coast.url);
    expect(html).not.toContain('/ground/connect');
    expect(html).toMatch(/2 orphans.*€15\.00 a month/);
    expect(html).toContain('href="/customers/C1/environments/e1"');
    expect(html).toContain('no price in force');
    expect(html).toContain('10.16.0.0/12: 2 blocks are given, largest free 10.24.0.0/13');
    expect(html).toContain('10.16.0.0/20 C1');
    expect(html).toContain('(1 to others)');
    expect(html).toContain('kq-a1: 96 of 384 GiB, 24 of 128 vCPU, lost');
    expect(html).toContain('does not answer');
    expect(html).toContain('Norrlight: 100 % full');
    expect(html).toContain('Tor Field: 0 % full');
    expect(html).not.toMatch(/NaN|Infinity/);
  });

  it('money stands with the largest first, each currency by itself', () => {
    const html = show(MoneyAcross, {
      initial: {
        customers: [
          customer(1, { forecast: eur(100) }),
          customer(2, { forecast: eur(900) }),
          customer(3, { soFar: { minor: 5, currency: 'JPY' }, forecast: { minor: 9, currency: 'JPY' } }),
        ],
        runs: [],
        lately: [],
        mine: [],
        looks: [],
      },
      count: 3,
    });
    expect(html.indexOf('Customer 2')).toBeLessThan(html.indexOf('Customer 1'));
    expect(html).toContain('This month in JPY');
    expect(html).toContain('¥5');
  });

  it('money of many customers shows one currency at a time, that of the most first', () => {
    const all = many(90, (n) =>
      customer(
        n,
        n % 3 === 0 ? { soFar: { minor: n, currency: 'GBP' }, forecast: { minor: n, currency: 'GBP' } } : {},
      ),
    );
    const html = show(MoneyAcross, {
      initial: { customers: all, runs: [], lately: [], mine: [], looks: [] },
      count: 90,
    });
    expect(html).toContain('This month in EUR');
    expect(html).not.toContain('This month in GBP');
    expect(html).toContain('30 customers');
    const partly = show(MoneyAcross, {
      initial: { customers: all.slice(0, 20), runs: [], lately: [], mine: [], looks: [] },
      count: 90,
    });
    // Sums of some are never shown as sums of all.
    expect(partly).toContain('Counting 90 customers');
    expect(partly).not.toMatch(/so far, forecast|\d %/);
    expect(html).toMatch(/so far, forecast/);
  });

  it('costs of an empty month say so; usage without a rate is not passed over', () => {
    const costs: MonthCosts = {
      month: '2026-11',
      zone: 'UTC',
      from: AT,
      to: AT,
      lines: [],
      total: eur(0),
      forecast: eur(0),
      unpriced: 2,
      days: [],
    };
    const html = show(Costs, { code: 'C1', costs, months: ['2026-11'], sizes: {} });
    expect(html).toContain('Nothing was used in November 2026.');
    expect(html).toContain('2 uses have no rate and are not charged');
  });
});
