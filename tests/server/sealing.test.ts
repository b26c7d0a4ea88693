import { createCipheriv, createHash, randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openSealing, SYSTEM } from '../../src/server/access';
import { apiOf } from '../../src/server/api';
import type { App } from '../../src/server/app';
import { httpProvider, sealProvidersAnew } from '../../src/server/providers';
import { knownBrowser, makeBrowser } from '../../src/server/sign-in/browser';
import { sealKeptAnew } from '../../src/server/write';
import { openWorld, SECRET, SECRET_KEY, type World } from './setup/world';

const NEXT_KEY = 'the next key, of thirty-two characters or more';

const PLACE = ['recipe secret', 'SVG', 'licence'] as const;

describe('sealing', () => {
  it('reads what it sealed, with the same key only, and nothing that was changed', () => {
    const sealing = openSealing(SECRET_KEY);
    const sealed = sealing.seal('lantern', PLACE);
    expect(sealing.unseal(sealed, PLACE)).toBe('lantern');
    expect(sealed.toString('latin1')).not.toContain('lantern');
    expect(sealing.seal('lantern', PLACE).equals(sealed)).toBe(false);
    expect(() => openSealing(NEXT_KEY).unseal(sealed, PLACE)).toThrow('sealed with another key');
    for (const at of [0, 12, sealed.length - 1]) {
      const changed = Buffer.from(sealed);
      changed[at] = (changed[at] ?? 0) ^ 1;
      expect(() => sealing.unseal(changed, PLACE)).toThrow('has been changed');
    }
  });

  it.each([
    [['recipe secret', 'FPS', 'licence']],
    [['recipe secret', 'SVG', 'other']],
    [['second factor', 'SVG', 'licence']],
    [['recipe secret', 'SVG']],
    [['recipe secret', 'SVGlicence']],
  ] as const)('reads nothing that was moved to %s', (elsewhere) => {
    const sealing = openSealing(SECRET_KEY);
    const sealed = sealing.seal('lantern', PLACE);
    expect(() => sealing.unseal(sealed, elsewhere)).toThrow('for another place');
    expect(sealing.isSealedNow(sealed, elsewhere)).toBe(false);
  });

  it('reads what was sealed before places were bound, and takes it for what is to be sealed anew', () => {
    const sealing = openSealing(SECRET_KEY);
    // As before: AES-256-GCM by SHA-256 of the key, nonce first, tag last, and no place.
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', createHash('sha256').update(SECRET_KEY).digest(), nonce);
    const before = Buffer.concat([nonce, cipher.update('lantern'), cipher.final(), cipher.getAuthTag()]);
    expect(sealing.unseal(before, PLACE)).toBe('lantern');
    expect(sealing.isSealedNow(before, PLACE)).toBe(false);
    expect(sealing.isSealedNow(sealing.seal('lantern', PLACE), PLACE)).toBe(true);
  });

  // RFC 4231, test case 2.
  it('signs as the standard does, by each of its keys', () => {
    const expected = '5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843';
    const text = 'what do ya want for nothing?';
    expect(openSealing('Jefe').sign(text).toString('hex')).toBe(expected);
    const both = openSealing(NEXT_KEY, 'Jefe').signatures(text);
    expect(both.map((one) => one.toString('hex') === expected)).toEqual([false, true]);
  });
});

/** The key is changed while Laager runs: at no time can anything not be read, by processes that know either key first. */
describe('another sealing key', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('sealing');
  });
  afterAll(() => world.close());

  const houseWith = (...keys: [string, string?]): App => ({ ...world.app, sealing: openSealing(...keys) });
  const signsIn = async (house: App): Promise<void> => {
    const row = await world.app.db.row<{ url: string; account: string; secret_sealed: Buffer }>(
      "SELECT url, account, secret_sealed FROM provider WHERE code = 'coast'",
    );
    const secret = house.sealing.unseal(row?.secret_sealed ?? Buffer.alloc(0), ['provider', 'coast']);
    expect(secret).toBe(SECRET);
    await httpProvider({ code: 'coast', url: row?.url ?? '', account: row?.account ?? '', secret }).signIn();
  };
  /** Done again it would add nobody: an answer that says one was added is what was kept. */
  const importOne = async (house: App): Promise<string> => {
    const response = await apiOf(house).answer(
      new Request('http://127.0.0.1/api/v1/customers/SVG/people/import?keep=all', {
        method: 'POST',
        headers: {
          authorization: `Bearer ${world.tokens.ida}`,
          'content-type': 'text/csv',
          'idempotency-key': 'across keys',
        },
        body: 'account,given,family,mail\r\nacross.keys,Across,Keys,across@svg.example\r\n',
      }),
    );
    expect(response.status).toBe(200);
    return response.text();
  };

  it('reads by both keys while both are set, whichever seals; then seals anew, and needs the old one no more', async () => {
    const [old, first, then, last] = [
      houseWith(SECRET_KEY),
      houseWith(SECRET_KEY, NEXT_KEY),
      houseWith(NEXT_KEY, SECRET_KEY),
      houseWith(NEXT_KEY),
    ];
    const browser = makeBrowser(old.sealing, 'someone');
    await signsIn(old);
    await signsIn(first);
    await signsIn(then);
    await expect(signsIn(last)).rejects.toThrow('sealed with another key');
    await expect(sealProvidersAnew(last, SYSTEM)).rejects.toThrow('sealed with another key');

    expect(await sealProvidersAnew(then, SYSTEM)).toBe(2);
    expect(await sealProvidersAnew(then, SYSTEM)).toBe(0);
    for (const house of [first, then, last]) await signsIn(house);
    await expect(signsIn(old)).rejects.toThrow('sealed with another key');

    expect(knownBrowser(then.sealing, 'someone', browser)).toBe(browser.split('.')[0]);
    expect(knownBrowser(then.sealing, 'another', browser)).toBeUndefined();
    expect(knownBrowser(last.sealing, 'someone', browser)).toBeUndefined();
  });

  it('signs in to no provider with the secret of another', async () => {
    await world.app.db.write(
      "UPDATE provider a JOIN provider b ON b.code = 'northern' SET a.secret_sealed = b.secret_sealed WHERE a.code = 'coast'",
    );
    await expect(signsIn(houseWith(NEXT_KEY))).rejects.toThrow('for another place');
  });

  it('answers a request that is sent again from what it made, though the key has changed meanwhile', async () => {
    const [old, then] = [houseWith(SECRET_KEY), houseWith(NEXT_KEY, SECRET_KEY)];
    const made = await importOne(old);
    expect(made).toContain('"added":1');
    expect(await importOne(then)).toBe(made);
    expect(await sealKeptAnew(then)).toBeGreaterThan(0);
    expect(await importOne(then)).toBe(made);
    const kept = await world.app.db.rows<{ made: Buffer; id: string; sent: string }>(
      'SELECT made, operator_id AS id, idempotency_key AS sent FROM idempotency',
    );
    expect(kept.every((row) => then.sealing.isSealedNow(row.made, ['answer', row.id, row.sent]))).toBe(true);
  });
});
