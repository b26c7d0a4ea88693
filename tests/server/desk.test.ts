import { identity } from '../../src/core/text';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Desk, Person, Published, Started } from '../../src/contract';
import { peopleOf } from '../../src/demo/people';
import type { App } from '../../src/server/app';
import { systemScope } from '../../src/server/access';
import { askForLink, mailAsked } from '../../src/server/desk';
import { hostsForPerson, keyOf } from '../../src/server/desk/hosts';
import { keepSeats, type KnownOffer } from '../../src/server/grants';
import { OutsideError } from '../../src/server/outside';
import { control } from '../../src/demo/living';
import { begin, openWorld, provisionFor, raise, type Called, type World } from './setup/world';

/** SVG has desks that many share; its people come to them from their own desks. */
describe('my desk', { timeout: 120_000 }, () => {
  let world: World;
  let environment = '';
  /** By account, as licence seats are given: the first twelve have one. */
  const PEOPLE = peopleOf('SVG', 96).sort((a, b) => (a.account < b.account ? -1 : 1));
  const mailOf = (n: number): string => PEOPLE[n]?.mail ?? '';
  const cookies = new Map<number, string>();

  interface Message {
    readonly id: string;
    readonly recipients: string;
    readonly subject: string;
    readonly body: string;
  }
  const OWN = { origin: 'http://laager.test', host: 'laager.test' };
  const callWith = (
    cookie: string | undefined,
    method: string,
    path: string,
    body?: object,
  ): Promise<Called> =>
    world.callWith('', method, path, {
      ...(body === undefined ? {} : { body }),
      headers: { ...OWN, ...(cookie === undefined ? {} : { cookie }) },
    });
  const mailed = async (mail: string): Promise<void> => {
    await askForLink(world.app, mail);
    await mailAsked(world.app);
  };
  const used = new Set<string>();
  /** A way in that was mailed to an address, and not taken before. */
  const linkFor = async (mail: string): Promise<string> => {
    const { messages } = (await (await fetch(`${world.mailUrl}/messages`)).json()) as { messages: Message[] };
    const links = messages
      .filter((one) => one.recipients.includes(mail))
      .map(({ body }) => /\/desk\/in\/([\w-]+)/.exec(body)?.[1] ?? '');
    const link = links.find((one) => !used.has(one)) ?? '';
    used.add(link);
    return link;
  };
  const signedIn = async (n: number): Promise<string> => {
    const before = cookies.get(n);
    if (before !== undefined) return before;
    // Those that were sent before may be over.
    while ((await linkFor(mailOf(n))) !== '');
    await mailed(mailOf(n));
    const { headers } = await callWith(undefined, 'POST', '/desk/session', {
      link: await linkFor(mailOf(n)),
    });
    const cookie = headers.getSetCookie()[0]?.split(';')[0] ?? '';
    cookies.set(n, cookie);
    return cookie;
  };
  const at = async (n: number, method: string, path: string, body?: object): Promise<Called> =>
    callWith(await signedIn(n), method, `/desk${path}`, body);
  const desk = async (n: number): Promise<Desk> => (await at(n, 'GET', '')).body as unknown as Desk;
  const place = (over: object = {}): object => ({
    environmentId: environment,
    pool: 'desks',
    item: 'Full desktop',
    ...over,
  });
  const start = (n: number, over: object = {}): Promise<Called> => at(n, 'POST', '/starts', place(over));
  const hostOf = async (n: number): Promise<string> =>
    ((await start(n)).body as unknown as Started).connection?.host ?? '';
  const hostCount = async (): Promise<number> =>
    (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`)).body.entries.length;
  const readSessions = (): Promise<void> => world.living.job('sessions');

  beforeAll(async () => {
    world = await openWorld('desk');
    // At night nobody comes by themselves.
    await world.living.moveTo(Date.UTC(2026, 10, 19, 2, 0));
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 12, 'KQ'));
    await world.living.untilQuiet();
  });
  afterAll(() => world.close());

  const mailsSent = async (): Promise<Message[]> =>
    ((await (await fetch(`${world.mailUrl}/messages`)).json()) as { messages: Message[] }).messages;

  describe('lets people in', () => {
    it('by a way in that is mailed to them, once', async () => {
      await mailed(mailOf(0));
      const link = await linkFor(mailOf(0));
      const first = await callWith(undefined, 'POST', '/desk/session', { link });
      expect(first.status).toBe(204);
      expect(first.headers.getSetCookie()[0]).toMatch(/^laager_desk=.*HttpOnly.*SameSite=Lax/);
      expect((await callWith(undefined, 'POST', '/desk/session', { link })).status).toBe(401);
    });

    it('says the same whether anybody has an address, and mails nothing where nobody has', async () => {
      const count = async (): Promise<number> =>
        ((await (await fetch(`${world.mailUrl}/messages`)).json()) as { messages: Message[] }).messages
          .length;
      const before = await count();
      const asked = await callWith(undefined, 'POST', '/desk/links', { mail: 'nobody@svg.example' });
      const known = await callWith(undefined, 'POST', '/desk/links', { mail: mailOf(1) });
      expect([asked.status, asked.text]).toEqual([known.status, known.text]);
      // Whether there is anybody is not even looked at before it is answered.
      expect(await count()).toBe(before);
      await mailAsked(world.app);
      await mailAsked(world.app);
      expect(await count()).toBe(before + 1);
      expect((await callWith(undefined, 'POST', '/desk/links', { mail: 'no address' })).status).toBe(422);
    });

    it('once the mail service is back, where it took nothing for a while, and not half an hour later', async () => {
      const silent = {
        send: () => Promise.reject(new OutsideError('mail', 'does not answer', 'passing')),
      };
      const without = { ...world.app, mail: silent };
      await askForLink(without, mailOf(4));
      await expect(mailAsked(without)).rejects.toThrow('does not answer');
      expect(await linkFor(mailOf(4))).toBe('');
      world.clock.at += 6_000;
      await mailAsked(world.app);
      expect(await linkFor(mailOf(4))).not.toBe('');
      await askForLink(without, mailOf(4));
      world.clock.at += 31 * 60_000;
      await mailAsked(world.app);
      expect(await linkFor(mailOf(4))).toBe('');
    });

    it('though another’s cannot be mailed, who is mailed once at each customer however often it is tried', async () => {
      // Somebody of two customers with one address; the second of their mails is not taken for a while.
      const [two, other] = [mailOf(5), mailOf(6)];
      await world.app.db.write(
        `UPDATE person SET mail = ? WHERE customer_id = (SELECT id FROM customer WHERE code = 'MHP') ORDER BY account LIMIT 1`,
        [two],
      );
      const halting = (most: number): App => {
        let taken = 0;
        const send: App['mail']['send'] = (id, message) =>
          message.to.includes(two) && (taken += 1) > most
            ? Promise.reject(new OutsideError('mail', 'does not answer', 'passing'))
            : world.app.mail.send(id, message);
        return { ...world.app, mail: { send } };
      };
      const subjects = async (): Promise<string[]> => {
        const response = await fetch(`${world.mailUrl}/messages`);
        const { messages } = (await response.json()) as { messages: Message[] };
        return messages.filter(({ recipients }) => recipients.includes(two)).map(({ subject }) => subject);
      };
      await askForLink(world.app, two);
      await askForLink(world.app, other);
      await expect(mailAsked(halting(1))).rejects.toThrow('does not answer');
      expect(await subjects()).toHaveLength(1);
      // It rests, and the other goes first.
      await mailAsked(halting(0));
      expect(await linkFor(other)).not.toBe('');
      world.clock.at += 6_000;
      await expect(mailAsked(halting(1))).rejects.toThrow('does not answer');
      world.clock.at += 6_000;
      await mailAsked(world.app);
      expect((await subjects()).sort()).toEqual([
        'Your desk at Marram Harbour Pilots',
        'Your desk at Saltmirren Veterinary Group',
      ]);
    });

    it('never at an address that only looks like theirs', async () => {
      const [name = '', domain = ''] = mailOf(7).split('@');
      const alike = [
        `${name}@${domain.replace('g', 'ĝ')}`,
        `${name.replace(/[a-z]/, '\u00e1')}@${domain}`,
        `${name}@${domain.replace('s', '\uff53')}`,
        `${name}\u0301@${domain}`,
        mailOf(7).replace('i', '\u0131'),
        mailOf(7).replace('k', '\u212a'),
      ].filter((mail) => mail !== mailOf(7));
      const before = await mailsSent();
      for (const mail of alike) await askForLink(world.app, mail);
      await mailAsked(world.app);
      expect(await mailsSent()).toHaveLength(before.length);
      // In capitals it is theirs, and the mail goes to the address that is known.
      await askForLink(world.app, identity(mailOf(7).toUpperCase()));
      await mailAsked(world.app);
      expect((await mailsSent()).at(-1)?.recipients).toContain(mailOf(7));
    });

    it('not for as often as somebody likes to ask, and who is asked for gets theirs all the same', async () => {
      const ask = (): Promise<Response> =>
        world.api.answer(
          new Request('http://laager.test/api/v1/desk/links', {
            method: 'POST',
            headers: {
              origin: 'http://laager.test',
              host: 'laager.test',
              'content-type': 'application/json',
              'x-laager-peer': '203.0.113.77',
            },
            body: JSON.stringify({ mail: mailOf(2) }),
          }),
        );
      const asked = await Promise.all(Array.from({ length: 40 }, ask));
      expect(asked.filter(({ status }) => status === 429)).toHaveLength(10);
      const before = (await mailsSent()).length;
      await mailAsked(world.app);
      expect((await mailsSent()).length).toBe(before + 1);
      // Whoever asks from elsewhere gets one, at the latest when the last one is a minute old.
      world.clock.at += 61_000;
      const mine = await callWith(undefined, 'POST', '/desk/links', { mail: mailOf(2) });
      await mailAsked(world.app);
      expect([mine.status, (await mailsSent()).length]).toEqual([202, before + 2]);
    });

    it('not by a way in that is over, and not for ever', async () => {
      await mailed(mailOf(3));
      const link = await linkFor(mailOf(3));
      world.clock.at += 31 * 60_000;
      expect((await callWith(undefined, 'POST', '/desk/session', { link })).status).toBe(401);
      const cookie = await signedIn(3);
      world.clock.at += 12 * 60 * 60_000;
      expect((await callWith(cookie, 'GET', '/desk')).status).toBe(401);
      cookies.clear();
      await world.living.moveTo(Date.UTC(2026, 10, 20, 2, 0));
    });

    it('with no operator’s sign-in, and a desk opens nothing of an operator’s', async () => {
      expect((await world.call('ida', 'GET', '/desk')).status).toBe(401);
      const cookie = await signedIn(4);
      for (const path of ['/customers', '/customers/SVG/people', '/sessions', '/trail'])
        expect((await callWith(cookie, 'GET', path)).status).toBe(401);
    });

    it('not from another site’s page', async () => {
      const cookie = await signedIn(4);
      const foreign = await world.callWith('', 'POST', '/desk/starts', {
        body: place(),
        headers: { cookie, origin: 'http://evil.example', host: 'laager.test' },
      });
      expect(foreign.status).toBe(403);
    });
  });

  describe('sent again with its key', () => {
    const keyed = async (
      n: number,
      key: string,
      method: string,
      path: string,
      body: object,
    ): Promise<Called> =>
      world.callWith('', method, `/desk${path}`, {
        body,
        headers: { ...OWN, cookie: await signedIn(n), 'idempotency-key': key },
      });
    const started = async (): Promise<number> =>
      ((await world.call('ida', 'GET', '/customers/SVG/trail')).body.entries as { action: string }[]).filter(
        ({ action }) => action === 'start item',
      ).length;

    it('starts once, and answers the same; another’s same key is another’s', async () => {
      const before = await started();
      const [first, again] = [
        await keyed(6, 'k', 'POST', '/starts', place()),
        await keyed(6, 'k', 'POST', '/starts', place()),
      ];
      expect([first.status, first.body.state]).toEqual([200, 'ready']);
      expect(again.body).toEqual(first.body);
      expect(await started()).toBe(before + 1);
      const other = await keyed(7, 'k', 'POST', '/starts', place());
      expect(other.body.connection).toMatchObject({ account: PEOPLE[7]?.account });
      expect(await started()).toBe(before + 2);
      const misused = await keyed(6, 'k', 'POST', '/starts', place({ item: 'Another' }));
      expect([misused.status, misused.body.type]).toEqual([422, 'urn:laager:problem:idempotency-key']);
    });

    it('does not undo what came between', async () => {
      await keyed(6, 'liked', 'PUT', '/favourite', { favourite: place() });
      await keyed(6, 'not any more', 'PUT', '/favourite', { favourite: null });
      await keyed(6, 'liked', 'PUT', '/favourite', { favourite: place() });
      expect((await desk(6)).items.some(({ favourite }) => favourite)).toBe(false);
    });

    it('signs out, also where that was done already', async () => {
      await mailed(mailOf(8));
      const { headers } = await callWith(undefined, 'POST', '/desk/session', {
        link: await linkFor(mailOf(8)),
      });
      const cookie = headers.getSetCookie()[0]?.split(';')[0];
      for (const _time of ['first', 'again'])
        expect((await callWith(cookie, 'DELETE', '/desk/session')).status).toBe(204);
      expect((await callWith(cookie, 'GET', '/desk')).status).toBe(401);
    });
  });

  describe('shows what is theirs', () => {
    it('and how it is', async () => {
      const { customer, person, items } = await desk(5);
      expect(customer).toMatchObject({ code: 'SVG', name: 'Saltmirren Veterinary Group' });
      expect(person.account).toBe(PEOPLE[5]?.account);
      expect(items[0]).toMatchObject({
        name: 'Full desktop',
        kind: 'desktop',
        state: 'ready',
        says: 'Ready',
      });
    });

    it('and what stands first is what they put there', async () => {
      const app = (await desk(5)).items.find(({ kind }) => kind === 'app');
      await at(5, 'PUT', '/favourite', { favourite: place({ item: app?.name }) });
      expect((await desk(5)).items[0]).toMatchObject({ name: app?.name, favourite: true });
      await at(5, 'PUT', '/favourite', { favourite: null });
      expect((await desk(5)).items[0]).toMatchObject({ kind: 'desktop', favourite: false });
    });

    it('to an engineer just as they see it, and that stands on the trail', async () => {
      const { body } = await world.call('ida', 'GET', '/customers/SVG/people?find=' + PEOPLE[5]?.account);
      const id = (body.entries as Person[])[0]?.id ?? '';
      const seen = await world.call('ida', 'GET', `/customers/SVG/people/${id}/desk`);
      expect(seen.body).toEqual(await desk(5));
      const trail = await world.call('ida', 'GET', '/customers/SVG/trail?find=look%20at%20desk');
      expect(trail.body.entries).toMatchObject([{ action: 'look at desk', actor: 'Ida Quist' }]);
      expect((await world.call('petra', 'GET', `/customers/SVG/people/${id}/desk`)).status).toBe(403);
      expect((await world.call('jonah', 'GET', `/customers/MHP/people/${id}/desk`)).status).toBe(404);
    });
  });

  describe('starts', () => {
    beforeEach(readSessions);

    it('a session that the provider has, with a way to it', async () => {
      const { body } = await start(6);
      const { connection, state } = body as unknown as Started;
      expect(state).toBe('ready');
      expect(connection).toMatchObject({
        format: 'laager-connection',
        version: '1',
        account: PEOPLE[6]?.account,
      });
      const page = await (await fetch(connection?.address ?? '')).text();
      expect(page).toContain(connection?.host);
      expect(page).toContain(PEOPLE[6]?.account);
      expect((await fetch((connection?.address ?? '').replace(/ticket=\w+/, 'ticket=wrong'))).status).toBe(
        403,
      );
      await readSessions();
      expect((await desk(6)).items[0]).toMatchObject({ state: 'in' });
    });

    it('nothing twice: who is in comes to where they are', async () => {
      expect(await hostOf(6)).toBe(await hostOf(6));
      await readSessions();
      const { entries } = (await world.call('ida', 'GET', '/customers/SVG/sessions')).body;
      const own = (entries as { account: string }[]).filter(({ account }) => account === PEOPLE[6]?.account);
      expect(own).toHaveLength(1);
    });

    it('by the pool’s rule, before anything of it has been read', async () => {
      // Spread: each of the next goes where fewest are. Values from common practice.
      const hosts = new Map<string, number>();
      for (const n of [7, 8, 9, 10]) {
        const host = await hostOf(n);
        hosts.set(host, (hosts.get(host) ?? 0) + 1);
      }
      const counts = [...hosts.values()];
      expect(counts.reduce((sum, one) => sum + one, 0)).toBe(4);
      expect(Math.max(...counts)).toBeLessThanOrEqual(Math.ceil(5 / (await hostCount())));
    });

    it('nobody on a drained or unwell host', async () => {
      await readSessions();
      const { entries } = (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`))
        .body;
      const hosts = entries as { id: string; name: string; ref: string }[];
      await begin(world, 'SVG', 'drain', { hosts: [hosts[0]?.id] }, { environment });
      // Wanted drained, and its provider does not know that yet.
      const customer = await world.app.db.row<{ id: string; code: string }>(
        "SELECT id, code FROM customer WHERE code = 'SVG'",
      );
      const offer = { environmentId: environment, pool: 'desks' } as KnownOffer;
      const found = await hostsForPerson(world.app, systemScope(customer ?? { id: '', code: '' }), [offer]);
      expect(found.get(keyOf(offer))?.map(({ name, status }) => [name, status])).toEqual(
        hosts.map(({ name }, n) => [name, n === 0 ? 'draining' : 'serving']),
      );
      await world.living.untilQuiet();
      await world.living.job('feed');
      const came = new Set<string>();
      for (const n of [0, 1, 11]) came.add(await hostOf(n));
      expect(came.has(hosts[0]?.name ?? '')).toBe(false);
      await begin(world, 'SVG', 'put-back', { hosts: [hosts[0]?.id] }, { environment });
      await world.living.untilQuiet();
    });

    it('nobody on a host that says nothing, though its provider takes it for well', async () => {
      const { entries } = (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`))
        .body;
      const hosts = entries as { name: string; ref: string }[];
      const [silent] = hosts;
      const ail = (given: object) =>
        control(world.simulationUrl, 'PUT', `/control/ailments/${silent?.ref ?? ''}`, { given });
      await ail({ silent: true });
      await world.living.moveTo(world.clock.at + 100_000);
      await world.living.job('signs');
      for (const n of [0, 1, 11]) expect(await hostOf(n)).not.toBe(silent?.name);
      await ail({});
      await world.living.job('signs');
    });

    it('nothing that is not granted to them, or is none', async () => {
      expect((await start(10, { item: 'Contourwick' })).status).toBe(403);
      expect((await start(10, { pool: 'lab' })).status).toBe(403);
      expect((await start(10, { environmentId: '01J00000000000000000000000' })).status).toBe(403);
      // There are twelve licence seats.
      expect((await start(12)).status).toBe(403);
    });
  });

  describe('shows what was published otherwise', () => {
    const publish = async (items: object[]): Promise<void> => {
      await begin(world, 'SVG', 'publish-items', { pool: 'desks', items }, { environment });
      await world.living.untilQuiet();
    };
    const ITEMS = [
      { name: 'Full desktop', kind: 'desktop', screen: 'every screen' },
      {
        name: 'Ledgers',
        starts: 'Tallybrook',
        arguments: '--book ledgers',
        folder: 'Figures',
        crosses: ['clipboard'],
      },
      { name: 'Wages', starts: 'Tallybrook', folder: 'Figures', hidden: true },
    ];
    const rules = (crosses: string[], screen = 'as the window'): Promise<Called> =>
      world.call('ida', 'PUT', '/customers/SVG/desk-rules', {
        body: { crosses, screen, reason: 'as agreed' },
      });
    beforeAll(() => publish(ITEMS));
    afterAll(() => rules(['clipboard', 'printers', 'drives', 'usb', 'microphone']));

    it('under its heading, with what may cross, and not what is hidden', async () => {
      expect(
        (await desk(6)).items.map(({ name, folder, crosses, screen }) => ({ name, folder, crosses, screen })),
      ).toEqual([
        { name: 'Full desktop', folder: '', crosses: ['clipboard', 'printers'], screen: 'every screen' },
        { name: 'Ledgers', folder: 'Figures', crosses: ['clipboard'], screen: 'as the window' },
      ]);
    });

    it('and the session is opened so; what is hidden can be started by whom it is granted to', async () => {
      const { connection } = (await start(6, { item: 'Ledgers' })).body as unknown as Started;
      expect(connection).toMatchObject({ item: 'Ledgers', crosses: ['clipboard'], screen: 'as the window' });
      const page = await (await fetch(connection?.address ?? '')).text();
      expect(page).toContain('clipboard cross');
      expect((await start(6, { item: 'Wages' })).status).toBe(200);
      expect((await start(6, { item: 'Tallybrook' })).status).toBe(403);
    });

    it('never more than the customer lets cross, from the next start on', async () => {
      expect((await rules(['printers'], '1600 × 900')).status).toBe(200);
      expect((await desk(6)).items.map(({ name, crosses, screen }) => [name, crosses, screen])).toEqual([
        ['Full desktop', ['printers'], 'every screen'],
        ['Ledgers', [], '1600 × 900'],
      ]);
      const { connection } = (await start(6, { item: 'Ledgers' })).body as unknown as Started;
      expect(connection).toMatchObject({ crosses: [], screen: '1600 × 900' });
      const page = await (await fetch(connection?.address ?? '')).text();
      expect(page).toContain('Nothing crosses · shown 1600 × 900');
    });

    it('by engineers and leads, for this customer alone, on the trail', async () => {
      for (const who of ['petra', 'runa'] as const)
        expect(
          (
            await world.call(who, 'PUT', '/customers/SVG/desk-rules', {
              body: { crosses: [], screen: 'every screen', reason: '' },
            })
          ).status,
        ).toBe(403);
      expect(
        (
          await world.call('jonah', 'PUT', '/customers/QFB/desk-rules', {
            body: { crosses: [], screen: 'every screen', reason: '' },
          })
        ).status,
      ).toBe(404);
      expect((await rules(['fax'])).status).toBe(422);
      const { entries } = (await world.call('ida', 'GET', '/customers/SVG/trail?find=set%20what%20crosses'))
        .body;
      expect(entries[0]).toMatchObject({ action: 'set what crosses', reason: 'as agreed' });
    });

    it('in full to an engineer, with what is on the image', async () => {
      const path = `/environments/${environment}/published`;
      const { body } = await world.call('ida', 'GET', `/customers/SVG${path}`);
      expect((body as unknown as Published).pools).toMatchObject([
        {
          pool: 'desks',
          crosses: ['clipboard', 'printers'],
          items: ITEMS.map(({ name }) => ({ name })),
          found: [],
        },
      ]);
      expect((await world.call('ida', 'GET', `/customers/QFB${path}`)).status).toBe(404);
    });

    it('and is a difference where the provider has it otherwise', async () => {
      const [publication] = (await world.port().resources({ customer: 'SVG' })).filter(
        ({ kind, attributes }) =>
          kind === 'publication' && (attributes.items as string[]).includes('Ledgers'),
      );
      expect(publication?.attributes.details).toEqual([
        'Full desktop: shown every screen',
        'Ledgers: starts Tallybrook, with --book ledgers, clipboard cross',
        'Wages: starts Tallybrook',
      ]);
    });
  });

  it('ends for who leaves: their sign-in, and what they see', async () => {
    const cookie = await signedIn(20);
    await world.app.db.write('UPDATE person SET left_at = 1 WHERE mail = ?', [mailOf(20)]);
    expect((await callWith(cookie, 'GET', '/desk')).status).toBe(401);
    await mailed(mailOf(20));
    expect(await linkFor(mailOf(20))).toBe('');
    await world.app.db.write('UPDATE person SET left_at = NULL WHERE mail = ?', [mailOf(20)]);
  });

  it('is closed by an engineer on all devices of somebody, with the links that were mailed to them', async () => {
    const [cookie, other] = [await signedIn(21), await signedIn(22)];
    world.clock.at += 61_000;
    await mailed(mailOf(21));
    const link = await linkFor(mailOf(21));
    const { body } = await world.call(
      'ida',
      'GET',
      `/customers/SVG/people?find=${PEOPLE[21]?.account ?? ''}`,
    );
    const [person] = body.entries as readonly Person[];
    const at = (code: string): string => `/customers/${code}/people/${person?.id ?? ''}/desk-sessions/ended`;
    expect((await world.call('petra', 'POST', at('SVG'))).status).toBe(403);
    expect((await world.call('ida', 'POST', at('MHP'))).status).toBe(404);
    expect((await callWith(cookie, 'GET', '/desk')).status).toBe(200);
    const key = { headers: { 'idempotency-key': 'out' } };
    const twice = [
      await world.call('ida', 'POST', at('SVG'), key),
      await world.call('ida', 'POST', at('SVG'), key),
    ];
    expect(twice.map((one) => [one.status, one.body])).toEqual([
      [200, { ended: 1 }],
      [200, { ended: 1 }],
    ]);
    expect((await callWith(cookie, 'GET', '/desk')).status).toBe(401);
    expect((await callWith(undefined, 'POST', '/desk/session', { link })).status).toBe(401);
    expect((await callWith(other, 'GET', '/desk')).status).toBe(200);
    expect((await world.call('ida', 'GET', '/customers/SVG/trail')).body.entries[0]).toMatchObject({
      action: 'sign out of their desk',
      after: { ended: 1 },
    });
    cookies.delete(21);
  });

  it('keeps every host within its seats when many come at once', async () => {
    await raise(world, 'SVG', 'hosts', 40);
    const storm = await provisionFor(world, 'SVG', 'storm', 60, 'KQ');
    await world.living.untilQuiet();
    await keepSeats(world.app);
    const numbers = Array.from({ length: 60 }, (_, n) => n);
    const came: Called[] = [];
    for (const n of numbers) await signedIn(n);
    await Promise.all(
      numbers.map(async (n) => came.push(await start(n, { environmentId: storm.environment }))),
    );
    expect(came.map(({ status }) => status).filter((status) => status !== 200)).toEqual([]);
    await readSessions();
    const { entries } = (
      await world.call('ida', 'GET', `/customers/SVG/environments/${storm.environment}/hosts`)
    ).body;
    const hosts = entries as { sessions: number; seats: number }[];
    expect(hosts.reduce((sum, one) => sum + one.sessions, 0)).toBe(60);
    expect(hosts.filter((one) => one.sessions > one.seats)).toEqual([]);
  });
});
