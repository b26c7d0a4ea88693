import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { NO_LIMITS } from '../../src/core/plans';
import { PROVIDERS } from '../../src/demo/scenario';
import { TEMPLATES } from '../../src/demo/templates';
import { makeToken, scopeOfMail, signIn } from '../../src/server/sign-in';
import { openEmptyWorld, SECRET, SECRET_KEY, settingsFor, START, type EmptyWorld } from './setup/world';

const DATABASE = 'empty';

/** `./laager admin`, as a process of its own. */
const admin = async (...args: string[]): Promise<string> => {
  const { host, port, user } = settingsFor(DATABASE);
  const { stdout } = await promisify(execFile)('node', ['scripts/admin.mjs', ...args], {
    env: {
      ...process.env,
      LAAGER_DB_HOST: host,
      LAAGER_DB_PORT: String(port),
      LAAGER_DB_USER: user,
      LAAGER_DB_PASSWORD: '',
      LAAGER_DB_NAME: DATABASE,
      LAAGER_SECRET_KEY: SECRET_KEY,
    },
    timeout: 30_000,
  });
  return stdout;
};

describe('from an empty database', () => {
  let world: EmptyWorld;
  let token = '';
  let password = '';
  beforeAll(async () => void (world = await openEmptyWorld(DATABASE)));
  afterAll(() => world.close());

  const put = async (method: string, path: string, body: object, status = 201) => {
    const answered = await world.callWith(token, method, path, { body });
    expect([path, answered.status, answered.text]).toEqual([path, status, expect.any(String)]);
    return answered.body;
  };
  const mayEnter = async (with_: string): Promise<boolean> =>
    signIn(world.app, {
      mail: 'ann@first.example',
      password: with_,
      from: 'test',
      browser: undefined,
    }).then(
      () => true,
      () => false,
    );

  it('takes on a first lead, once', async () => {
    const said = await admin('first-lead', '--mail', 'Ann@first.example', '--name', 'Ann First');
    password = / password (\S+)/.exec(said)?.[1] ?? '';
    expect(await mayEnter(password)).toBe(true);
    expect(await mayEnter(`${password}x`)).toBe(false);
    await expect(admin('first-lead', '--mail', 'b@first.example', '--name', 'Bo')).rejects.toMatchObject({
      stderr: 'There is a lead already, who can take on others.\n',
    });
    const scope = await scopeOfMail(world.app.db, 'ann@first.example');
    if (!scope) throw new Error('the first lead is missing');
    ({ token } = await makeToken(world.app, scope, { name: 'first', days: 30 }));
  });

  it('gets provider, range, plan, prices, template and customer through the API, and serves an environment', async () => {
    const { code, name, account } = PROVIDERS[0];
    const connection = { name, account, url: world.simulations.coast, secret: SECRET };
    const wrong = await world.callWith(token, 'PUT', `/providers/${code}`, {
      body: { ...connection, secret: 'not the secret' },
    });
    expect(wrong.status).toBe(422);
    await put('PUT', `/providers/${code}`, connection, 200);
    // Said again as it is, it is nothing new; said otherwise, it is.
    await put('PUT', `/providers/${code}`, connection, 200);
    await put('PUT', `/providers/${code}`, { ...connection, name: 'Renamed' }, 200);
    const told = await world.app.db.rows<{ action: string }>(
      "SELECT action FROM trail WHERE action IN ('connect provider', 'change provider') ORDER BY id",
    );
    expect(told.map(({ action }) => action)).toEqual(['connect provider', 'change provider']);
    await put('POST', '/sites/KQ/ranges', { cidr: '10.16.0.0/12' });
    await put('PUT', '/plans/only', { name: 'Only', most: { ...NO_LIMITS, hosts: 50, people: 200 } }, 200);
    await put('POST', '/cards', { code: 'eur', name: 'Euro', currency: 'EUR' });
    const from = START - 86_400_000;
    for (const [meter, unit, price] of [
      ['host', 'hour', '0.10'],
      ['disk', 'month', '0.05'],
      ['share', 'month', '0.08'],
      ['licence', 'month', '4'],
    ])
      await put('POST', '/cards/eur/rates', { meter, size: null, unit, price, from });
    const { code: template, ...revision } = TEMPLATES[0];
    await put('POST', `/templates/${template}/revisions`, revision);
    const customer = { code: 'NEW', name: 'New Here', plan: 'only', site: 'KQ', zone: 'Europe/Lisbon' };
    await put('POST', '/customers', { ...customer, currency: 'EUR', card: 'eur' });
    const people = await world.callWith(token, 'POST', '/customers/NEW/people/import', {
      csv: 'account,given,family,mail\nzoe,Zoe,New,zoe@new.example',
    });
    expect(people.status).toBe(200);
    const input = { environment: 'first', template, site: 'KQ', people: 1 };
    const { proposal, fingerprint } = await put(
      'POST',
      '/customers/NEW/changes/provision/proposal',
      { input },
      200,
    );
    expect(proposal).toMatchObject({ monthly: { currency: 'EUR' } });
    const made = await put('POST', '/customers/NEW/changes/provision', {
      input,
      fingerprint,
      reason: 'first',
    });
    await world.living.untilQuiet();
    const hosts = await world.callWith(
      token,
      'GET',
      `/customers/NEW/environments/${String(made.environment)}/hosts`,
    );
    expect(hosts.body.entries).toMatchObject([
      { name: 'NEW-FIRST01', status: 'serving', drift: [] },
      { name: 'NEW-FIRST02', status: 'serving', drift: [] },
    ]);
  });

  it('resets a password, lists the ways in and ends them', async () => {
    expect(await admin('sign-ins')).toMatch(/^ann@first\.example\ttoken\t\S+\tfirst\t/);
    const next = /is (\S+)/.exec(await admin('reset-password', '--mail', 'ann@first.example'))?.[1] ?? '';
    expect([await mayEnter(password), await mayEnter(next)]).toEqual([false, true]);
    // Another password ends tokens too.
    expect((await world.callWith(token, 'GET', '/customers')).status).toBe(401);
    await admin('end-sign-ins', '--mail', 'ann@first.example');
    expect((await world.callWith(token, 'GET', '/customers')).status).toBe(401);
    expect(await admin('sign-ins')).toContain('nobody is signed in');
  });
});
