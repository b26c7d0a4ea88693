import {
  grantedTo,
  missingLink,
  whyOf,
  type GranteeFacts,
  type Groups,
  type Offer,
} from '../src/core/grants';
import { sessionHost } from '../src/core/placement';
import { signsOf, type Heard } from '../src/core/signs';
import { comparePeople, type DirectoryPerson, type KnownPerson } from '../src/core/people';

/** Two hundred groups, eight deep, and as many people as a large customer has. */
const GROUPS = 200;
const DEEP = 8;
const PEOPLE = 50_000;
const WHY = 1_000;

const groups: Groups = new Map(
  Array.from({ length: GROUPS }, (_, n) => [
    `g${n}`,
    {
      name: `Group ${n}`,
      unit: 'Groups',
      inScope: true,
      // Each stands in one of the level above it, and the last of them in the first: a circle.
      above: n < GROUPS / DEEP ? [`g${GROUPS - 1}`] : [`g${n - GROUPS / DEEP}`],
    },
  ]),
);
const person = (n: number): GranteeFacts & { account: string } => ({
  id: `p${n}`,
  account: `person${n}`,
  leftAt: null,
  groups: Array.from({ length: GROUPS }, (_, m) => `g${(n + m) % GROUPS}`),
});
const offers: readonly Offer[] = Array.from({ length: 20 }, (_, n) => ({
  environmentId: `e${n}`,
  environment: `environment ${n}`,
  pool: 'desks',
  items: Array.from({ length: 5 }, (__, m) => ({ name: `Item ${m}`, kind: 'app' as const })),
  grants: Array.from({ length: 25 }, (__, m) => ({
    item: `Item ${m % 5}`,
    to: 'group' as const,
    id: `g${(n * 7 + m) % GROUPS}`,
    until: null,
  })),
}));

const timed = (work: () => void): number => {
  work();
  const took = [0, 1, 2].map(() => {
    const began = performance.now();
    work();
    return performance.now() - began;
  });
  return took.sort((a, b) => a - b)[1] ?? Number.NaN;
};

const told = (what: string, ms: number, most: number): void =>
  console.log(`${what}: ${ms.toFixed(1)} ms (target under ${most}) ${ms < most ? 'met' : 'MISSED'}`);

/** What one person sees, why a thousand do not get in, and what changed among fifty thousand. */
export function peopleBench(): void {
  told(
    `what one person in ${GROUPS} groups, ${DEEP} deep, sees of 20 pools`,
    timed(() => {
      if (grantedTo(person(0), groups, offers, 0).length !== 100) throw new Error('they see something else');
    }),
    20,
  );
  const [offer] = offers;
  if (!offer) throw new Error('there is no offer');
  const some = Array.from({ length: WHY }, (_, n) => ({ ...person(n), groups: [`g${n % GROUPS}`] }));
  const hosts = Array.from({ length: 200 }, (_, n) => ({
    name: `HOST${n}`,
    status: 'serving' as const,
    sessions: n % 6,
    seats: 5,
  }));
  told(
    `why ${WHY} people do not get in`,
    timed(() => {
      const out = some.filter((one) =>
        missingLink(
          whyOf({
            at: 0,
            person: one,
            groups,
            scope: { units: ['Groups'], groups: [] },
            offer: { ...offer, grants: [] },
            item: 'Item 0',
            isPersonal: false,
            licence: { has: true, seats: 5, taken: 5 },
            hosts,
            written: String,
          }),
        ),
      );
      if (out.length !== WHY) throw new Error(`${out.length} are kept out`);
    }),
    500,
  );
  const read = Array.from({ length: PEOPLE }, (_, n): DirectoryPerson => ({
    id: `d${n}`,
    account: `person${n}`,
    given: 'Quill',
    family: `Saltash ${n}`,
    mail: `person${n}@big.example`,
    unit: `Unit ${n % 40}`,
    disabled: false,
  }));
  const known = read.map(({ disabled: _off, ...one }): KnownPerson => ({
    ...one,
    id: `o${one.id}`,
    directoryId: one.id,
    leftAt: null,
  }));
  told(
    `what changed among ${PEOPLE} people`,
    timed(() => {
      const { same, added } = comparePeople(known.slice(10), read);
      if (same + added.length !== PEOPLE) throw new Error('somebody is lost');
    }),
    1_000,
  );
  told(
    `${ARRIVALS} arrivals placed, and 20,000 hosts heard for signs`,
    timed(() => {
      const hosts = Array.from({ length: STORM_HOSTS }, (_, n) => ({
        id: `h${n}`,
        sessions: 0,
        seats: ARRIVALS / STORM_HOSTS,
        accepts: true,
      }));
      for (let n = 0; n < ARRIVALS; n++) {
        const host = sessionHost(hosts, n % 2 === 0 ? 'spread' : 'fill');
        if (!host) throw new Error('somebody found no seat');
        host.sessions += 1;
      }
      if (hosts.some((one) => one.sessions > one.seats)) throw new Error('a host is over its seats');
      const shown = HEARD.filter((one) => signsOf(one, new Set(), { agent: '4.2' }).length > 0);
      if (shown.length !== HEARD.length / 100) throw new Error(`${shown.length} show signs`);
    }),
    300,
  );
}

const ARRIVALS = 2_000;
const STORM_HOSTS = 200;
/** One of a hundred is loaded to the brim. */
const HEARD = Array.from({ length: 20_000 }, (_, n): Heard => ({
  heardAt: 1_000_000,
  askedAt: 1_010_000,
  isUnwell: false,
  isMentioned: true,
  load: n % 100 === 0 ? 99 : 40,
  memory: 50,
  disk: 50,
  clockOffMs: 20,
  agent: '4.2',
  signIns: { tried: 2, refused: 0 },
  signInSeconds: 15,
}));
