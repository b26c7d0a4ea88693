import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { MSP } from '../../src/server/access';
import { tell } from '../../src/server/live';
import { openWorld, provisionFor, type World } from './setup/world';

/** A stream of live events, read as a browser reads it (WHATWG HTML, server-sent events). */
class Stream {
  private readonly decoder = new TextDecoder();
  private text = '';
  private readonly reader: ReadableStreamDefaultReader<Uint8Array>;
  readonly ended: Promise<void>;

  constructor(
    response: Response,
    private readonly leave: AbortController,
  ) {
    if (!response.body) throw new Error('no stream');
    this.reader = response.body.getReader() as ReadableStreamDefaultReader<Uint8Array>;
    this.ended = this.readAll();
  }

  private async readAll(): Promise<void> {
    for (;;) {
      const { done, value } = await this.reader.read();
      if (done) return;
      this.text += this.decoder.decode(value, { stream: true });
      for (const waiting of this.waiting) waiting();
    }
  }

  private waiting: (() => void)[] = [];

  /** Waits until an event has come of which this is true. */
  async until(isIt: (event: { name: string; data: string }) => boolean): Promise<void> {
    while (!this.events().some(isIt))
      await new Promise<void>((resolve) => {
        this.waiting.push(resolve);
      });
  }

  events(): { name: string; data: string }[] {
    return this.text.split('\n\n').flatMap((block) => {
      const name = /^event:\s?(.*)$/m.exec(block)?.[1];
      const data = /^data:\s?(.*)$/m.exec(block)?.[1];
      return name !== undefined && data !== undefined ? [{ name, data }] : [];
    });
  }

  close(): void {
    this.leave.abort();
  }

  /** Reads no more, without a word: not everyone who serves us aborts the request then. */
  drop(): Promise<void> {
    return this.reader.cancel();
  }
}

describe('live events', { timeout: 60_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('live');
  });
  afterAll(() => world.close());

  const listen = async (path: string, headers: Record<string, string>): Promise<Stream> => {
    const leave = new AbortController();
    const request = new Request(`http://laager.test/api/v1${path}`, { headers, signal: leave.signal });
    const stream = new Stream(await world.api.answer(request), leave);
    await stream.until((event) => event.name === 'ready');
    return stream;
  };
  const bearer = (who: keyof World['tokens']) => ({ authorization: `Bearer ${world.tokens[who]}` });

  it('end where nobody reads them any more, with nothing that goes wrong behind', async () => {
    const wrong: unknown[] = [];
    const note = (reason: unknown): void => void wrong.push([reason]);
    process.on('unhandledRejection', note);
    const dropped = await listen('/events', bearer('ida'));
    const stays = await listen('/events', bearer('ida'));
    await dropped.drop();
    for (let n = 0; n < 3; n++) {
      await tell(world.app.db, MSP.id, 'clock', `after ${n}`, world.clock.at);
      await stays.until((event) => event.data.includes(`after ${n}`));
    }
    stays.close();
    await stays.ended;
    process.off('unhandledRejection', note);
    expect(wrong).toEqual([]);
  });

  it('tell what changes to those who reach the customer, and to nobody else', async () => {
    const [everyone, own, foreign] = [
      await listen('/events', bearer('ida')),
      await listen('/customers/MHP/events', bearer('ida')),
      await listen('/events', bearer('jonah')),
    ];
    const mhp = await provisionFor(world, 'MHP', 'bridge', 6, 'KQ');
    const svg = await provisionFor(world, 'SVG', 'bridge', 6, 'KQ');
    const about =
      (id: string) =>
      (event: { data: string }): boolean =>
        event.data.includes(id);
    await everyone.until(about(mhp.run));
    await everyone.until(about(svg.run));
    await own.until(about(mhp.run));
    await foreign.until(about(svg.run));
    // What was told of the pilots came before what was told of the vets, so it would have come by now.
    expect(foreign.events().filter(about(mhp.run))).toEqual([]);
    expect(foreign.events().filter(about(mhp.environment))).toEqual([]);
    expect(own.events().filter(about(svg.run))).toEqual([]);
    for (const stream of [everyone, own, foreign]) stream.close();
  });

  it('tell of a new customer to those who reach them, and not even their code to others', async () => {
    const [everyone, some] = [
      await listen('/events', bearer('ida')),
      await listen('/events', bearer('jonah')),
    ];
    const made = await world.call('ida', 'POST', '/customers', {
      body: {
        code: 'SCRT',
        name: 'Scart Lighthouse',
        state: 'trial',
        plan: 'jetty',
        site: 'KQ',
        zone: 'Europe/Dublin',
        currency: 'EUR',
        card: 'eur',
      },
    });
    expect(made.status).toBe(201);
    await tell(world.app.db, MSP.id, 'clock', 'the end', world.clock.at);
    await everyone.until((event) => event.data.includes('SCRT'));
    await some.until((event) => event.data.includes('the end'));
    expect(some.events().filter((event) => event.data.includes('SCRT'))).toEqual([]);
    const { entries } = (await world.call('ida', 'GET', '/customers/SCRT/trail')).body;
    expect(entries).toMatchObject([{ action: 'take on customer' }]);
    for (const stream of [everyone, some]) stream.close();
  });

  it('end when who listens has signed out', async () => {
    const cookie = await signIn('ida@terntallow.example');
    const stream = await listen('/events', { cookie });
    await world.api.answer(
      new Request('http://laager.test/api/v1/session', {
        method: 'DELETE',
        headers: { cookie, origin: 'http://laager.test', host: 'laager.test' },
      }),
    );
    await stream.ended;
    const refused = await world.api.answer(
      new Request('http://laager.test/api/v1/events', { headers: { cookie } }),
    );
    expect(refused.status).toBe(401);
  });

  it('end when a customer is taken out of the listener’s reach', async () => {
    const stream = await listen('/events', bearer('jonah'));
    await world.app.db.write(
      `DELETE oc FROM operator_customer oc JOIN operator o ON o.id = oc.operator_id JOIN customer c ON c.id = oc.customer_id
       WHERE o.mail = 'jonah@terntallow.example' AND c.code = 'SVG'`,
    );
    await stream.ended;
    expect((await world.call('jonah', 'GET', '/customers/SVG/events')).status).toBe(404);
  });

  const signIn = async (mail: string): Promise<string> => {
    const response = await world.api.answer(
      new Request('http://laager.test/api/v1/session', {
        method: 'POST',
        headers: {
          'content-type': 'application/json',
          origin: 'http://laager.test',
          host: 'laager.test',
        },
        body: JSON.stringify({ mail, password: DEMO_PASSWORD }),
      }),
    );
    return response.headers.get('set-cookie')?.split(';')[0] ?? '';
  };
});
