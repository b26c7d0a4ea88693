import type { FleetEnvironment } from './customers';
import type { Standing } from './standing';

/** What is otherwise with a host than it should be; undefined: it is not there. @param n which of its environment's */
export type HostTrouble = (host: Standing, n: number) => Standing | undefined;

/** What is wrong with an environment: with some of its hosts, or with the run that builds it. */
export type Trouble = HostTrouble | 'is being built' | 'stopped';

const first =
  (count: number, change: (host: Standing) => Standing | undefined): HostTrouble =>
  (host, n) =>
    n < count ? change(host) : host;

const TROUBLES: readonly HostTrouble[] = [
  first(1, (host) => ({ ...host, state: 'unwell' })),
  first(2, () => undefined),
  first(3, (host) => ({ ...host, state: 'off' })),
  first(1, (host) => ({ ...host, attrs: { ...host.attrs, size: 's2x4' } })),
  first(4, (host) => ({ ...host, state: 'unwell' })),
  first(2, (host) => ({ ...host, attrs: { ...host.attrs, accepting: false } })),
];

const EVERY = 43;
const BUILT_NOW = 110;
const STOPPED = 290;

/** What is wrong with the n-th environment of the fleet; with most of them nothing is. */
export function troubleOf(n: number, { people }: FleetEnvironment): Trouble | undefined {
  if (n % STOPPED === 17) return 'stopped';
  if (n % BUILT_NOW === 41 && people > 10) return 'is being built';
  return n % EVERY === 5 ? TROUBLES[Math.floor(n / EVERY) % TROUBLES.length] : undefined;
}
