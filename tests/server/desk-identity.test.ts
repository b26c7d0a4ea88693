import type { Server } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/lib.mjs';
import { apiOf } from '../../src/server/api';
import type { App } from '../../src/server/app';
import { askForLink, mailAsked } from '../../src/server/desk';
import { startIdentity, type Folk, type Identity } from '../../src/standins/identity/start';
import { Browser, HERE } from './setup/browser';
import { own } from './setup/ports';
import { openWorld, type World } from './setup/world';

const BACK = `${HERE}/api/v1/desk/outside/back`;
const SECRET = 'a secret of the realms';

/** OpenID Connect Core 1.0 (code flow) with PKCE (RFC 7636), against customers' simulated identity services. */
describe('coming in to one’s desk by one’s own identity service', { timeout: 120_000 }, () => {
  let world: World;
  let app: App;
  let server: Server;
  let origin = '';
  const realms = new Map<string, Identity[]>();
  const somebody = (id: string, over: Partial<Identity> = {}): Identity => ({
    id,
    name: id,
    mail: `${id}@svg.example`,
    verified: true,
    groups: [],
    amr: ['pwd'],
    account: id,
    ...over,
  });
  const folkOf = (realm: string): Folk => ({
    some: async () => realms.get(realm) ?? [],
    find: async (id) => realms.get(realm)?.find((one) => one.id === id),
  });
  beforeAll(async () => {
    world = await openWorld('deskidentity');
    const port = await freePort(own(4950));
    origin = `http://127.0.0.1:${port}`;
    ({ server } = await startIdentity(port, { id: 'own', secret: 'x', redirects: [] }, [], {
      client: { id: 'laager', secret: SECRET, redirects: [BACK] },
      folkOf,
    }));
    // Its tokens go by the wall's clock.
    app = { ...world.app, clock: { ...world.app.clock, wall: Date.now } };
    for (const code of ['SVG', 'FPS']) expect((await keep(code)).status).toBe(200);
  });
  afterAll(async () => {
    await new Promise((resolve) => {
      server.close(resolve);
      server.closeAllConnections();
    });
    await world.close();
  });

  const keep = (code: string, over: object = {}, who: 'ida' | 'jonah' | 'runa' = 'ida') =>
    world.call(who, 'PUT', `/customers/${code}/desk-identity`, {
      body: {
        name: `the ${code} sign-in`,
        issuer: `${origin}/realms/${code.toLowerCase()}.example`,
        client: 'laager',
        secret: SECRET,
        knownBy: 'mail',
        onlyThere: false,
        ...over,
      },
    });
  const person = async (code: string, n = 0): Promise<{ account: string; mail: string }> => {
    const { entries } = (await world.call('ida', 'GET', `/customers/${code}/people`)).body;
    return (entries as { account: string; mail: string }[])[n] ?? { account: '', mail: '' };
  };
  /** Comes in at a customer's service as somebody. @returns where that leads, and what their desk then says */
  const comeIn = async (
    code: string,
    who: string,
  ): Promise<{
    to: URL;
    status: number;
    desk: { customer?: { code: string }; person?: { account: string } };
  }> => {
    const browser = new Browser(apiOf(app));
    const back = await browser.outside(who, `${HERE}/api/v1/desk/outside?customer=${code}`);
    const response = await browser.get(back);
    const desk = await browser.get(`${HERE}/api/v1/desk`);
    return {
      to: new URL(response.headers.get('location') ?? '', HERE),
      status: desk.status,
      desk: (await desk.json()) as object,
    };
  };

  it('is as the one person who has the mail that it has made sure of', async () => {
    const { account, mail } = await person('SVG');
    realms.set('svg.example', [somebody('one', { mail: mail.toUpperCase() })]);
    const { to, status, desk } = await comeIn('SVG', 'one');
    expect([to.pathname, status]).toEqual(['/desk', 200]);
    expect(desk).toMatchObject({ customer: { code: 'SVG' }, person: { account } });
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/trail')).body;
    expect(entries[0]).toMatchObject({
      action: 'sign in at their desk',
      after: { by: `${origin}/realms/svg.example` },
    });
  });

  it('is not as whoever a service only claims to have, or has not made sure of', async () => {
    const { mail } = await person('SVG');
    realms.set('svg.example', [somebody('unsure', { mail, verified: false }), somebody('stranger')]);
    for (const who of ['unsure', 'stranger', '']) {
      const { to, status } = await comeIn('SVG', who);
      expect([who, to.searchParams.get('why'), status]).toEqual([
        who,
        who === '' ? 'refused' : 'unknown',
        401,
      ]);
    }
  });

  it('is not as anybody whose mail or account only looks alike', async () => {
    const { account, mail } = await person('SVG');
    const alike = ['ĝ', 'ı', '\u212a', 'ß', 'ｓ', 'í', ' ', '\u200b'];
    const like = (text: string, letter: string): string =>
      letter === ' ' || letter === '\u200b' ? text + letter : text.replace(/[a-z]/, letter);
    for (const knownBy of ['mail', 'account']) {
      await keep('SVG', { knownBy });
      for (const [n, letter] of alike.entries()) {
        const id = `alike-${knownBy}-${n}`;
        const told = knownBy === 'mail' ? { mail: like(mail, letter) } : { account: like(account, letter) };
        realms.set('svg.example', [somebody(id, told)]);
        const { to, status } = await comeIn('SVG', id);
        expect([letter, to.searchParams.get('why'), status]).toEqual([letter, 'unknown', 401]);
      }
      // An accent that is written as two letters is the same one; a mark on any letter is not.
      const first = mail.charAt(0);
      realms.set('svg.example', [
        somebody(`${knownBy} mark`, {
          mail: mail.replace(first, `${first}\u0302`),
          account: `${account}\u0302`,
        }),
      ]);
      expect((await comeIn('SVG', `${knownBy} mark`)).status).toBe(401);
    }
    await keep('SVG');
  });

  it('opens nobody’s desk of another customer, whatever mail their service says', async () => {
    const { mail } = await person('SVG');
    realms.set('fps.example', [somebody('liar', { mail })]);
    const { to, status } = await comeIn('FPS', 'liar');
    expect([to.searchParams.get('why'), status]).toEqual(['unknown', 401]);
    // A way that was begun for one is not ended for another.
    const one = await person('FPS');
    realms.set('fps.example', [somebody('theirs', { mail: one.mail })]);
    const [browser, other] = [new Browser(apiOf(app)), new Browser(apiOf(app))];
    const back = await browser.outside('theirs', `${HERE}/api/v1/desk/outside?customer=FPS`);
    await other.outside('theirs', `${HERE}/api/v1/desk/outside?customer=SVG`);
    const response = await other.get(back);
    expect(new URL(response.headers.get('location') ?? '', HERE).searchParams.get('why')).not.toBeNull();
    expect((await other.get(`${HERE}/api/v1/desk`)).status).toBe(401);
  });

  it('is by account where the customer has it so, in whatever letters', async () => {
    const { account } = await person('SVG', 1);
    realms.set('svg.example', [
      somebody('two', { mail: '', verified: false, account: account.toUpperCase() }),
    ]);
    expect((await comeIn('SVG', 'two')).status).toBe(401);
    expect((await keep('SVG', { knownBy: 'account' })).status).toBe(200);
    expect((await comeIn('SVG', 'two')).desk).toMatchObject({ person: { account } });
    await keep('SVG');
  });

  it('is not for who has left, nor where a customer has no service', async () => {
    const { account, mail } = await person('SVG', 2);
    realms.set('svg.example', [somebody('gone', { mail })]);
    await world.app.db.write('UPDATE person SET left_at = 1 WHERE account = ?', [account]);
    expect((await comeIn('SVG', 'gone')).to.searchParams.get('why')).toBe('unknown');
    await world.app.db.write('UPDATE person SET left_at = NULL WHERE account = ?', [account]);
    for (const code of ['MHP', 'NOPE', 'MSP', '%C3%A9', '%F0%9F%90%A6']) {
      const response = await new Browser(apiOf(app)).get(`${HERE}/api/v1/desk/outside?customer=${code}`);
      const to = new URL(response.headers.get('location') ?? '', HERE);
      expect([code, to.searchParams.get('why')]).toEqual([code, 'not reached']);
    }
  });

  it('may be the only way in: then nobody of theirs is mailed one', async () => {
    const { mail } = await person('SVG', 3);
    const sent = async (): Promise<number> => {
      const { messages } = (await (await fetch(`${world.mailUrl}/messages`)).json()) as {
        messages: { recipients: string }[];
      };
      return messages.filter(({ recipients }) => recipients.includes(mail)).length;
    };
    const mailing = { ...world.app, address: HERE };
    await askForLink(mailing, mail);
    await mailAsked(mailing);
    expect(await sent()).toBe(1);
    expect((await keep('SVG', { onlyThere: true, secret: '' })).status).toBe(200);
    await askForLink(mailing, mail);
    await mailAsked(mailing);
    expect(await sent()).toBe(1);
  });

  it('is said by who may, with what is missing beside its field, and its secret is shown to no other service', async () => {
    expect((await keep('MHP', {}, 'jonah')).status).toBe(404);
    expect((await keep('SVG', {}, 'runa')).status).toBe(403);
    expect((await keep('MHP', { secret: '' })).body.fields).toEqual({ secret: 'is not known yet' });
    expect((await keep('MHP', { client: '' })).body.fields).toHaveProperty('client');
    expect((await keep('SVG', { issuer: `${origin}/realms/other.example`, secret: '' })).body.fields).toEqual(
      {
        secret: 'is not known yet',
      },
    );
    const { text } = await world.call('ida', 'GET', '/customers/SVG/desk-identity');
    expect(text).not.toContain(SECRET);
    const tried = (issuer: string) =>
      world.call('ida', 'POST', '/customers/SVG/desk-identity/tried', { body: { issuer } });
    expect((await tried(`${origin}/realms/svg.example`)).body).toMatchObject({ worked: true });
    expect((await tried(`${origin}/nowhere`)).body).toMatchObject({ worked: false });
    expect((await tried('http://192.0.2.1/x')).body).toMatchObject({ worked: false });
    expect((await keep('SVG', { issuer: '', secret: '' })).body).toEqual({ identity: null });
  });
});
