import { createElement, type ComponentType } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import type {
  Gateway as GatewayData,
  JoinedNetwork,
  Networks as NetworksData,
  Shelves,
} from '../../src/contract';
import { DirectoryLink } from '../../src/views/directory/DirectoryLink';
import { Gateway } from '../../src/views/gateway/Gateway';
import { drawnOf, MOST_DRAWN, stateOf } from '../../src/views/ground/joined';
import { Networks } from '../../src/views/ground/Networks';
import { Shelf } from '../../src/views/ground/Shelf';

/* Pages of before the first environment, as they come: none, one, five hundred; and who may not change them. */

const show = <Props extends object>(view: ComponentType<Props>, props: Props): string =>
  renderToStaticMarkup(createElement(view, props))
    .replace(/<!-- -->/g, '')
    .replace(/\s+/g, ' ');
const count = (html: string, what: RegExp): number => [...html.matchAll(new RegExp(what, 'g'))].length;

const network = (code: string, over: Partial<JoinedNetwork> = {}): JoinedNetwork => ({
  customer: code,
  site: 'KQ',
  cidr: '10.16.0.0/20',
  nameServers: ['10.16.0.6'],
  out: 'stands',
  back: 'stands',
  differences: [],
  environment: 'e',
  ...over,
});
const services = {
  cidr: '10.16.16.0/20',
  nameServers: ['10.16.0.6'],
  directory: '10.16.16.4',
  gateway: '10.16.16.5',
  environment: 'own',
  state: 'serving' as const,
};
const marks = { A: { code: 'A', hue: 1, shape: 0, pattern: 0 } };

describe('networks', () => {
  const page = (initial: NetworksData, mayChange = true): string =>
    show(Networks, { initial, marks, names: {}, mayChange, reachesAll: true });
  const site = (over: object = {}) => ({ site: 'KQ', name: 'Kelp Quay', services, ...over });

  it('at a site without shared services say so, and offer them to who may', () => {
    const none = { sites: [site({ services: null })], networks: [] };
    expect(page(none)).toContain('Provide shared services');
    expect(page(none, false)).not.toContain('Provide shared services');
  });

  it('of nobody yet say what makes one', () =>
    expect(page({ sites: [site()], networks: [] })).toContain(
      'the first environment at this site makes one',
    ));

  it('of five hundred draw those whose way is broken first, and count the others', () => {
    const networks = Array.from({ length: 500 }, (_, n) =>
      network(
        `C${String(n).padStart(3, '0')}`,
        n === 400 ? { back: 'missing', differences: [{ key: 'k', attribute: null, says: 'x' }] } : {},
      ),
    );
    const { drawn, others } = drawnOf(networks);
    expect([drawn.length, others, drawn[0]?.customer]).toEqual([MOST_DRAWN, 500 - MOST_DRAWN, 'C400']);
    expect(page({ sites: [site()], networks })).toContain('499 of 500 networks joined');
  });

  it.each<[Partial<JoinedNetwork>, string]>([
    [{}, 'both sides'],
    [{ out: 'missing' }, 'no way out'],
    [{ back: 'missing' }, 'no way back'],
    [{ out: 'missing', back: 'missing' }, 'broken'],
    [{ out: 'under way', back: 'missing' }, 'under way'],
    [{ out: 'not asked for', back: 'not asked for' }, 'not joined'],
    [{ differences: [{ key: 'network:KQ', attribute: 'nameServers', says: 'x' }] }, 'otherwise than wanted'],
  ])('that is %j is told in words: %s', (over, says) => expect(stateOf(network('A', over)).says).toBe(says));
});

describe('a gateway', () => {
  const now = Date.UTC(2026, 10, 26);
  const kept = {
    fingerprint: 'f',
    subject: 's',
    issuer: 'Coast',
    names: ['desks.a.example'],
    from: now - 1e9,
    until: now + 10 * 86_400_000,
    keptAt: now,
    by: 'Ida',
  };
  const page = (initial: GatewayData, mayChange = true): string =>
    show(Gateway, {
      customer: { code: 'A', name: 'A', zone: 'UTC', mark: marks.A },
      initial,
      now,
      mayChange,
    });

  it('without a name or a certificate says what is missing', () => {
    expect(page({ name: '', certificates: [], sites: [] })).toContain('give them one');
    expect(page({ name: 'desks.a.example', certificates: [], sites: [] })).toContain(
      'No certificate for desks.a.example yet',
    );
  });

  it('tells when its certificate ends, and which site answers with which', () => {
    const sites = [
      { site: 'KQ', siteName: 'Kelp Quay', environment: 'e', serves: 'f', underWay: false },
      { site: 'TF', siteName: 'Tor Field', environment: 'g', serves: null, underWay: false },
    ];
    const html = page({ name: 'desks.a.example', certificates: [kept], sites });
    expect(html).toContain('10 days');
    expect(html).toContain('Serve the newest at Tor Field');
    expect(html).not.toContain('Serve the newest at Kelp Quay');
    const read = page({ name: 'desks.a.example', certificates: [kept], sites }, false);
    expect(read).not.toContain('Serve the newest');
    expect(read).not.toContain('A new certificate');
  });
});

describe('the ready shelf', () => {
  const none: Shelves = { shelves: [], strays: [], plans: [], handed: [] };
  const page = (initial: Shelves, mayDecide = true): string =>
    show(Shelf, { initial, marks, sites: [], sizes: { s4: '4 vCPU' }, mayDecide, mayChange: mayDecide });

  it('that is empty says what that means, and offers to fill it to who may decide', () => {
    expect(page(none)).toContain('Keep hosts ready');
    expect(page(none, false)).not.toContain('Keep hosts ready');
  });

  it('shows what is ready, what is missing, and how far the budget reaches', () => {
    const host = (n: number) => ({
      name: `R${n}`,
      state: 'ready' as const,
      since: 0,
      lacks: [],
      byHand: false,
    });
    const shelf = {
      environment: 'e',
      site: 'KQ',
      siteName: 'Kelp Quay',
      image: 'Ostrel 12',
      size: 's4',
      diskGiB: 128,
      wanted: 5,
      affords: 4,
      most: '300.00',
      currency: 'EUR',
      each: { minor: 7000, currency: 'EUR' },
      soFar: { minor: 1234, currency: 'EUR' },
      hosts: [host(1), { ...host(2), lacks: ['office set'], byHand: true }],
    };
    const html = page({ ...none, shelves: [shelf] });
    expect(html).toContain('the budget reaches for 4');
    expect(html).toContain('2 hosts are about to be built');
    expect(html).toContain('no office set on it');
    expect(count(html, /class="mono"[^>]*>R\d/)).toBe(2);
  });
});

describe('the link to a directory', () => {
  const link = {
    realm: 'a.example',
    linked: false,
    units: [],
    groups: [],
    state: 'linked' as const,
    says: '',
    via: 'scim' as const,
    address: '',
    base: '',
    bindAs: '',
    leaving: null,
    readAt: null,
    people: null,
    bad: [],
    movedAt: null,
  };
  const page = (mayChange: boolean): string =>
    show(DirectoryLink, { code: 'A', zone: 'UTC', initial: link, mayChange });

  it('says what happens before anything does, and nothing can be filled in by who may not', () => {
    expect(page(true)).toContain('Nobody is taken in before you say so');
    expect(count(page(false), /<input[^>]*disabled/)).toBe(1);
  });
});
