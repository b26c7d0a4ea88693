import type { Instant } from '../calendar';
import { HARMS, signKind, type Harm, type SignKey } from './kinds';

/** A sign of a host, with whose it is and whom it hits. */
export interface HostSign {
  readonly id: string;
  readonly kind: SignKey;
  readonly harm: Harm;
  readonly says: string;
  readonly since: Instant;
  /** Those who are in on it, or were when it fell silent. */
  readonly people: number;
  readonly customer: string;
  readonly environment: string;
  readonly pool: string;
  readonly host: { readonly id: string; readonly name: string };
  readonly site: string;
  /** Undefined: its site shows no nodes. */
  readonly node: string | undefined;
}

/** Signs of one cause, as one line. */
export interface Gathered {
  /** The same as long as it is the same trouble. */
  readonly key: string;
  readonly of: 'node' | 'pool' | 'host';
  readonly kind: SignKey;
  readonly harm: Harm;
  readonly says: string;
  readonly since: Instant;
  readonly people: number;
  readonly signs: readonly HostSign[];
}

/** A node, how many hosts that run are on it, whosever, and how many of them are silent. */
export interface NodeFacts {
  readonly site: string;
  readonly node: string;
  readonly hosts: number;
  readonly silent: number;
  readonly isLost: boolean;
}

/** Of a pool, so many hosts with one sign are one line. */
const ALIKE = 3;

/**
 * Signs by their cause: a node that is gone is one line, and not one for each of its hosts; so are several hosts of a pool
 * that show the same. In order of who is hit.
 * @example
 * gatherSigns([], []) // []
 */
export function gatherSigns(signs: readonly HostSign[], nodes: readonly NodeFacts[]): Gathered[] {
  const nodeOf = new Map(nodes.map((one) => [`${one.site} ${one.node}`, one]));
  const byNode = grouped(
    signs.filter((one) => one.kind === 'silent' && one.node !== undefined),
    ({ site, node }) => `${site} ${node ?? ''}`,
  );
  const ofNodes = [...byNode].filter(([key]) => isNodes(nodeOf.get(key)));
  const taken = new Set(ofNodes.flatMap(([, some]) => some));
  const byPool = grouped(
    signs.filter((one) => !taken.has(one)),
    ({ customer, environment, pool, kind }) => `${customer} ${environment} ${pool} ${kind}`,
  );
  return [
    ...ofNodes.map(([key, some]) => nodeLine(key, nodeOf.get(key), some)),
    ...[...byPool].flatMap(([key, some]) =>
      some.length >= ALIKE ? [poolLine(key, some)] : some.map(hostLine),
    ),
  ].sort(
    (one, other) =>
      urgency(other) - urgency(one) || one.since - other.since || (one.key < other.key ? -1 : 1),
  );
}

/** Its provider says so; or of several hosts on it none answers. */
const isNodes = (node: NodeFacts | undefined): boolean =>
  node !== undefined && (node.isLost || (node.silent >= 2 && node.silent >= node.hosts));

/** Who cannot work counts as three who work badly; of what comes later nobody is hit yet. Common practice, no source. */
const WEIGHT: Readonly<Record<Harm, number>> = { out: 3, slow: 1, soon: 0 };

/** The more, the sooner someone should look. */
export const urgency = ({ harm, people }: Pick<Gathered, 'harm' | 'people'>): number => WEIGHT[harm] * people;

/**
 * Whom a sign that lasts has hit: who cannot work stays hit, though they are no longer in.
 * @param before how many were hit when it was last read
 * @param now how many are in
 */
export const peopleHit = (harm: Harm, before: number, now: number): number =>
  harm === 'out' ? Math.max(before, now) : now;

function nodeLine(key: string, node: NodeFacts | undefined, signs: readonly HostSign[]): Gathered {
  const since = Math.min(...signs.map((one) => one.since));
  const count = Math.max(signs.length, node?.hosts ?? 0);
  const hosts =
    signs.length < count
      ? `${signs.length} of its ${count} hosts do not answer`
      : count === 1
        ? 'its host does not answer'
        : `none of its ${count} hosts answers`;
  return {
    ...all(signs),
    key: `node ${key} ${since}`,
    of: 'node',
    says: `Node ${node?.node ?? ''}${node?.isLost === true ? ' is lost' : ''}: ${hosts}`,
  };
}

function poolLine(key: string, signs: readonly HostSign[]): Gathered {
  const [first] = signs;
  const since = Math.min(...signs.map((one) => one.since));
  return {
    ...all(signs),
    key: `pool ${key} ${since}`,
    of: 'pool',
    says: `${signs.length} hosts of ${first?.pool ?? ''} ${signKind(first?.kind ?? 'silent').many}`,
  };
}

const hostLine = (sign: HostSign): Gathered => ({
  ...all([sign]),
  key: `sign ${sign.id}`,
  of: 'host',
  says: `${sign.host.name}: ${sign.says}`,
});

const all = (signs: readonly HostSign[]): Pick<Gathered, 'kind' | 'harm' | 'since' | 'people' | 'signs'> => ({
  kind: signs[0]?.kind ?? 'silent',
  harm: HARMS.find((harm) => signs.some((one) => one.harm === harm)) ?? 'soon',
  since: Math.min(...signs.map((one) => one.since)),
  people: signs.reduce((sum, one) => sum + one.people, 0),
  signs,
});

function grouped<One>(all: readonly One[], keyOf: (one: One) => string): Map<string, One[]> {
  const groups = new Map<string, One[]>();
  for (const one of all) {
    const key = keyOf(one);
    const group = groups.get(key);
    if (group) group.push(one);
    else groups.set(key, [one]);
  }
  return groups;
}
