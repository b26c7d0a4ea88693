import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Operator } from '../../src/contract';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { apiOf } from '../../src/server/api';
import { mailInvites } from '../../src/server/operators';
import { codeAt, stepOf } from '../../src/server/sign-in/factor';
import { openWorld, type Called, type World } from './setup/world';

const DAY = 86_400_000;

describe('codes of a second factor', () => {
  // RFC 6238, appendix B (SHA-1), and RFC 4226, appendix D: the secret is the ASCII text 12345678901234567890.
  // In Base32 (RFC 4648) that is:
  const secret = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';

  it.each([
    [59, '287082'],
    [1_111_111_109, '081804'],
    [1_111_111_111, '050471'],
    [1_234_567_890, '005924'],
    [2_000_000_000, '279037'],
    [20_000_000_000, '353130'],
  ])('at %d s after 1970 it is the last six digits of the RFC’s', (seconds, code) => {
    expect(codeAt(secret, seconds * 1_000)).toBe(code);
    expect(stepOf(code, secret, seconds * 1_000)).toBe(Math.floor(seconds / 30));
  });

  it('counts as RFC 4226 does', () =>
    expect(Array.from({ length: 10 }, (_, count) => codeAt(secret, count * 30_000))).toEqual([
      '755224',
      '287082',
      '359152',
      '969429',
      '338314',
      '254676',
      '287922',
      '162583',
      '399871',
      '520489',
    ]));

  it('is taken one step early or late, and no further', () => {
    const at = 1_111_111_111_000;
    const around = [-60, -30, 0, 30, 60].map((by) => stepOf(codeAt(secret, at + by * 1_000), secret, at));
    const step = Math.floor(at / 30_000);
    expect(around).toEqual([undefined, step - 1, step, step + 1, undefined]);
    for (const none of ['', '12345', '1234567', 'abcdef', '０５０４７１'])
      expect(stepOf(none, secret, at)).toBeUndefined();
  });
});

/** Who works here, and how they come in. */
describe('operators', () => {
  let world: World;
  beforeAll(async () => void (world = await openWorld('operators')));
  afterAll(() => world.close());

  const lead = (method: string, path: string, body?: object): Promise<Called> =>
    world.callFromBrowser('bram', method, path, body ? { body } : {});
  /** The link that was mailed to somebody who was invited. */
  const inviteOf = async (mail: string): Promise<string> => {
    await mailInvites(world.app);
    const { messages } = (await (await fetch(`${world.mailUrl}/messages`)).json()) as {
      messages: readonly { recipients: string; body: string }[];
    };
    const own = messages.filter(({ recipients }) => recipients.includes(mail));
    return /\/invite\/([\w-]+)/.exec(own.at(-1)?.body ?? '')?.[1] ?? '';
  };
  const known = async (mail: string): Promise<Operator | undefined> =>
    ((await lead('GET', '/operators')).body.operators as readonly Operator[]).find(
      (one) => one.mail === mail,
    );
  const idOf = async (who: string): Promise<string> => (await known(`${who}@terntallow.example`))?.id ?? '';

  const OWN = { origin: 'http://laager.test', host: 'laager.test' };
  const send = async (method: string, path: string, cookie: string, body?: object) => {
    const api = apiOf(world.app);
    const response = await api.answer(
      new Request(`http://laager.test/api/v1${path}`, {
        method,
        headers: { ...OWN, 'content-type': 'application/json', ...(cookie === '' ? {} : { cookie }) },
        ...(body ? { body: JSON.stringify(body) } : {}),
      }),
    );
    const text = await response.text();
    return {
      status: response.status,
      cookie: response.headers
        .getSetCookie()
        .map((one) => one.split(';')[0])
        .join('; '),
      body: (text === '' ? {} : JSON.parse(text)) as Record<string, unknown>,
    };
  };
  const signIn = (who: string, code?: string, password = DEMO_PASSWORD) =>
    send('POST', '/session', '', {
      mail: who.includes('@') ? who : `${who}@terntallow.example`,
      password,
      ...(code === undefined ? {} : { code }),
    });
  const nextStep = (): void => void (world.clock.at += 30_000);

  let secret = '';
  let recovery: readonly string[] = [];
  let cookie = '';

  it('set a second factor up by a first code of it', async () => {
    ({ cookie } = await signIn('ida'));
    const other = await signIn('ida');
    const made = await send('POST', '/second-factor', cookie);
    secret = String(made.body.secret);
    // 160 bits, five to a letter.
    expect(secret).toMatch(/^[A-Z2-7]{32}$/);
    expect(String(made.body.uri)).toMatch(/^otpauth:\/\/totp\/Laager:ida%40terntallow\.example\?/);
    const wrong = await send('PUT', '/second-factor', cookie, { code: '000000', current: DEMO_PASSWORD });
    expect([wrong.status, wrong.body.fields]).toEqual([
      422,
      { code: 'is not the one that the app shows now' },
    ]);
    const code = codeAt(secret, world.clock.at);
    // Who only finds a browser signed in locks nobody out.
    const stranger = await send('PUT', '/second-factor', cookie, { code, current: 'not the password' });
    expect([stranger.status, stranger.body.fields]).toEqual([422, { current: 'is not your password' }]);
    const set = await send('PUT', '/second-factor', cookie, { code, current: DEMO_PASSWORD });
    recovery = set.body.recovery as readonly string[];
    expect(recovery).toHaveLength(10);
    expect(new Set(recovery).size).toBe(10);
    // Where they were signed in without it, they are no more.
    expect((await send('GET', '/me', other.cookie)).status).toBe(401);
    expect((await send('GET', '/second-factor', cookie)).body).toEqual({
      isSet: true,
      toShow: false,
      required: false,
      recovery: 10,
    });
    // Tokens were made without it.
    expect((await world.call('ida', 'GET', '/me')).status).toBe(401);
    expect((await known('ida@terntallow.example'))?.factor).toBe(true);
  });

  it('come in with password and code, and with neither alone', async () => {
    nextStep();
    const without = await signIn('ida');
    expect([without.status, without.cookie, String(without.body.type)]).toEqual([
      401,
      '',
      expect.stringMatching(/second-factor$/),
    ]);
    expect((await signIn('ida', codeAt(secret, world.clock.at), 'not the password')).body.detail).toBe(
      'Mail address or password is wrong.',
    );
    expect((await signIn('ida', codeAt(secret, world.clock.at))).status).toBe(204);
  });

  it('use no code twice, nor one that is older than the last', async () => {
    nextStep();
    const code = codeAt(secret, world.clock.at);
    const both = await Promise.all([signIn('ida', code), signIn('ida', code)]);
    expect(both.map(({ status }) => status).sort()).toEqual([204, 401]);
    expect((await signIn('ida', codeAt(secret, world.clock.at - 30_000))).status).toBe(401);
  });

  it('use a recovery code once, however it is written', async () => {
    const [first = '', second = ''] = recovery;
    expect((await signIn('ida', first.toUpperCase().replace(/-/g, ' '))).status).toBe(204);
    expect((await signIn('ida', first)).status).toBe(401);
    expect((await signIn('ida', second)).status).toBe(204);
    const none = await world.app.db.rows<{ code_hash: string }>('SELECT code_hash FROM recovery_code');
    expect(none).toHaveLength(8);
    expect(JSON.stringify(none)).not.toContain(recovery[2]?.replace(/-/g, ''));
  });

  it('cannot be guessed at: who knows the password is slowed down like anyone', async () => {
    const said = [];
    for (let n = 0; n < 8; n++) said.push((await signIn('ida', String(100_000 + n))).status);
    expect(said).toContain(429);
    world.clock.at += 3_700_000;
    await world.app.db.write('DELETE FROM sign_in_tries');
  });

  it('have to have one when the MSP says so: until then nothing else is open', async () => {
    const early = await lead('PUT', '/operators-settings', { factorRequired: true });
    expect([early.status, early.body.detail]).toEqual([409, 'Set up your own second factor first.']);
    const bram = await signIn('bram');
    const { body } = await send('POST', '/second-factor', bram.cookie);
    await send('PUT', '/second-factor', bram.cookie, {
      code: codeAt(String(body.secret), world.clock.at),
      current: DEMO_PASSWORD,
    });
    expect((await send('PUT', '/operators-settings', bram.cookie, { factorRequired: true })).status).toBe(
      204,
    );
    const petra = await signIn('petra');
    expect(petra.status).toBe(204);
    const shut = await send('GET', '/customers', petra.cookie);
    expect([shut.status, shut.body.detail]).toEqual([
      403,
      'Set up your second factor first: everyone here has to have one.',
    ]);
    expect((await send('GET', '/me', petra.cookie)).status).toBe(200);
    const own = await send('POST', '/second-factor', petra.cookie);
    const code = codeAt(String(own.body.secret), world.clock.at);
    expect((await send('PUT', '/second-factor', petra.cookie, { code, current: DEMO_PASSWORD })).status).toBe(
      200,
    );
    expect((await send('GET', '/customers', petra.cookie)).status).toBe(200);
    nextStep();
    const next = encodeURIComponent(codeAt(String(own.body.secret), world.clock.at));
    expect((await send('DELETE', `/second-factor?code=${next}`, petra.cookie)).status).toBe(409);
    expect((await send('PUT', '/operators-settings', bram.cookie, { factorRequired: false })).status).toBe(
      204,
    );
    expect((await send('DELETE', `/second-factor?code=${next}`, petra.cookie)).status).toBe(204);
    expect((await signIn('petra')).status).toBe(204);
  });

  it('lose theirs by a lead’s word, with every sign-in', async () => {
    nextStep();
    const there = await signIn('ida', codeAt(secret, world.clock.at));
    expect((await send('GET', '/me', there.cookie)).status).toBe(200);
    expect((await lead('DELETE', `/operators/${await idOf('ida')}/second-factor`)).status).toBe(204);
    expect((await send('GET', '/me', there.cookie)).status).toBe(401);
    expect((await signIn('ida')).status).toBe(204);
  });

  it('keep their secret sealed, and no token touches it', async () => {
    await send('POST', '/second-factor', (await signIn('ida')).cookie);
    const row = await world.app.db.row<{ sealed: Buffer }>(
      "SELECT factor_new_sealed AS sealed FROM operator WHERE mail = 'ida@terntallow.example'",
    );
    expect(row?.sealed.toString('latin1')).not.toMatch(/[A-Z2-7]{32}/);
    expect((await world.call('runa', 'POST', '/second-factor')).status).toBe(403);
  });

  it('are mailed their invitation though another’s address is refused', async () => {
    for (const name of ['first', 'second'])
      expect(
        (
          await lead('POST', '/operators', {
            name,
            mail: `${name}@terntallow.example`,
            role: 'engineer',
            customers: ['SVG'],
          })
        ).status,
      ).toBe(201);
    const { mail } = world.app;
    const sent: string[] = [];
    const refusing = {
      ...world.app,
      mail: {
        ...mail,
        send: async (key: string, message: Parameters<typeof mail.send>[1]) => {
          if (message.to.includes('first@terntallow.example')) throw new Error('no such mailbox');
          sent.push(...message.to);
          await mail.send(key, message);
        },
      },
    };
    await expect(mailInvites(refusing)).rejects.toThrow('no such mailbox');
    expect(sent).toEqual(['second@terntallow.example']);
    // It is tried again, and the other is not mailed twice.
    await mailInvites(world.app);
    expect((await inviteOf('first@terntallow.example')).length).toBeGreaterThan(30);
  });

  it('are invited, and choose a password once', async () => {
    const made = await lead('POST', '/operators', {
      name: 'Nils New',
      mail: 'nils@terntallow.example',
      role: 'engineer',
      customers: ['SVG'],
    });
    expect(Object.keys(made.body)).toEqual(['id']);
    const invite = await inviteOf('nils@terntallow.example');
    expect(invite.length).toBeGreaterThan(30);
    expect(await known('nils@terntallow.example')).toMatchObject({ invited: true, customers: ['SVG'] });
    expect((await send('POST', `/invites/${invite}x`, '', { password: 'a long enough one' })).status).toBe(
      404,
    );
    const short = await send('POST', `/invites/${invite}`, '', { password: 'short' });
    expect(short.body.fields).toEqual({ password: 'at least 12 characters' });
    const both = await Promise.all(
      ['one of two of them', 'two of two of them'].map((password) =>
        send('POST', `/invites/${invite}`, '', { password }),
      ),
    );
    expect(both.map(({ status }) => status).sort()).toEqual([200, 404]);
    const chosen = both[0]?.status === 200 ? 'one of two of them' : 'two of two of them';
    expect((await signIn('nils', undefined, chosen)).status).toBe(204);
    expect(await known('nils@terntallow.example')).toMatchObject({ invited: false });
    const { body } = await lead('GET', '/trail?find=Nils');
    expect(JSON.stringify(body)).not.toContain(invite);
  });

  it('are let in by their invitation, though somebody tries wrong ones', async () => {
    await lead('POST', '/operators', {
      name: 'Olle Ferrow',
      mail: 'olle@terntallow.example',
      role: 'engineer',
      customers: ['SVG'],
    });
    const from = (peer: string, invite: string): Promise<Response> =>
      world.api.answer(
        new Request(`http://laager.test/api/v1/invites/${invite}`, {
          method: 'POST',
          headers: {
            origin: 'http://laager.test',
            host: 'laager.test',
            'content-type': 'application/json',
            'x-laager-peer': peer,
          },
          body: JSON.stringify({ password: 'a long enough one' }),
        }),
      );
    const wrong = await Promise.all(Array.from({ length: 40 }, () => from('203.0.113.78', 'x'.repeat(40))));
    expect(wrong.some(({ status }) => status === 429)).toBe(true);
    expect((await from('203.0.113.79', await inviteOf('olle@terntallow.example'))).status).toBe(200);
  });

  it('do not come by an invitation that has ended', async () => {
    await lead('POST', '/operators', {
      name: 'L',
      mail: 'late@terntallow.example',
      role: 'auditor',
    });
    world.clock.at += 8 * DAY;
    const late = await send('POST', `/invites/${await inviteOf('late@terntallow.example')}`, '', {
      password: 'a long enough one',
    });
    expect(late.status).toBe(404);
  });

  it('stay until their day, and not a moment longer: sign-ins, tokens and all', async () => {
    const { cookie: own } = await signIn('jonah');
    const jonah = await known('jonah@terntallow.example');
    const change = { role: 'engineer', customers: jonah?.customers, endsAt: world.clock.at + DAY };
    expect((await lead('PUT', `/operators/${jonah?.id ?? ''}`, change)).body.endsAt).toBe(change.endsAt);
    expect((await send('GET', '/me', own)).status).toBe(200);
    const until = await lead('PUT', `/operators/${jonah?.id ?? ''}`, { ...change, endsAt: world.clock.at });
    expect(until.status).toBe(200);
    expect((await send('GET', '/me', own)).status).toBe(401);
    expect((await world.call('jonah', 'GET', '/me')).status).toBe(401);
    expect((await signIn('jonah')).body.detail).toBe('Mail address or password is wrong.');
    await lead('PUT', `/operators/${jonah?.id ?? ''}`, { ...change, endsAt: null });
    expect((await send('GET', '/me', own)).status).toBe(200);
  });

  it('reach from the next question on what a lead says', async () => {
    const id = await idOf('jonah');
    expect((await world.call('jonah', 'GET', '/customers/FPS')).status).toBe(200);
    await lead('PUT', `/operators/${id}`, { role: 'engineer', customers: ['SVG'], endsAt: null });
    expect((await world.call('jonah', 'GET', '/customers/FPS')).status).toBe(404);
    const unknown = await lead('PUT', `/operators/${id}`, {
      role: 'engineer',
      customers: ['XXX'],
      endsAt: null,
    });
    expect(unknown.body.fields).toEqual({ customers: 'XXX is not known' });
    await lead('PUT', `/operators/${id}`, { role: 'auditor', customers: ['SVG', 'FPS'], endsAt: null });
    const refused = await world.call('jonah', 'POST', '/customers/FPS/people/import', { csv: 'account\n' });
    expect(refused.status).toBe(403);
    await lead('PUT', `/operators/${id}`, { role: 'engineer', customers: ['SVG', 'FPS'], endsAt: null });
  });

  it('get no more of a lead who reaches some customers than that lead reaches', async () => {
    const id = await idOf('jonah');
    await lead('PUT', `/operators/${id}`, { role: 'lead', customers: ['SVG', 'FPS'], endsAt: null });
    const some = (method: string, path: string, body?: object) =>
      world.callFromBrowser('jonah', method, path, body ? { body } : {});
    const wanted = { name: 'M', mail: 'more@terntallow.example', role: 'lead' };
    const all = await some('POST', '/operators', wanted);
    expect([all.status, all.body.fields]).toEqual([
      422,
      { customers: 'every customer is more than you reach yourself' },
    ]);
    const foreign = await some('POST', '/operators', { ...wanted, customers: ['MHP'] });
    expect(foreign.body.fields).toEqual({ customers: 'MHP is not known' });
    expect((await some('POST', '/operators', { ...wanted, customers: ['SVG'] })).status).toBe(201);
    // Who reaches others is not told of at all.
    const far = { ...wanted, mail: 'far@terntallow.example', role: 'engineer', customers: ['MHP'] };
    expect((await lead('POST', '/operators', far)).status).toBe(201);
    const listed = await some('GET', '/operators');
    expect(listed.text).toContain('more@terntallow.example');
    expect(listed.text).not.toMatch(/far@terntallow|ida@terntallow|MHP/);
    // Nor are their tokens listed, nor ended.
    const theirs = (await lead('GET', '/tokens')).body.tokens as { id: string; operator: string }[];
    const own = (await some('GET', '/tokens')).body.tokens as { operator: string }[];
    expect(new Set(own.map(({ operator }) => operator)).has('Petra Quill')).toBe(false);
    for (const { id: token, operator } of theirs.filter(
      (one) => !own.some((mine) => mine.operator === one.operator),
    ))
      expect([operator, (await some('DELETE', `/tokens/${token}`)).status]).toEqual([operator, 404]);
    // Those who reach more are not theirs to change.
    const ida = await idOf('ida');
    expect(
      (await some('PUT', `/operators/${ida}`, { role: 'auditor', customers: [], endsAt: null })).status,
    ).toBe(404);
    expect((await some('POST', `/operators/${ida}/ended`)).status).toBe(404);
    expect((await some('DELETE', `/operators/${ida}/second-factor`)).status).toBe(404);
    await lead('PUT', `/operators/${id}`, { role: 'engineer', customers: ['SVG', 'FPS'], endsAt: null });
  });

  it('are never without a lead, and change not what they are themselves', async () => {
    const bram = await idOf('bram');
    const own = await lead('PUT', `/operators/${bram}`, { role: 'engineer', customers: null, endsAt: null });
    expect([own.status, own.body.detail]).toEqual([409, 'Another lead changes what you are here.']);
    const petra = await idOf('petra');
    await lead('PUT', `/operators/${petra}`, { role: 'lead', customers: null, endsAt: null });
    await world.app.db.write(
      "UPDATE operator SET role = 'engineer' WHERE mail IN ('more@terntallow.example')",
    );
    // Each takes the other's role at the same moment: one of them would be the last, or is no lead any more when they ask.
    const demote = (who: 'bram' | 'petra', id: string) =>
      world.callFromBrowser(who, 'PUT', `/operators/${id}`, {
        body: { role: 'engineer', customers: null, endsAt: null },
      });
    const said = await Promise.all([demote('bram', petra), demote('petra', bram)]);
    const [done, refused] = said.map(({ status }) => status).sort();
    expect([done, refused === 409 || refused === 403]).toEqual([200, true]);
    const leads = await world.app.db.row<{ n: number }>(
      "SELECT COUNT(*) AS n FROM operator WHERE role = 'lead'",
    );
    expect(leads?.n).toBe(1);
  });
});
