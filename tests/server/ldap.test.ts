import { Attribute, Change } from 'ldapts';
import { createServer, type Server } from 'node:net';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LinkTry, Person, PersonDetail } from '../../src/contract';
import { ldapReader } from '../../src/server/directory/ldap';
import { followDirectories } from '../../src/server/directory-link';
import { CredentialsRefused, OutsideError } from '../../src/server/outside';
import { startSlapd, type Slapd } from './setup/slapd';
import { openWorld, raise, type World } from './setup/world';

const BASE = 'dc=harbour,dc=example';
const unit = (dn: string): string =>
  `dn: ${dn},${BASE}\nobjectClass: organizationalUnit\nou: ${/^ou=([^,]+)/.exec(dn)?.[1] ?? ''}\n`;
const person = (n: number, place: string): string =>
  `dn: uid=person${n},${place},${BASE}\nobjectClass: inetOrgPerson\nuid: person${n}\ncn: Person ${n}\ngivenName: Given${n}\nsn: Family${n}\nmail: person${n}@harbour.example\n`;
const group = (
  name: string,
  members: readonly string[],
  kind = 'groupOfNames',
  attribute = 'member',
): string =>
  `dn: cn=${name},ou=Groups,${BASE}\nobjectClass: ${kind}\ncn: ${name}\n${members.map((one) => `${attribute}: ${one},${BASE}\n`).join('')}`;
const of = (n: number, place = 'ou=Watch A'): string => `uid=person${n},${place}`;

/** More than the server gives at once. */
const MANY = 700;
const LDIF = [
  `dn: ${BASE}\nobjectClass: dcObject\nobjectClass: organization\no: Harbour\ndc: harbour\n`,
  unit('ou=Watch A'),
  unit('ou=Watch B'),
  unit('ou=Night,ou=Watch B'),
  unit('ou=Groups'),
  ...Array.from({ length: MANY }, (_one, n) => person(n, n % 2 === 0 ? 'ou=Watch A' : 'ou=Night,ou=Watch B')),
  // No account, and no person: neither is anybody.
  `dn: cn=Printer,${BASE}\nobjectClass: device\ncn: Printer\n`,
  group('Pilots', ['cn=Early,ou=Groups', 'UID=person1, ou=Night,ou=Watch B']),
  group('Early', [of(0), of(2), 'cn=Pilots,ou=Groups', 'uid=nobody,ou=Elsewhere']),
  group('Late', [of(4)], 'groupOfUniqueNames', 'uniqueMember'),
].join('\n');

describe('a directory that speaks LDAP', { timeout: 120_000 }, () => {
  let slapd: Slapd;
  let world: World;
  beforeAll(async () => {
    slapd = await startSlapd(LDIF);
    world = await openWorld('ldap');
    await raise(world, 'MHP', 'people', 1_000);
  }, 120_000);
  afterAll(async () => {
    await world.close();
    await slapd.close();
  });

  const address = (over: object = {}) => ({
    url: slapd.url,
    base: slapd.base,
    bindAs: slapd.bindAs,
    ...over,
  });
  const reader = (over: object = {}, password = slapd.password) => ldapReader(address(over), password);

  describe('is read', () => {
    it('whole, though it gives five hundred at a time: who they are and where they stand', async () => {
      const { entries, total } = await reader().people({ from: 0 });
      expect(total).toBe(MANY);
      expect(new Set(entries.map(({ id }) => id)).size).toBe(MANY);
      const one = entries.find(({ account }) => account === 'person1');
      expect(one).toMatchObject({
        given: 'Given1',
        family: 'Family1',
        mail: 'person1@harbour.example',
        unit: 'Watch B/Night',
        disabled: false,
      });
      expect((await reader().people({ from: 650 })).entries).toHaveLength(50);
    });

    it('with its groups, in groups and around them, named in whatever letters', async () => {
      const people = new Map(
        (await reader().people({ from: 0 })).entries.map((one) => [one.account, one.id]),
      );
      const { entries } = await reader().groups({ from: 0 });
      const named = new Map(entries.map((one) => [one.name, one]));
      expect(named.get('Pilots')).toMatchObject({
        people: [people.get('person1')],
        groups: [named.get('Early')?.id],
      });
      expect(named.get('Early')?.people).toEqual([people.get('person0'), people.get('person2')]);
      expect(named.get('Early')?.groups).toEqual([named.get('Pilots')?.id]);
      expect(named.get('Late')).toMatchObject({ unit: 'Groups', people: [people.get('person4')] });
    });

    it('by what changed since, and one by one', async () => {
      const { at } = await reader().people({ from: 0 });
      const since = new Date(at ?? 0).toISOString();
      // Its clock shows whole seconds: what changes within this one is asked for again with the next.
      await new Promise((later) => setTimeout(later, 1_100));
      await slapd.change((client) =>
        client.modify(`${of(6)},${BASE}`, [
          new Change({
            operation: 'replace',
            modification: new Attribute({ type: 'sn', values: ['Renamed'] }),
          }),
        ]),
      );
      const { entries } = await reader().people({ from: 0, since });
      expect(entries.map(({ account, family }) => [account, family])).toEqual([['person6', 'Renamed']]);
      expect((await reader().groups({ from: 0, since })).entries).toEqual([]);
      expect(await reader().person(entries[0]?.id ?? '')).toMatchObject({ account: 'person6' });
      expect(await reader().person('*)(uid=*')).toBeUndefined();
    });

    it('by nobody with a wrong password, or none', async () => {
      await expect(reader({}, 'wrong').ids('people', { from: 0 })).rejects.toThrow(CredentialsRefused);
      await expect(reader({}, '').ids('people', { from: 0 })).rejects.toThrow(CredentialsRefused);
      await expect(reader({ bindAs: '' }).ids('people', { from: 0 })).rejects.toThrow(CredentialsRefused);
      await expect(reader({ base: 'dc=nowhere' }).ids('people', { from: 0 })).rejects.toThrow(
        'has no entry dc=nowhere',
      );
      await expect(reader({ url: 'ldap://127.0.0.1:9' }).ids('people', { from: 0 })).rejects.toThrow(
        'is not there',
      );
    });

    it('not for ever, where an answer never comes', async () => {
      const silent: Server = createServer(() => undefined);
      await new Promise<void>((listens) => silent.listen(0, '127.0.0.1', listens));
      const url = `ldap://127.0.0.1:${(silent.address() as AddressInfo).port}`;
      await expect(ldapReader(address({ url }), 'x', 300).ids('people', { from: 0 })).rejects.toThrow(
        OutsideError,
      );
      silent.close();
    });
  });

  describe('is linked for a customer', () => {
    const link = (over: object = {}): object => ({
      via: 'ldap',
      address: slapd.url,
      base: slapd.base,
      bindAs: slapd.bindAs,
      secret: slapd.password,
      units: [],
      groups: [],
      ...over,
    });
    const send = (method: 'POST' | 'PUT', path: string, body: object) =>
      world.call('ida', method, `/customers/MHP/directory${path}`, { body });
    const people = async (): Promise<Person[]> =>
      (await world.call('ida', 'GET', '/customers/MHP/people?limit=1000')).body.entries as Person[];

    it('tried for real, with what is wrong beside its field', async () => {
      const tried = (await send('POST', '/tried', link({ units: ['Watch B'] }))).body as unknown as LinkTry;
      expect(tried).toMatchObject({ outcome: 'works', outside: MANY / 2, people: MANY / 2 });
      expect(tried.units.map(({ name }) => name)).toContain('Watch B/Night');
      expect((await send('POST', '/tried', link({ secret: 'wrong' }))).body).toMatchObject({
        outcome: 'fails',
        fix: 'Look at the name and the password again.',
      });
      for (const [field, value] of Object.entries({
        address: 'http://x.example',
        base: 'nothing',
        bindAs: '',
      }))
        expect((await send('POST', '/tried', link({ [field]: value }))).body.fields).toHaveProperty(field);
    });

    it('and followed: who comes, is renamed, moves and leaves', async () => {
      const reason = 'they keep their own';
      expect((await send('PUT', '', { ...link({ units: ['Watch A', 'Groups'] }), reason })).status).toBe(200);
      expect((await send('POST', '/reading', {})).status).toBe(200);
      await followDirectories(world.app);
      const before = await people();
      const [first] = before.filter(({ account }) => account === 'person8');
      expect(before.filter(({ account }) => account.startsWith('person'))).toHaveLength(MANY / 2);
      await new Promise((later) => setTimeout(later, 1_100));
      await slapd.change(async (client) => {
        await client.modifyDN(`${of(8)},${BASE}`, `uid=person8b,ou=Watch A,${BASE}`);
        await client.modifyDN(`${of(10)},${BASE}`, `uid=person10,ou=Watch B,${BASE}`);
        await client.del(`${of(12)},${BASE}`);
        await client.add(`uid=new,ou=Watch A,${BASE}`, {
          objectClass: ['inetOrgPerson'],
          cn: 'New',
          sn: 'New',
          mail: 'new@harbour.example',
        });
      });
      world.clock.at += 61_000;
      await world.app.db.write('UPDATE directory_link SET due_wall = 0');
      await followDirectories(world.app);
      const after = await people();
      expect(after.find(({ account }) => account === 'person8b')?.id).toBe(first?.id);
      const accounts = new Set(after.map(({ account }) => account));
      for (const gone of ['person8', 'person10', 'person12'])
        expect([gone, accounts.has(gone)]).toEqual([gone, false]);
      expect(accounts.has('new')).toBe(true);
      // Groups came with it, nested as they are.
      const zero = after.find(({ account }) => account === 'person0');
      const { groups } = (await world.call('ida', 'GET', `/customers/MHP/people/${zero?.id ?? ''}`))
        .body as unknown as PersonDetail;
      expect(groups.map(({ name }) => name).sort()).toEqual(['Early', 'Pilots']);
    });

    it('with a password that is shown to no other place', async () => {
      const elsewhere = link({ address: 'ldap://127.0.0.1:9', secret: null });
      expect((await send('POST', '/tried', elsewhere)).body.fields).toEqual({ secret: 'is not known yet' });
      expect((await send('POST', '/tried', link({ via: 'scim', secret: null }))).body.fields).toEqual({
        secret: 'is not known yet',
      });
      expect((await send('POST', '/tried', link({ secret: null, units: ['Watch A'] }))).body).toMatchObject({
        outcome: 'works',
      });
    });
  });
});
