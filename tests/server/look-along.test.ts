import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { LookAlongTold, Session } from '../../src/contract';
import { peopleOf } from '../../src/demo/people';
import { followLooks } from '../../src/server/look-along';
import { openWorld, provisionFor, type Called, type World } from './setup/world';

/** Somebody of SVG is in, and has called; Bram and Ida may look along. Nobody of it is in Jonah's reach at MHP. */
describe('looking along with somebody', { timeout: 120_000 }, () => {
  let world: World;
  let session: Session;
  /** Where they are at it themselves. */
  let own = '';
  const [CALLER = { account: '' }] = peopleOf('SVG', 96).sort((a, b) => (a.account < b.account ? -1 : 1));

  const path = (more = ''): string =>
    `/customers/SVG/sessions/${session.provider}/${session.id}/look-along${more}`;
  const ask = (who: 'ida' | 'bram' | 'petra' | 'runa' = 'ida'): Promise<Called> =>
    world.call(who, 'POST', path(), { body: { reason: 'the printer is gone' } });
  const lookOf = ({ body }: Called): LookAlongTold => body as unknown as LookAlongTold;
  const read = async (id: string, who: 'ida' | 'bram' = 'ida'): Promise<LookAlongTold> =>
    lookOf(await world.call(who, 'GET', path(`/${id}`)));
  const end = (id: string): Promise<Called> => world.call('ida', 'DELETE', path(`/${id}`));
  /** What they press in their session. */
  const press = async (id: string, what: 'yes' | 'no' | 'stop'): Promise<void> => {
    const to = new URL(own);
    to.pathname = `${to.pathname}/looks/${id}/${what}`;
    expect((await fetch(to, { method: 'POST', redirect: 'manual' })).status).toBe(303);
  };
  const screen = async (): Promise<string> => (await fetch(own)).text();
  const trail = async (): Promise<string[]> =>
    (
      (await world.call('ida', 'GET', '/customers/SVG/trail?find=look')).body.entries as { action: string }[]
    ).map(({ action }) => action);

  beforeAll(async () => {
    world = await openWorld('lookalong');
    // At night nobody comes by themselves.
    await world.living.moveTo(Date.UTC(2026, 10, 19, 2, 0));
    const { environment } = await provisionFor(world, 'SVG', 'clinic', 12, 'KQ');
    await world.living.untilQuiet();
    const { entries } = (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`))
      .body;
    const [host] = (await world.port().resources({ customer: 'SVG' })).filter(({ kind }) => kind === 'host');
    expect(entries.length).toBeGreaterThan(0);
    own = (
      await world.port().openSession(host?.ref ?? '', CALLER.account, 'Full desktop', {
        crosses: [],
        screen: 'as the window',
      })
    ).address;
    await world.living.job('sessions');
    const found = (await world.call('ida', 'GET', '/customers/SVG/sessions')).body.entries as Session[];
    const [one] = found.filter(({ account }) => account === CALLER.account);
    if (!one) throw new Error('nobody is in');
    session = one;
  });
  afterAll(() => world.close());
  // Whoever said no lately is not asked again.
  beforeEach(() => {
    world.clock.at += 31 * 60_000;
  });

  it('asks them, and shows nothing before they say yes', async () => {
    const asked = await ask();
    expect(asked.status).toBe(201);
    expect(lookOf(asked)).toMatchObject({ state: 'asked', address: null });
    expect(await screen()).toContain('Ida Quist would like to look along.');
    expect(await read(lookOf(asked).id)).toMatchObject({ state: 'asked', address: null });
    // Asked again, it is the same asking.
    expect(lookOf(await ask()).id).toBe(lookOf(asked).id);
    await press(lookOf(asked).id, 'no');
    expect(await read(lookOf(asked).id)).toMatchObject({ state: 'refused', address: null });
    expect(await screen()).not.toContain('look along');
  });

  it('shows their screen with their yes, to them all the time, and ends when they say so', async () => {
    const { id } = lookOf(await ask());
    await press(id, 'yes');
    const { state, address } = await read(id);
    expect(state).toBe('looking');
    const seen = await (await fetch(address ?? '')).text();
    expect(seen).toContain(CALLER.account);
    // Nothing can be pressed there.
    expect(seen).not.toMatch(/<form|<button/);
    expect(await screen()).toContain('Ida Quist is looking along.');
    await press(id, 'stop');
    expect((await fetch(address ?? '')).status).toBe(403);
    expect(await read(id)).toMatchObject({ state: 'over', address: null });
  });

  it('ends when whoever looks ends it, and cannot be seen by its address any more', async () => {
    const { id } = lookOf(await ask());
    await press(id, 'yes');
    const { address } = await read(id);
    expect((await end(id)).status).toBe(204);
    expect((await fetch(address ?? '')).status).toBe(403);
    expect(await screen()).not.toContain('looking along');
    expect((await end(id)).status).toBe(204);
  });

  it('tells where one looks to whoever asked, and to nobody else', async () => {
    const { id } = lookOf(await ask());
    expect(await ask('bram')).toMatchObject({ status: 409 });
    await press(id, 'yes');
    expect(await read(id, 'bram')).toMatchObject({ state: 'looking', address: null });
    expect((await read(id)).address).not.toBeNull();
    await end(id);
  });

  it('is not asked for again and again: whoever said no is left in peace, whoever asks', async () => {
    const { id } = lookOf(await ask());
    await press(id, 'no');
    await read(id);
    for (const who of ['ida', 'bram'] as const) {
      const again = await ask(who);
      expect([again.status, again.body.detail]).toEqual([
        409,
        expect.stringMatching(/can be asked again in 30 minutes/),
      ]);
    }
    expect(await screen()).not.toContain('look along');
    world.clock.at += 31 * 60_000;
    expect((await ask()).status).toBe(201);
  });

  it('is asked for once under a key, also when they could not be asked the first time', async () => {
    const keyed = (): Promise<Called> =>
      world.call('ida', 'POST', path(), {
        body: { reason: 'again' },
        headers: { 'idempotency-key': 'look along once' },
      });
    await world.living.faults([{ kind: 'refuse', target: '' }]);
    expect((await keyed()).status).toBe(503);
    await world.living.faults([]);
    const first = await keyed();
    const second = await keyed();
    expect([first.status, second.status]).toEqual([201, 201]);
    expect(lookOf(second)).toEqual(lookOf(first));
    expect(await screen()).toContain('Ida Quist would like to look along.');
    await end(lookOf(first).id);
  });

  it.each([
    ['may not any more', "UPDATE operator SET role = 'auditor' WHERE name = 'Ida Quist'"],
    ['does not reach them any more', "UPDATE operator SET reach = 'listed' WHERE name = 'Ida Quist'"],
    ['works here no longer', "UPDATE operator SET ends_at = 1 WHERE name = 'Ida Quist'"],
    [
      'is signed in nowhere',
      "UPDATE api_token t JOIN operator o ON o.id = t.operator_id SET t.expires_at = 1 WHERE o.name = 'Ida Quist'",
    ],
  ])('ends at once when whoever looks %s', async (_says, change) => {
    const before = await world.app.db.row<{ role: string; reach: string }>(
      "SELECT role, reach FROM operator WHERE name = 'Ida Quist'",
    );
    const { id } = lookOf(await ask());
    await press(id, 'yes');
    const { address } = await read(id);
    expect((await fetch(address ?? '')).status).toBe(200);
    await world.app.db.write(change);
    await followLooks(world.app);
    expect((await fetch(address ?? '')).status).toBe(403);
    expect(await screen()).not.toContain('looking along');
    await world.app.db.write(
      "UPDATE operator SET role = ?, reach = ?, ends_at = NULL WHERE name = 'Ida Quist'",
      [before?.role ?? '', before?.reach ?? ''],
    );
    await world.app.db.write('UPDATE api_token SET expires_at = ?', [world.clock.at + 400 * 86_400_000]);
  });

  it('is not asked for by a bookkeeper or an auditor, nor of another customer’s people', async () => {
    for (const who of ['petra', 'runa'] as const) expect((await ask(who)).status).toBe(403);
    const elsewhere = `/customers/FPS/sessions/${session.provider}/${session.id}/look-along`;
    expect((await world.call('ida', 'POST', elsewhere, { body: {} })).status).toBe(404);
    const beyond = `/customers/MHP/sessions/${session.provider}/${session.id}/look-along`;
    expect((await world.call('jonah', 'POST', beyond, { body: {} })).status).toBe(404);
    const { id } = lookOf(await ask());
    expect((await world.call('ida', 'GET', `${elsewhere}/${id}`)).status).toBe(404);
    expect((await world.call('ida', 'DELETE', `${elsewhere}/${id}`)).status).toBe(404);
    await end(id);
  });

  it('takes an answer that never comes for none, and a yes after that too', async () => {
    const { id } = lookOf(await ask());
    world.clock.at += 121_000;
    expect((await read(id)).state).toBe('unanswered');
    await press(id, 'yes');
    expect(await read(id)).toMatchObject({ state: 'unanswered', address: null });
    expect(await screen()).not.toContain('is looking along');
  });

  it('lasts half an hour at most, whatever they say', async () => {
    const { id } = lookOf(await ask());
    await press(id, 'yes');
    const { address } = await read(id);
    world.clock.at += 31 * 60_000;
    expect((await read(id)).state).toBe('over');
    expect((await fetch(address ?? '')).status).toBe(403);
  });

  it('stays as it was while the provider cannot be asked, and is not said to be over before it is', async () => {
    const { id } = lookOf(await ask());
    await press(id, 'yes');
    expect((await read(id)).state).toBe('looking');
    await world.living.faults([{ kind: 'refuse', target: '', amount: 1 }]);
    expect(await read(id)).toMatchObject({ state: 'looking', address: null });
    expect((await end(id)).status).toBe(503);
    await world.living.faults([]);
    expect((await read(id)).address).not.toBeNull();
    expect((await end(id)).status).toBe(204);
    expect((await read(id)).state).toBe('over');
  });

  it('is asked once it can be, where it could not be asked at first', async () => {
    await world.living.faults([{ kind: 'refuse', target: '', amount: 1 }]);
    expect((await ask()).status).toBe(503);
    await world.living.faults([]);
    const { id } = lookOf(await ask());
    expect(await screen()).toContain('would like to look along');
    await end(id);
  });

  it('is of whose session it was: an id that the provider gives to somebody else shows nothing', async () => {
    const { id } = lookOf(await ask());
    await press(id, 'yes');
    const { address } = await read(id);
    const rename = (to: string): Promise<number> =>
      world.app.db.write('UPDATE session SET account = ? WHERE id = ?', [to, session.id]);
    await rename('somebody.else');
    expect(await read(id)).toMatchObject({ state: 'over', address: null });
    expect((await fetch(address ?? '')).status).toBe(403);
    // The provider knows whose it is, too.
    expect((await ask()).status).toBe(503);
    await rename(CALLER.account);
  });

  it('is followed where nobody reads it any more: what was said, and its end, are on the trail', async () => {
    const { id } = lookOf(await ask());
    const before = (await trail()).length;
    await press(id, 'yes');
    await world.living.job('looks along');
    await press(id, 'stop');
    await world.living.job('looks along');
    await world.living.job('looks along');
    expect((await trail()).slice(0, (await trail()).length - before)).toEqual([
      'look along ended',
      'look along',
    ]);
    expect((await read(id)).state).toBe('over');
  });

  it('stands on the customer’s trail, each part once', async () => {
    const { id } = lookOf(await ask());
    const before = (await trail()).length;
    await press(id, 'yes');
    await Promise.all([read(id), read(id), read(id)]);
    await Promise.all([end(id), end(id)]);
    expect((await trail()).slice(0, (await trail()).length - before)).toEqual([
      'look along ended',
      'look along',
    ]);
  });

  it('ends with the session, and is told so where the session is gone', async () => {
    const { id } = lookOf(await ask());
    await press(id, 'yes');
    const { address } = await read(id);
    await world.port().endSession(session.id);
    expect((await fetch(address ?? '')).status).not.toBe(200);
    expect(await read(id)).toMatchObject({ state: 'over', address: null });
    expect((await ask()).status).toBe(503);
    await world.living.job('sessions');
    expect((await ask()).status).toBe(404);
  });
});
