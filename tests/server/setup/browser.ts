import type { Laager } from '../../../src/server/api';

export const HERE = 'http://laager.test';

/** Cookies of one browser, by the host that set them. */
export class Browser {
  private readonly jars = new Map<string, Map<string, string>>();

  constructor(private readonly api: Laager) {}

  async get(url: string): Promise<Response> {
    const { host, origin } = new URL(url);
    const jar = this.jars.get(host) ?? new Map<string, string>();
    this.jars.set(host, jar);
    const cookie = [...jar].map(([name, value]) => `${name}=${value}`).join('; ');
    const headers = { cookie, host };
    const response =
      origin === HERE
        ? await this.api.answer(new Request(url, { headers }))
        : await fetch(url, { headers, redirect: 'manual' });
    for (const one of response.headers.getSetCookie()) {
      const [, name = '', value = ''] = /^([^=]+)=([^;]*)/.exec(one) ?? [];
      if (value === '' || /max-age=0/i.test(one)) jar.delete(name);
      else jar.set(name, value);
    }
    return response;
  }

  /** Sends something of our own pages. */
  async put(url: string, body: object): Promise<Response> {
    const { host } = new URL(url);
    const jar = this.jars.get(host) ?? new Map<string, string>();
    return this.api.answer(
      new Request(url, {
        method: 'PUT',
        headers: {
          cookie: [...jar].map(([name, value]) => `${name}=${value}`).join('; '),
          host,
          origin: HERE,
          'content-type': 'application/json',
        },
        body: JSON.stringify(body),
      }),
    );
  }

  /** Follows where it is sent until it is back with us, as whoever was chosen. @returns the address of the way back */
  async outside(who: string, begin = `${HERE}/api/v1/session/outside?next=/runs`): Promise<string> {
    let at = (await this.get(begin)).headers.get('location') ?? '';
    for (let n = 0; n < 12 && !at.startsWith(HERE); n++) {
      const response = await this.get(at);
      const next = response.headers.get('location');
      at = next === null ? `${at}?who=${encodeURIComponent(who)}` : new URL(next, at).href;
    }
    return at;
  }

  async signIn(who: string): Promise<Response> {
    return this.get(await this.outside(who));
  }

  async me(): Promise<{ status: number; body: Record<string, unknown> }> {
    const response = await this.get(`${HERE}/api/v1/me`);
    return { status: response.status, body: (await response.json()) as Record<string, unknown> };
  }
}
