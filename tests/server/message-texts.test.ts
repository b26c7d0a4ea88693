import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MessageText } from '../../src/contract';
import { openWorld, type Called, type World } from './setup/world';

describe('texts that are said again and again', { timeout: 60_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('messagetexts');
  });
  afterAll(() => world.close());

  type Who = 'ida' | 'bram' | 'petra' | 'runa' | 'jonah';
  const keep = (
    text: string,
    who: Who = 'ida',
    headers: Readonly<Record<string, string>> = {},
  ): Promise<Called> => world.call(who, 'POST', '/message-texts', { body: { text }, headers });
  const texts = async (who: Who = 'ida'): Promise<MessageText[]> =>
    (await world.call(who, 'GET', '/message-texts')).body.texts as MessageText[];
  const drop = (id: string, who: Who = 'ida'): Promise<Called> =>
    world.call(who, 'DELETE', `/message-texts/${id}`);

  it('are kept for everyone at the MSP, each once, also when it is sent by two at once', async () => {
    expect(await texts()).toEqual([]);
    await Promise.all([keep('{host} restarts soon.'), keep('{host} restarts soon.', 'bram')]);
    await keep('  {host} restarts soon.  ', 'jonah');
    expect((await texts('jonah')).map(({ text }) => text)).toEqual(['{host} restarts soon.']);
    const [one] = await texts();
    expect(['Ida Quist', 'Bram Oosthuis']).toContain(one?.by);
    const { body } = await world.call('ida', 'GET', '/trail?find=keep%20text');
    expect(body.entries).toMatchObject([
      { action: 'keep text', subject: '{host} restarts soon.', customer: null },
    ]);
  });

  it('name only what can be filled, and are what they look like', async () => {
    expect((await keep('{hots} restarts')).body.fields).toMatchObject({
      text: expect.stringContaining('{hots}'),
    });
    expect((await keep('   ')).body.fields).toMatchObject({ text: 'write what is said' });
    expect((await keep('Zo\u202eë')).body.fields).toMatchObject({
      text: 'holds a mark that turns its direction',
    });
    expect((await keep('x'.repeat(301))).status).toBe(422);
    // On several lines it is as plain.
    expect((await keep('On two lines\nit is said.')).status).toBe(200);
    expect((await keep('On two\u0007 lines\nit is said.')).status).toBe(422);
    const [, second] = await texts();
    expect((await drop(second?.id ?? '')).status).toBe(204);
    expect(await texts()).toHaveLength(1);
  });

  it('are written and given up by engineers and leads alone, and a long one is told of whole', async () => {
    for (const who of ['petra', 'runa'] as const) expect((await keep('Hello', who)).status).toBe(403);
    const long = `${'😀'.repeat(100)} ${'long '.repeat(15)}end`;
    expect((await keep(long)).status).toBe(200);
    const made = (await texts()).find(({ text }) => text === long);
    expect((await drop(made?.id ?? '', 'runa')).status).toBe(403);
    expect((await drop(made?.id ?? '', 'bram')).status).toBe(204);
    expect((await drop(made?.id ?? '', 'bram')).status).toBe(404);
    expect(await texts()).toHaveLength(1);
    const { body } = await world.call('ida', 'GET', '/trail?find=drop%20text');
    const [told] = body.entries as { subject: string; before: { text: string } }[];
    expect([...(told?.subject ?? '')]).toHaveLength(160);
    expect(told?.subject.endsWith('…')).toBe(true);
    expect(told?.before).toEqual({ text: long });
  });

  it('are no more than somebody finds theirs among', async () => {
    for (let n = (await texts()).length; n < 40; n += 1) await keep(`Text ${n}`);
    const { status, body } = await keep('One more');
    expect([status, body.detail]).toEqual([409, 'More than 40 texts are not kept: give one up first.']);
    expect(await texts()).toHaveLength(40);
  });
});
