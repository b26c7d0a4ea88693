import fc from 'fast-check';
import ipaddr from 'ipaddr.js';
import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import { mayBegin, type Proposal } from '../../src/core/planning';
import { carriedOut, block, facts, input, proposed } from './setup/facts';

const services = {
  network: 'the id of our network',
  cidr: '10.16.16.0/20',
  nameServers: ['10.16.16.6', '10.16.16.7'],
  directory: '10.16.16.4',
};
const served: Facts = { ...facts, site: { ...facts.site, services } };
const peerings = (proposal: Proposal) => proposal.wanted.filter((one) => one.kind === 'peering');
const networkOf = (proposal: Proposal) => proposal.wanted.find((one) => one.kind === 'network');

describe('the shared services of a site', () => {
  const own: Facts = {
    ...facts,
    customer: {
      ...facts.customer,
      code: 'MSP',
      realm: '',
      environments: [],
      plan: { ...facts.customer.plan },
    },
  };
  const proposal = proposed('provide-services', { site: 'KQ' }, own);

  it('are a network, a subnet and what answers there, each at an address of its own beyond the reserved ones', () => {
    expect(proposal.wanted.map((one) => one.kind)).toEqual(['network', 'subnet', 'services']);
    expect(proposal.wanted.find((one) => one.kind === 'services')?.attributes).toEqual({
      site: 'KQ',
      directory: '10.16.0.4',
      gateway: '10.16.0.5',
      // Two, as RFC 2182 section 5 asks for at least.
      nameServers: ['10.16.0.6', '10.16.0.7'],
    });
    expect(mayBegin(proposal.checks)).toBe(true);
    expect(proposal.monthly.minor).toBe(0);
  });

  it('are not there twice', () => {
    const again = proposed(
      'provide-services',
      { site: 'KQ' },
      { ...own, customer: { ...own.customer, environments: ['services-kq'] } },
    );
    expect(again.checks.find((one) => one.key === 'name')).toMatchObject({
      state: 'blocks',
      says: 'Kelp Quay has them already',
    });
  });

  it('stay as long as someone is joined with them', () => {
    const standing = carriedOut(proposal, own);
    const going = (joinedBy: number) =>
      proposed('retire', {}, { ...standing, site: { ...standing.site, joinedBy } });
    expect(going(2).checks).toContainEqual(
      expect.objectContaining({ key: 'joined', state: 'blocks', says: '2 customers are joined with it' }),
    );
    expect(mayBegin(going(0).checks)).toBe(true);
  });
});

describe('a network that is joined with the shared services', () => {
  const proposal = proposed('provision', input, served);

  it('has a peering on each side: out to them, back to it', () => {
    expect(peerings(proposal).map(({ key, attributes }) => [key, attributes.far])).toEqual([
      ['peering:KQ:back', '10.16.0.0/20'],
      ['peering:KQ:out', '10.16.16.0/20'],
    ]);
  });

  it('asks their name servers, or the customer’s own where it has some', () => {
    expect(networkOf(proposal)?.attributes.nameServers).toEqual(services.nameServers);
    const own = proposed('provision', input, {
      ...served,
      customer: { ...served.customer, nameServers: ['10.0.0.53'] },
    });
    expect(networkOf(own)?.attributes.nameServers).toEqual(['10.0.0.53']);
  });

  it('is joined and tried before any host joins its directory', () => {
    const { steps } = proposal;
    const tried = steps.find((one) => one.action === 'try');
    const before = (key: string, seen = new Set<string>()): Set<string> => {
      for (const need of steps.find((one) => one.key === key)?.needs ?? [])
        if (!seen.has(need)) before(need, seen.add(need));
      return seen;
    };
    const joins = steps.filter((one) => one.action === 'join');
    expect(joins.length).toBeGreaterThan(0);
    for (const join of joins) expect(before(join.key)).toContain(tried?.key);
    for (const side of ['back', 'out'])
      expect(before(tried?.key ?? '')).toContain(
        steps.find((one) => one.action === 'make' && one.resource === `peering:KQ:${side}`)?.key,
      );
  });

  it('leaves as it came: hosts first, then the peerings, then the network', () => {
    const gone = proposed('retire', {}, carriedOut(proposal, served));
    const at = (kind: string): number[] =>
      gone.steps.flatMap((one, n) => (one.kind === kind && one.action === 'remove' ? [n] : []));
    const needsOf = (n: number): readonly string[] => gone.steps[n]?.needs ?? [];
    const [network] = at('network');
    expect(at('peering')).toHaveLength(2);
    for (const n of at('peering')) expect(needsOf(network ?? 0)).toContain(gone.steps[n]?.key);
  });

  it('is joined later where there were no shared services before', () => {
    const standing = carriedOut(proposed('provision', input, facts), facts);
    const later = { ...standing, site: { ...standing.site, services } };
    const joined = proposed('join-services', {}, later);
    expect(joined.tasks.map(({ key, task }) => [key, task.do])).toEqual([
      ['network:KQ', 'change'],
      ['peering:KQ:back', 'make'],
      ['peering:KQ:out', 'make'],
    ]);
    const nothing = proposed('join-services', {}, carriedOut(joined, later));
    expect(nothing.checks[0]).toMatchObject({ key: 'nothing', state: 'blocks' });
  });

  it('has one side mended where that alone is missing, and tries it again', () => {
    const standing = carriedOut(proposal, served);
    const broken = {
      ...standing,
      present: standing.present.filter((one) => one.key !== 'peering:KQ:out'),
    };
    const mending = proposed('mend', { differences: [{ key: 'peering:KQ:out', how: 'as wanted' }] }, broken);
    expect(mending.steps.map((one) => [one.resource, one.action])).toEqual([
      ['peering:KQ:out', 'make'],
      ['peering:KQ:out', 'try'],
    ]);
  });

  it('builds no host that would not reach its directory', () => {
    const standing = carriedOut(proposal, served);
    const more = (route: Facts['site']['route']) =>
      proposed('add-hosts', { pool: 'desks', hosts: 1 }, { ...standing, site: { ...standing.site, route } });
    expect(more({ worked: false, says: 'from 10.16.0.0/20, no way leads back' }).checks).toContainEqual(
      expect.objectContaining({
        key: 'route',
        state: 'blocks',
        says: 'from 10.16.0.0/20, no way leads back',
      }),
    );
    expect(mayBegin(more({ worked: true, says: 'reached' }).checks)).toBe(true);
  });

  it('is not said to have been tried before it stands; name servers that are asked beforehand are', () => {
    const first = (nameServers: Facts['site']['nameServers']) =>
      proposed('provision', input, { ...served, site: { ...served.site, nameServers } });
    const route = (nameServers: Facts['site']['nameServers']) =>
      first(nameServers).checks.find(({ title }) => title === 'Network');
    expect(route(undefined)).toMatchObject({
      state: 'warns',
      says: 'not tried: this makes or changes it first',
    });
    expect(route({ worked: true, says: '2 name servers know svg.example' })).toMatchObject({
      state: 'passes',
      says: '2 name servers know svg.example; the whole way is tried before a host is built',
    });
    const nobody = first({ worked: false, says: 'no name server answers at 10.9.9.9' });
    expect(nobody.checks.find(({ title }) => title === 'Network')).toMatchObject({
      key: 'name-servers',
      state: 'blocks',
    });
    expect(mayBegin(nobody.checks)).toBe(false);
  });

  it('is mended by what is said to mend it, however it is now', () => {
    const standing = carriedOut(proposal, served);
    const site = { ...standing.site, route: { worked: false, says: 'no name server answers at 10.9.9.9' } };
    const broken: Facts = {
      ...standing,
      site,
      customer: { ...standing.customer, nameServers: ['10.16.16.6'] },
      present: standing.present.filter(({ kind }) => kind !== 'host'),
    };
    const lost = broken.known.filter(({ kind }) => kind === 'host').map(({ key }) => key);
    const all = lost.map((key) => ({ key, how: 'as wanted' as const }));
    const mending = proposed('mend', { differences: all }, broken);
    expect(mending.steps.some(({ kind, action }) => kind === 'host' && action === 'make')).toBe(true);
    expect(mending.checks.find(({ key }) => key === 'route')).toMatchObject({ state: 'warns' });
    expect(mayBegin(mending.checks)).toBe(true);
    // What does not touch the way is held back as before.
    const hosts = proposed('mend', { differences: all }, { ...broken, customer: standing.customer });
    expect(hosts.checks.find(({ key }) => key === 'route')).toMatchObject({ state: 'blocks' });
  });

  it('leads back to all of a block that was made larger', () => {
    const standing = carriedOut(proposal, served);
    const larger = { ...standing, customer: { ...standing.customer, block: block('10.16.0.0/19') } };
    const more = proposed('add-hosts', { pool: 'desks', hosts: 1 }, larger);
    expect(peerings(more).map((one) => one.attributes.far)).toEqual(['10.16.0.0/19', '10.16.16.0/20']);
    expect(
      more.tasks.filter(({ kind }) => kind.key === 'peering').map(({ key, task }) => [key, task.do]),
    ).toEqual([['peering:KQ:back', 'change']]);
  });

  it('is joined with no other customer’s, whatever else stands at the site', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 15 }),
        fc.integer({ min: 0, max: 15 }),
        fc.string({ minLength: 1, maxLength: 12 }),
        (own, ours, code) => {
          fc.pre(own !== ours);
          const cidr = (n: number): string => `10.16.${n * 16}.0/20`;
          const from: Facts = {
            ...served,
            customer: { ...served.customer, code, block: block(cidr(own)) },
            site: { ...served.site, services: { ...services, cidr: cidr(ours) } },
          };
          const proposal = proposed('provision', input, from);
          for (const { attributes } of peerings(proposal)) {
            expect([cidr(own), cidr(ours)]).toContain(attributes.far);
            expect(attributes.services).toBe(services.network);
          }
          // The two sides never overlap: routing between them would be ambiguous (RFC 4632 section 5.1).
          const [back = '', out = ''] = peerings(proposal).map((one) => String(one.attributes.far));
          const [base] = ipaddr.IPv4.parseCIDR(back);
          expect(base.match(ipaddr.IPv4.parseCIDR(out))).toBe(false);
        },
      ),
    ));
});
