import { createServer, type Server } from 'node:http';
import { identityService, type Client, type Folk, type Identity, type Service } from './service';

export type { Client, Folk, Identity } from './service';

/** What identity services of customers know, by their realm, each under `/realms/<realm>`. */
export interface Realms {
  readonly client: Client;
  readonly folkOf: (realm: string) => Folk;
}

/** Starts simulated identity services: the MSP's own, whose list can be replaced while it runs, and those of realms. */
export async function startIdentity(
  port: number,
  client: Client,
  people: readonly Identity[],
  realms?: Realms,
): Promise<{ readonly server: Server; setPeople(now: readonly Identity[]): void }> {
  let known = people;
  const origin = `http://127.0.0.1:${port}`;
  const own = identityService(origin, '', client, {
    some: async () => known,
    find: async (id) => known.find((one) => one.id === id),
  });
  const others = new Map<string, Service>();
  const serviceAt = (path: string): Service => {
    const realm = /^\/realms\/([a-z0-9.-]+)(?:\/|$)/.exec(path)?.[1];
    if (realm === undefined || !realms) return own;
    const before = others.get(realm);
    if (before) return before;
    const service = identityService(origin, `/realms/${realm}`, realms.client, realms.folkOf(realm));
    others.set(realm, service);
    return service;
  };
  const server = createServer((request, response) => {
    const { pathname } = new URL(request.url ?? '/', origin);
    if (pathname === '/health') {
      response.end('{"works":true}');
      return;
    }
    serviceAt(pathname)
      .handle(request, response)
      .catch(() => {
        response.statusCode = 400;
        response.end('This has ended. Begin again.');
      });
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return {
    server,
    setPeople: (now) => {
      known = now;
    },
  };
}
