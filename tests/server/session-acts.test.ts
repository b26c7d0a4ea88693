import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ActImpact, Session, SessionProgram } from '../../src/contract';
import { control } from '../../src/demo/living';
import { doActs } from '../../src/server/session-acts';
import { openWorld, provisionFor, type Called, type World } from './setup/world';

/** FPS and MHP are at work; Jonah reaches FPS alone. */
describe('what is done with sessions', { timeout: 120_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('sessionacts');
    await provisionFor(world, 'FPS', 'office', 12, 'KQ');
    await provisionFor(world, 'MHP', 'office', 12, 'KQ');
    // A working morning.
    await world.living.moveTo(Date.UTC(2026, 10, 19, 10, 0));
    await world.living.job('sessions');
  });
  afterAll(() => world.close());

  const sessions = async (code: string): Promise<Session[]> =>
    (await world.call('ida', 'GET', `/customers/${code}/sessions?limit=1000`)).body.entries as Session[];
  const keysOf = (some: readonly Session[]): object[] =>
    some.map(({ customer, provider, id }) => ({ customer, provider, id }));
  const begin = (
    act: string,
    some: readonly Session[],
    more: object = {},
    who: 'ida' | 'jonah' | 'petra' = 'ida',
    headers: Readonly<Record<string, string>> = {},
  ): Promise<Called> =>
    world.call(who, 'POST', '/sessions/acts', { body: { act, sessions: keysOf(some), ...more }, headers });
  const messages = async (): Promise<{ session: string; text: string }[]> =>
    (
      (await control(world.simulationUrl, 'GET', '/control/messages')) as {
        messages: { session: string; text: string }[];
      }
    ).messages;
  const read = async (): Promise<void> => {
    await doActs(world.app);
    await world.living.job('sessions');
  };

  it('says before whose they are, and whom it touches', async () => {
    const both = [...(await sessions('FPS')).slice(0, 3), ...(await sessions('MHP')).slice(0, 2)];
    const { body } = await world.call('ida', 'POST', '/sessions/acts/proposal', {
      body: { act: 'sign-out', sessions: keysOf(both), minutes: 10 },
    });
    const impact = body as unknown as ActImpact;
    expect(impact).toMatchObject({ people: 5, gone: 0, endsWork: true });
    expect(impact.customers.map(({ code, people }) => [code, people])).toEqual([
      ['FPS', 3],
      ['MHP', 2],
    ]);
    expect(impact.line).toMatch(/^5 people · \d hosts? · 2 customers · in 10 min · cannot be undone$/);
    expect(await messages()).toEqual([]);
  });

  it('brings a message to just those, once, and it stands on each customer’s trail', async () => {
    const both = [...(await sessions('FPS')).slice(0, 2), ...(await sessions('MHP')).slice(0, 1)];
    const key = { 'idempotency-key': 'one message' };
    expect((await begin('message', both, { text: 'Lunch is ready' }, 'ida', key)).status).toBe(200);
    // Sent again, it is the same request.
    expect((await begin('message', both, { text: 'Lunch is ready' }, 'ida', key)).status).toBe(200);
    await doActs(world.app);
    await doActs(world.app);
    const told = (await messages()).filter(({ text }) => text === 'Lunch is ready');
    expect(told.map(({ session }) => session).sort()).toEqual(both.map(({ id }) => id).sort());
    for (const [code, subject] of [
      ['FPS', '2 sessions'],
      ['MHP', `${both[2]?.account} on ${both[2]?.host}`],
    ]) {
      const { body } = await world.call('ida', 'GET', `/customers/${code}/trail?find=send%20a%20message`);
      expect(body.entries).toMatchObject([{ action: 'send a message', subject, actor: 'Ida Quist' }]);
    }
  });

  it('is read by each with their own name and host, as it was shown before', async () => {
    const some = [...(await sessions('FPS')).slice(0, 2), ...(await sessions('MHP')).slice(0, 1)];
    const [first] = some;
    // What somebody is called is never taken for a name to be filled.
    await world.app.db.write("UPDATE person SET given = '{host}', family = '' WHERE account = ?", [
      first?.account ?? '',
    ]);
    const text = '{person}, {host} of {customer} restarts.';
    const asked = { act: 'message', sessions: keysOf(some), text };
    const { body } = await world.call('ida', 'POST', '/sessions/acts/proposal', { body: asked });
    const { reads } = body as unknown as ActImpact;
    expect(reads?.text).toMatch(/^.+, [\w-]+ of .+ restarts\.$/);
    await begin('message', some, { text });
    await doActs(world.app);
    const read = (await messages()).filter((one) => one.text.endsWith(' restarts.'));
    const names = { FPS: 'Ferrow & Pike Land Surveyors', MHP: 'Marram Harbour Pilots' } as Record<
      string,
      string
    >;
    expect(new Map(read.map((one) => [one.session, one.text]))).toEqual(
      new Map(
        some.map(({ id, account, person, host, customer }) => [
          id,
          `${account === first?.account ? '{host}' : person}, ${host} of ${names[customer]} restarts.`,
        ]),
      ),
    );
    const unknown = await begin('message', some, { text: 'In {minutes} minutes' });
    expect([unknown.status, unknown.body.fields]).toEqual([
      422,
      { text: '{minutes} is not known here; {person}, {customer}, {host} can stand' },
    ]);
    const warned = await world.call('ida', 'POST', '/sessions/acts/proposal', {
      body: { act: 'sign-out', sessions: keysOf(some), text: 'In {minutes} minutes', minutes: 7 },
    });
    expect(warned.body.reads).toMatchObject({ text: 'In 7 minutes' });
  });

  it('disconnects: the session stays, idle', async () => {
    const one = (await sessions('FPS')).find(({ state }) => state === 'active');
    if (!one) throw new Error('nobody is active');
    await begin('disconnect', [one]);
    await read();
    // It is known since when, and those that are so are found among all.
    expect((await sessions('FPS')).find(({ id }) => id === one.id)).toMatchObject({
      state: 'idle',
      stateSince: world.clock.at,
    });
    const { entries } = (await world.call('ida', 'GET', '/sessions?state=idle&limit=1000')).body;
    expect((entries as Session[]).map(({ id }) => id)).toContain(one.id);
    expect((entries as Session[]).every(({ state }) => state === 'idle')).toBe(true);
    const list = async (query: string): Promise<Session[]> =>
      (await world.call('ida', 'GET', `/sessions?limit=1000&${query}`)).body.entries as Session[];
    const long = await list('idleFor=30');
    expect(long.every(({ stateSince }) => stateSince <= world.clock.at - 30 * 60_000)).toBe(true);
    expect(long.length).toBeLessThan(entries.length);
    const [first] = entries as Session[];
    const here = await list(`environment=${first?.environmentId ?? ''}`);
    expect(new Set(here.map(({ environmentId }) => environmentId))).toEqual(new Set([first?.environmentId]));
    expect(here.every(({ hostId }) => hostId !== null)).toBe(true);
    // An environment out of reach has nobody in it.
    const beyond = (await list('')).find(({ customer }) => customer === 'MHP');
    const { body } = await world.call('jonah', 'GET', `/sessions?environment=${beyond?.environmentId ?? ''}`);
    expect(body.entries).toEqual([]);
    expect((await world.call('ida', 'GET', '/sessions?state=asleep')).status).toBe(400);
  });

  it('signs out when the minutes are over, having said so first', async () => {
    const [one] = await sessions('FPS');
    if (!one) throw new Error('nobody is in');
    await begin('sign-out', [one], { minutes: 10 });
    await read();
    expect(
      (await messages()).find(({ session, text }) => session === one.id && /in 10 minutes/.test(text)),
    ).toBeDefined();
    expect((await sessions('FPS')).map(({ id }) => id)).toContain(one.id);
    await world.living.moveTo(world.clock.at + 10 * 60_000);
    await read();
    expect((await sessions('FPS')).map(({ account }) => account)).not.toContain(one.account);
    const { body } = await world.call('ida', 'GET', '/customers/FPS/session-acts');
    expect(body.entries.slice(0, 2)).toMatchObject([
      { act: 'sign-out', state: 'done' },
      { act: 'message', state: 'done' },
    ]);
  });

  it('ends a program that hangs, and no other', async () => {
    const programs = async ({ provider, id }: Session): Promise<SessionProgram[]> =>
      (await world.call('ida', 'GET', `/customers/MHP/sessions/${provider}/${id}/programs`)).body
        .programs as SessionProgram[];
    // What somebody runs is theirs: of all who are in, one who runs several.
    const running = await Promise.all(
      (await sessions('MHP')).map(async (session) => ({ session, before: await programs(session) })),
    );
    const busy = running.find(({ before }) => before.length > 1);
    if (!busy) throw new Error('nobody runs more than one program');
    const { session, before } = busy;
    await begin('end-program', [session], { text: before[1]?.id });
    await doActs(world.app);
    for (const who of ['petra', 'runa'] as const)
      expect(
        (await world.call(who, 'GET', `/customers/MHP/sessions/${session.provider}/${session.id}/programs`))
          .status,
      ).toBe(403);
    expect((await programs(session)).map(({ id }) => id)).toEqual(
      before.filter((_one, n) => n !== 1).map(({ id }) => id),
    );
  });

  it('touches nothing of customers who are not reached, whatever ids are named', async () => {
    const [theirs] = await sessions('MHP');
    if (!theirs) throw new Error('nobody is in');
    const { body } = await begin('sign-out', [theirs], {}, 'jonah');
    expect(body).toMatchObject({ people: 0, gone: 1, customers: [] });
    // Nor by another's id under a customer of one's own.
    const forged = await begin('sign-out', [{ ...theirs, customer: 'FPS' }], {}, 'jonah');
    expect(forged.body).toMatchObject({ people: 0, gone: 1 });
    await read();
    expect((await sessions('MHP')).map(({ id }) => id)).toContain(theirs.id);
    const path = `/customers/FPS/sessions/${theirs.provider}/${theirs.id}/programs`;
    expect((await world.call('jonah', 'GET', path)).status).toBe(404);
    expect((await begin('sign-out', [theirs], {}, 'petra')).status).toBe(403);
  });

  it('does nothing to a session whose id the provider has given to somebody else by then', async () => {
    const [one] = await sessions('FPS');
    const [other] = await sessions('MHP');
    if (!one || !other) throw new Error('nobody is in');
    await begin('sign-out', [one], { minutes: 10 });
    const db = world.app.db;
    await db.write('UPDATE session_act SET session_id = ? WHERE session_id = ?', [other.id, one.id]);
    await world.living.moveTo(world.clock.at + 10 * 60_000);
    await read();
    expect((await sessions('MHP')).map(({ id }) => id)).toContain(other.id);
    const { body } = await world.call('ida', 'GET', '/customers/FPS/session-acts');
    expect(body.entries[0]).toMatchObject({ act: 'sign-out', state: 'done', says: 'it was over already' });
  });

  it('goes on when the provider does not answer for a while, and does it once', async () => {
    const [one] = await sessions('MHP');
    if (!one) throw new Error('nobody is in');
    await world.living.faults([{ kind: 'refuse', target: '', amount: 1 }]);
    await begin('message', [one], { text: 'Once it is back' });
    await doActs(world.app);
    expect((await world.call('ida', 'GET', '/customers/MHP/session-acts')).body.entries[0]).toMatchObject({
      state: 'waiting',
    });
    await world.living.faults([]);
    await doActs(world.app);
    await doActs(world.app);
    expect((await messages()).filter(({ text }) => text === 'Once it is back')).toHaveLength(1);
  });
});
