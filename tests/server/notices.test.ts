import { createHash, createHmac } from 'node:crypto';
import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { HTTP, type CloudEvent } from 'cloudevents';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { control } from '../../src/demo/living';
import { tellOutside } from '../../src/server/notices';
import { openWorld, provisionFor, type World } from './setup/world';

const SECRET = 'a secret that two of us share';

interface Taken {
  readonly headers: IncomingHttpHeaders;
  readonly body: string;
}

describe('what is told outside', { timeout: 120_000 }, () => {
  let world: World;
  let receiver: Server;
  let address = '';
  let taken: Taken[] = [];
  /** How the receiver answers from now on; 0: it hangs up. */
  let status = 204;
  /** What is refused, whatever else is taken. */
  let isRefused: (body: string) => boolean = () => false;
  beforeAll(async () => {
    world = await openWorld('notices');
    await provisionFor(world, 'MHP', 'office', 12, 'KQ');
    await world.living.moveTo(Date.UTC(2026, 10, 19, 10, 0));
    receiver = createServer((request, response) => {
      let body = '';
      request.on('data', (chunk: Buffer) => (body += chunk.toString()));
      request.on('end', () => {
        if (status === 0) return void request.socket.destroy();
        const answer = isRefused(body) ? 422 : status;
        if (answer < 300) taken.push({ headers: request.headers, body });
        response.writeHead(answer).end('taken, thank you');
      });
    });
    await new Promise<void>((listens) => receiver.listen(0, '127.0.0.1', listens));
    address = `http://127.0.0.1:${(receiver.address() as AddressInfo).port}/hook?of=laager`;
  });
  beforeEach(() => {
    taken = [];
    status = 204;
    isRefused = () => false;
  });
  afterAll(async () => {
    receiver.close();
    await world.close();
  });

  const keep = (body: object, who: 'bram' | 'ida' | 'jonah' = 'bram') =>
    world.call(who, 'PUT', '/notices', { body });
  const ail = async (given: object): Promise<string> => {
    const row = await world.app.db.row<{ ref: string; name: string }>(
      "SELECT ref, name FROM resource WHERE kind = 'host' AND ref IS NOT NULL ORDER BY name LIMIT 1",
    );
    await control(world.simulationUrl, 'PUT', `/control/ailments/${row?.ref ?? ''}`, { given });
    await world.living.job('signs');
    return row?.name ?? '';
  };
  const events = (): CloudEvent<{ says: string; customers: string[] }>[] =>
    taken.map(({ headers, body }) => HTTP.toEvent({ headers, body }) as CloudEvent<never>);

  it('is nothing until a lead who reaches every customer says where to', async () => {
    expect((await keep({ address, secret: SECRET }, 'ida')).status).toBe(403);
    expect((await keep({ address, secret: '' })).body.fields).toHaveProperty('secret');
    expect((await keep({ address: 'ftp://x.example', secret: SECRET })).status).toBe(422);
    await ail({ load: 99 });
    await tellOutside(world.app);
    expect(taken).toEqual([]);
    const kept = await keep({ address, secret: SECRET });
    expect(kept.body.target).toMatchObject({ address, waiting: 0, trouble: '' });
    expect(JSON.stringify(kept.body)).not.toContain(SECRET);
    expect((await world.call('ida', 'GET', '/notices')).status).toBe(403);
  });

  it('is a CloudEvent 1.0 of each look that opens and closes, told once', async () => {
    await ail({});
    await tellOutside(world.app);
    taken = [];
    const name = await ail({ memory: 99 });
    await tellOutside(world.app);
    await tellOutside(world.app);
    await ail({});
    await tellOutside(world.app);
    const said = events().filter(({ data }) => data?.says.includes('memory'));
    expect(said.map(({ type }) => type)).toEqual(['laager.look.opened', 'laager.look.closed']);
    expect(said[0]).toMatchObject({ specversion: '1.0', datacontenttype: 'application/json' });
    expect(said[0]?.data).toMatchObject({ says: `${name}: memory 99 % taken`, customers: ['MHP'] });
    expect(said[0]?.subject).toBe(said[1]?.subject);
    expect(new Set(events().map(({ id }) => id)).size).toBe(taken.length);
    for (const one of events()) expect(one.validate()).toBe(true);
  });

  it('is signed, so that whoever reads it knows whose it is (RFC 9421, RFC 9530)', async () => {
    await ail({ memory: 99 });
    await tellOutside(world.app);
    const [one] = taken;
    if (!one) throw new Error('nothing was told');
    const { body, headers } = one;
    expect(headers['content-digest']).toBe(`sha-256=:${createHash('sha256').update(body).digest('base64')}:`);
    const [, label = '', params = ''] = /^(\w+)=(.*)$/.exec(String(headers['signature-input'])) ?? [];
    // The signature base as section 2.5 writes it, built here by hand.
    const base = [
      '"@method": POST',
      `"@target-uri": ${address}`,
      `"content-type": ${headers['content-type'] ?? ''}`,
      `"content-digest": ${String(headers['content-digest'])}`,
      `"@signature-params": ${params}`,
    ].join('\n');
    expect(params).toContain('alg="hmac-sha256"');
    expect(Number(/created=(\d+)/.exec(params)?.[1])).toBeGreaterThan(1_000_000_000);
    const expected = createHmac('sha256', SECRET).update(base).digest('base64');
    expect(headers.signature).toBe(`${label}=:${expected}:`);
  });

  it('waits, in its order, while nobody takes it, and is not told twice for that', async () => {
    await ail({});
    await tellOutside(world.app);
    taken = [];
    status = 0;
    await ail({ load: 99 });
    await tellOutside(world.app);
    await ail({});
    await tellOutside(world.app);
    const { target } = (await world.call('bram', 'GET', '/notices')).body as unknown as {
      target: { waiting: number; trouble: string };
    };
    expect(target.waiting).toBeGreaterThanOrEqual(2);
    expect(target.trouble).not.toBe('');
    status = 204;
    await world.app.db.write('UPDATE notice SET due_wall = 0');
    await tellOutside(world.app);
    expect(events().map(({ type }) => type)).toEqual(['laager.look.opened', 'laager.look.closed']);
    expect((await world.call('bram', 'GET', '/notices')).body.target).toMatchObject({
      waiting: 0,
      trouble: '',
    });
  });

  it('is told of all others while one is refused, and of what ceases never before it began', async () => {
    await ail({});
    await tellOutside(world.app);
    taken = [];
    isRefused = (body) => body.includes('laager.look.opened');
    await ail({ load: 99 });
    await tellOutside(world.app);
    await ail({});
    await tellOutside(world.app);
    // What ceased waits for what began; something else that came later is told meanwhile.
    const row = { type: 'laager.look.closed', subject: 'another', at: 0, data: {} };
    await world.app.db.write(
      `INSERT INTO notice (customer_id, id, event, due_wall) SELECT id, 'ZZZZZZZZZZZZZZZZZZZZZZZZZZ', ?, 0 FROM customer WHERE code = 'MHP'`,
      [JSON.stringify({ ...row, id: 'ZZZZZZZZZZZZZZZZZZZZZZZZZZ' })],
    );
    await tellOutside(world.app);
    expect(events().map(({ subject }) => subject)).toEqual(['another']);
    // Five tries are enough: then what ceased is told by itself.
    for (let tries = 1; tries < 5; tries++) {
      await world.app.db.write('UPDATE notice SET due_wall = 0');
      await tellOutside(world.app);
    }
    await world.app.db.write('UPDATE notice SET due_wall = 0');
    await tellOutside(world.app);
    const said = events().map(({ type }) => type);
    expect(said.filter((type) => type === 'laager.look.opened')).toEqual([]);
    expect(said.length).toBeGreaterThan(1);
    expect((await world.call('bram', 'GET', '/notices')).body.target).toMatchObject({ waiting: 0 });
  });

  it('is signed with no secret that was given for another receiver, and no token of an address is on the trail', async () => {
    const moved = await keep({ address: 'https://other.example/hook?token=t0ken', secret: '' });
    expect([moved.status, moved.body.fields]).toEqual([
      422,
      { secret: expect.stringMatching(/^belongs to http:\/\/127/) as string },
    ]);
    const further = `${address}&token=t0ken`;
    expect((await keep({ address: further, secret: '' })).body.target).toMatchObject({ address: further });
    const { text } = await world.call('bram', 'GET', '/trail');
    expect(text).toContain('say where notices go');
    expect(text).not.toContain('t0ken');
    expect((await keep({ address, secret: '' })).status).toBe(200);
  });

  it('is tried before one relies on it', async () => {
    expect((await world.call('bram', 'POST', '/notices/tries')).body).toEqual({
      worked: true,
      says: 'was taken',
    });
    status = 403;
    expect((await world.call('bram', 'POST', '/notices/tries')).body).toEqual({
      worked: false,
      says: 'answered 403',
    });
    expect((await world.call('ida', 'POST', '/notices/tries')).status).toBe(403);
    await keep({ address: '', secret: '' });
    expect((await world.call('bram', 'POST', '/notices/tries')).status).toBe(409);
  });
});
