import { createElement, type ComponentType } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import type { CustomerPlan as Held, Operator, Plan, PlanVersion } from '../../src/contract';
import { NO_AMOUNTS, NO_LIMITS } from '../../src/core/plans';
import { AddressPlan } from '../../src/views/ground/AddressPlan';
import { Changes } from '../../src/views/ground/Changes';
import { Life } from '../../src/views/life/Life';
import { FromFile } from '../../src/views/onboard/FromFile';
import { fieldFor, likeAnother, NO_FIELDS, sentFor } from '../../src/views/onboard/fields';
import { Onboard } from '../../src/views/onboard/Onboard';
import { Operators } from '../../src/views/operators/Operators';
import { CustomerPlan } from '../../src/views/plans/CustomerPlan';
import { MoveMany } from '../../src/views/plans/MoveMany';
import { Plans } from '../../src/views/plans/Plans';
import { Prices } from '../../src/views/prices/Prices';

/* What is sold, to whom, and who sells it: each view with none, one, many. */

const show = <Props extends object>(view: ComponentType<Props>, props: Props): string =>
  renderToStaticMarkup(createElement(view, props))
    .replace(/<!-- -->/g, '')
    .replace(/\s+/g, ' ');
const many = <Thing>(count: number, make: (n: number) => Thing): Thing[] =>
  Array.from({ length: count }, (_, n) => make(n));
const countOf = (html: string, what: RegExp): number => [...html.matchAll(new RegExp(what, 'g'))].length;

const AT = Date.UTC(2026, 10, 19);
const DAY = 86_400_000;
const mark = { code: 'SVG', hue: 10, shape: 0, pattern: 0 };
const version = (over: Partial<PlanVersion> = {}): PlanVersion => ({
  version: 1,
  from: AT - DAY,
  note: '',
  most: { ...NO_LIMITS, hosts: 4 },
  sizes: [],
  sites: [],
  fees: [{ currency: 'EUR', monthly: '35.00' }],
  retentionDays: 30,
  localAdministrator: false,
  included: [],
  readyHosts: 0,
  customers: [],
  others: 0,
  ...over,
});
const plan = (code: string, ...versions: PlanVersion[]): Plan => ({
  code,
  name: code.toUpperCase(),
  versions,
});

describe('plans', () => {
  const plans = (initial: readonly Plan[], mayKeep = true): string =>
    show(Plans, { initial, marks: { SVG: mark }, sizes: {}, now: AT, mayKeep });

  it('of which there is none say what to do, to who may', () => {
    expect(plans([])).toContain('Make a plan');
    expect(plans([], false)).not.toContain('Make a plan');
  });

  it('show the newest version, and the older ones that someone is on', () => {
    const html = plans([
      plan(
        'skiff',
        version({ version: 3 }),
        version({ version: 2 }),
        version({ customers: ['SVG'], others: 2 }),
      ),
    ]);
    expect(html).toMatch(/v3/);
    expect(html).not.toMatch(/v2/);
    expect(html).toContain('and 2 more');
    expect(countOf(html, /New version/)).toBe(1);
  });

  it('say from when on what begins later can be had', () =>
    expect(plans([plan('skiff', version({ from: AT + DAY }))])).toContain('from 20 Nov 2026'));

  it('of hundreds stand in one table', () =>
    expect(countOf(plans(many(200, (n) => plan(`p${n}`, version()))), /scope="col"/)).toBe(200));
});

describe('customers moved to another version', () => {
  const each = (n: number, over: object = {}) => ({
    code: `C${n}`,
    name: `Customer ${n}`,
    version: 1,
    findings: [],
    monthly: { minor: 500, currency: 'EUR' },
    ...over,
  });
  const shown = (customers: readonly ReturnType<typeof each>[]): string =>
    show(MoveMany, {
      plan: plan('skiff', version({ version: 2 }), version()),
      target: version({ version: 2, most: { ...NO_LIMITS, hosts: 2 } }),
      initial: { version: 2, from: AT, customers },
      marks: {},
      sizes: {},
      now: AT,
    });

  it('are none where nobody is on an older one', () =>
    expect(shown([])).toContain('Nobody is on another version of SKIFF.'));

  it('are listed by code and counted; who would not fit stays, with the reason', () => {
    const html = shown([
      each(1),
      each(2),
      each(3, { findings: ['3 hosts; plan SKIFF allows 2'] }),
      each(4, { monthly: null }),
    ]);
    expect(html).toContain('2 customers fit');
    expect(html).toContain('C1, C2<');
    expect(html).toContain('€10.00 a month more');
    expect(html).toContain('2 would not fit, and stay');
    expect(html).toContain('3 hosts');
    expect(html).toContain('not sold in their currency');
    expect(html).toContain('Type how many customers those are');
    expect(html).toMatch(/<button[^>]*disabled[^>]*>[^<]*Move 2 customers/);
  });

  it('may be hundreds', () => expect(countOf(shown(many(500, (n) => each(n))), /type="checkbox"/)).toBe(500));
});

describe('a customer’s plan', () => {
  const held = (over: Partial<Held> = {}): Held => ({
    plan: 'skiff',
    name: 'Skiff',
    version: 1,
    from: AT - DAY,
    most: { ...NO_LIMITS, hosts: 4 },
    sizes: ['s2x8'],
    sites: [],
    fees: [],
    retentionDays: 30,
    localAdministrator: true,
    included: [],
    readyHosts: 1,
    takes: { ...NO_AMOUNTS, hosts: 3 },
    allowances: [],
    beyond: [],
    stays: [{ plan: 'skiff', name: 'Skiff', version: 1, from: AT - DAY }],
    ...over,
  });
  const shown = (over: Partial<Held> = {}, mayDecide = true): string =>
    show(CustomerPlan, {
      customer: { code: 'SVG', name: 'Saltmirren', zone: 'UTC', currency: 'EUR', mark },
      initial: held(over),
      plans: [
        plan('skiff', version({ version: 2 })),
        plan('raft', version({ most: { ...NO_LIMITS, hosts: 2 } })),
      ],
      now: AT,
      sizes: { s2x8: '2 vCPU · 8 GiB' },
      mayDecide,
    });

  it('shows what is taken of each limit, and what has none', () => {
    const html = shown();
    expect(html).toContain('3 of 4');
    expect(html).toContain('no limit');
    expect(html).toContain('2 vCPU · 8 GiB');
    expect(html).toContain('version 2 can be had');
  });

  it('shows what is beyond it, and what was raised, by whom and why', () => {
    const html = shown({
      takes: { ...NO_AMOUNTS, hosts: 7 },
      beyond: ['7 hosts; plan Skiff allows 6'],
      allowances: [
        { id: 'a', limit: 'hosts', most: 6, until: AT + DAY, reason: 'the fair', actor: 'Bram', madeAt: AT },
      ],
    });
    expect(html).toContain('7 hosts; plan Skiff allows 6');
    expect(html).toContain('7 of 6');
    expect(html).toContain('the fair; Bram, 19 Nov 2026');
  });

  it('tells what another plan would cost and not allow', () => {
    const html = shown();
    expect(html).toContain('€35.00 a month more');
    expect(html).toContain('3 hosts, it allows 2');
  });

  it('gives who does not decide nothing to press', () =>
    expect(shown({}, false)).not.toMatch(/Raise a limit|Move/));
});

describe('addresses', () => {
  const range = (over: object = {}) => ({
    site: 'KQ',
    cidr: '10.16.0.0/12',
    closed: false,
    given: [],
    others: 0,
    kept: [],
    full: 0,
    largestFree: '10.16.0.0/12',
    fragmentation: 0,
    ...over,
  });
  const shown = (ranges: readonly ReturnType<typeof range>[], mayKeep = true): string =>
    show(AddressPlan, {
      initial: { ranges, kept: [{ cidr: '192.168.0.0/24', name: 'the pilot house' }] },
      sites: [{ code: 'KQ', name: 'Kelp Quay' }],
      marks: { SVG: mark },
      mayKeep,
      mayGrow: mayKeep,
    });

  it('without a range say so', () => {
    expect(shown([])).toContain('No site has a range yet');
    expect(shown([], false)).not.toContain('Add a range');
  });

  it('fold what is free, and show who holds what, what is kept clear, and what is closed', () => {
    const html = shown([
      range({
        closed: true,
        given: [{ cidr: '10.16.0.0/20', customer: 'SVG', used: 0.25 }],
        kept: [{ cidr: '10.17.0.0/16', name: 'the pilot house' }],
        others: 3,
      }),
    ]);
    expect(html).toContain('14 such blocks are free');
    expect(html).toContain('10.16.0.0/20 SVG, 25 % in subnets');
    expect(html).toContain('10.17.0.0/16 kept clear: the pilot house');
    expect(html).toContain('closed, nothing more is given');
    expect(html).toContain('3 of them to others');
    expect(html).not.toContain('Remove</');
  });

  it('of two thousand blocks are all there', () => {
    const given = many(2_000, (n) => ({
      cidr: `10.${16 + Math.floor(n / 256)}.${n % 256}.0/24`,
      customer: 'SVG',
      used: 0,
    }));
    expect(countOf(shown([range({ given })]), /% in subnets"/)).toBe(2_000 * 2);
  });
});

describe('what changed', () => {
  const provider = {
    provider: 'coast',
    name: 'Coast',
    currency: 'EUR',
    toldAtAll: true,
    from: AT,
    plannedFrom: null,
    prices: [],
    monthly: { minor: 6_167, currency: 'EUR' },
  };
  const change = {
    id: 'a',
    site: 'KQ',
    siteName: 'Kelp Quay',
    kind: 'node gone' as const,
    subject: 'kq-a1',
    before: '128 vCPU',
    after: '',
    at: AT,
    worse: true,
    hosts: 7,
    customers: ['FPS', 'MHP'],
    others: 2,
  };
  const shown = (over: Partial<Parameters<typeof Changes>[0]>): string =>
    show(Changes, { changes: [], prices: [provider], sizes: {}, mayNote: true, mayTake: true, ...over });

  it('is nothing where all is as it was', () => {
    const html = shown({});
    expect(html).toContain('All is as it was');
    expect(html).not.toContain('Take over from');
  });

  it('tells whom it touches, and gives who may not note it nothing to press', () => {
    const html = shown({ changes: [change], mayNote: false });
    expect(html).toContain('7 hosts of');
    expect(html).toContain('2 other customers');
    expect(html).not.toContain('Noted');
  });

  it('tells by how much a price rose and what that is a month; a lead takes it over', () => {
    const prices = [
      {
        ...provider,
        prices: [
          {
            kind: 'price up' as const,
            meter: 'host',
            size: 's4x16',
            unit: 'hour' as const,
            inForce: '0.088',
            told: '0.09152',
            dearer: 0.04,
            standing: 24,
          },
        ],
      },
    ];
    const html = shown({ prices });
    expect(html).toContain('dearer by 4 %');
    expect(html).toContain('€61.67 a month more for what stands now');
    expect(html).toContain('Take 1 price over');
    expect(shown({ prices, mayTake: false })).not.toContain('Take 1 price over');
    expect(shown({ prices: [{ ...provider, toldAtAll: false, from: null }] })).toContain(
      'It has told no prices.',
    );
  });
});

describe('prices', () => {
  const shown = (over: Partial<Parameters<typeof Prices>[0]>): string =>
    show(Prices, { initial: [], providers: [], sizes: [], now: AT, mayKeep: true, ...over });

  it('of no card say what one is', () => expect(shown({})).toContain('Nothing has a price yet'));

  it('say what is left of each, and where that is less than nothing', () => {
    const rate = { meter: 'host', size: 's2x8', unit: 'hour' as const, price: '0.04', from: 0, to: null };
    const html = shown({
      initial: [
        {
          code: 'eur',
          name: 'Euro',
          currency: 'EUR',
          rates: [rate, { ...rate, price: '0.05', from: AT + DAY }],
        },
      ],
      providers: [
        {
          provider: 'coast',
          name: 'Coast',
          currency: 'EUR',
          toldAtAll: true,
          from: 0,
          plannedFrom: null,
          prices: [{ ...rate, kind: 'price same', inForce: '0.05', told: '0.05', dearer: 0, standing: 1 }],
          monthly: null,
        },
      ],
      sizes: [{ key: 's2x8', vcpu: 2, memoryGiB: 8 }],
    });
    expect(html).toContain('host 2 vCPU · 8 GiB');
    expect(html).toMatch(/data-loss="true">-25 % left/);
    expect(html).toContain('€0.05 from 20 Nov 2026');
  });
});

describe('taking on a customer', () => {
  const props = {
    draftId: 'x',
    plans: [{ code: 'skiff', name: 'Skiff' }],
    sites: [{ code: 'KQ', name: 'Kelp Quay' }],
    cards: [{ code: 'eur', name: 'Euro', currency: 'EUR' }],
    customers: [],
    countries: [],
    zones: [],
  };
  const about = {
    code: 'SVG',
    name: 'Saltmirren',
    state: 'paused' as const,
    plan: 'skiff',
    site: 'KQ',
    zone: 'Europe/Dublin',
    currency: 'EUR',
    card: 'eur',
    contacts: [{ name: 'A', mail: 'a@svg.example', phone: '', what: '' }],
    calendar: { country: 'IE', region: '', days: [] },
    tags: { sector: 'vets' },
    naming: '{customer}{counter:2}',
    nameServers: ['10.0.0.53'],
    blockPrefix: 22,
    gatewayName: 'desks.svg.example',
    administrator: 'it@svg.example',
  };

  it('is one page; of a known one what is fixed is not asked again', () => {
    expect(show(Onboard, props)).toContain('What they buy');
    const known = show(Onboard, { ...props, known: about });
    expect(known).not.toContain('What they buy');
    expect(known).toContain('Change SVG');
  });

  it('begins anew where what was half filled in cannot be read', () => {
    const draft = { id: 'd', title: '', by: '', at: AT, fields: { form: '{' } };
    expect(show(Onboard, { ...props, draft })).toContain('A new customer');
  });

  it('like another copies what may be copied, and no addresses, people or secrets', () => {
    const copied = likeAnother(about, { ...NO_FIELDS, code: 'NEW', name: 'Newly Here' });
    expect(copied).toMatchObject({
      code: 'NEW',
      name: 'Newly Here',
      state: 'active',
      plan: 'skiff',
      tags: [{ tag: 'sector', value: 'vets' }],
      naming: '{customer}{counter:2}',
      blockPrefix: '22',
      contacts: [],
      nameServers: '',
      administrator: '',
    });
    expect(sentFor({ ...copied, nameServers: '10.0.0.1,  10.0.0.2 ', country: 'ie' })).toMatchObject({
      nameServers: ['10.0.0.1', '10.0.0.2'],
      calendar: { country: 'IE', region: '', days: [] },
      tags: { sector: 'vets' },
      blockPrefix: 22,
    });
  });

  it('tells beside the field what the API says of its part', () =>
    expect(['calendar.country', 'nameServers.1', 'tags.Bad One', 'plan'].map(fieldFor)).toEqual([
      'country',
      'nameServers',
      'tags',
      'plan',
    ]));

  it('from a file comes with its editor only in a browser', () =>
    expect(show(FromFile, {})).toContain('Opening the editor …'));
});

describe('operators', () => {
  const operator = (n: number, over: Partial<Operator> = {}): Operator => ({
    id: `o${n}`,
    name: `Operator ${n}`,
    mail: `o${n}@msp.example`,
    role: 'engineer',
    customers: null,
    endsAt: null,
    lastSeenAt: null,
    factor: false,
    invited: false,
    signIns: 0,
    tokens: 0,
    ...over,
  });
  const shown = (initial: readonly Operator[]): string =>
    show(Operators, { initial, factorRequired: false, customers: [], me: 'o0', now: AT });

  it('do not change themselves, and say what there is of each', () => {
    const html = shown([
      operator(0),
      operator(1, { customers: ['A', 'B', 'C', 'D', 'E'], endsAt: AT - DAY, factor: true }),
      operator(2, { customers: [], invited: true }),
    ]);
    expect(countOf(html, /aria-label="Change Operator/)).toBe(2);
    expect(html).toContain('5 customers');
    expect(html).toContain('ended 18 Nov 2026');
    expect(html).toContain('nobody');
    expect(html).toContain('invited');
  });

  it('of thousands are one list', () =>
    expect(shown(many(3_000, (n) => operator(n)))).toContain('3,000 operators'));
});

describe('pausing and leaving', () => {
  const eur = (minor: number) => ({ minor, currency: 'EUR' });
  const shown = (over: object, may = { mayTurn: true, mayLetGo: true }): string =>
    show(Life, {
      code: 'SVG',
      name: 'Saltmirren',
      zone: 'UTC',
      initial: {
        state: 'active',
        environments: [{ id: 'e', name: 'clinic', site: 'Kelp Quay', hosts: 4, on: 3, peopleIn: 2 }],
        now: eur(50_000),
        paused: eur(20_000),
        started: eur(50_000),
        retentionDays: 30,
        leaving: null,
        retiredAt: null,
        deletedAt: null,
        ...over,
      },
      ...may,
    });

  it('tell what they do before they are done', () => {
    const html = shown({});
    expect(html).toContain('3 hosts go off');
    expect(html).toContain('-€300.00 a month');
    expect(html).toContain('cannot be undone');
    expect(html).not.toContain('Start again');
  });

  it('lead to the run while that is at work, and offer to continue where it has stopped', () => {
    const leaving = (state: string): string =>
      shown({ state: 'leaving', leaving: { run: 'r1', state, done: 1, parts: 3 } });
    expect(leaving('running')).toContain('href="/runs/r1"');
    expect(leaving('running')).toContain('1 of 3 environments retired');
    expect(leaving('running')).not.toContain('Continue offboarding');
    expect(leaving('stopped')).toContain('Continue offboarding SVG');
    // Ended by hand: not all of them are retired.
    expect(leaving('done')).toContain('was ended before all environments');
    expect(leaving('done')).toContain('Continue offboarding SVG');
    expect(shown({})).not.toContain('/runs/');
  });

  it('offer a paused customer to start, and one who is gone nothing but their archive', () => {
    const paused = shown({ state: 'paused' });
    expect(paused).toContain('Start again');
    // A pause goes on by itself.
    expect(paused).not.toContain('Pause SVG');
    expect(shown({})).toContain('Pause SVG');
    const gone = shown({ state: 'retired', retiredAt: AT, environments: [] });
    expect(gone).not.toMatch(/Pause SVG|Offboard SVG/);
    expect(gone).toContain('kept until 19 Dec 2026');
    expect(gone).toContain('archive.zip');
    const deleted = shown({ state: 'retired', retiredAt: AT, deletedAt: AT + 30 * DAY, environments: [] });
    expect(deleted).toContain('deleted on 19 Dec 2026, as promised');
  });

  it('say who does it to those who may not', () => {
    const html = shown({}, { mayTurn: false, mayLetGo: false });
    expect(html).toContain('A lead does this.');
    expect(html).toContain('Who builds does this.');
  });
});
