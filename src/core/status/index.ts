/** A host's status: what is wanted of it against what is there. In the order in which a ring is drawn. */
export const HOST_STATUSES = [
  'serving',
  'draining',
  'building',
  'off',
  'leaving',
  'unwell',
  'missing',
] as const;
export type HostStatus = (typeof HOST_STATUSES)[number];

export const POWERS = ['on', 'off'] as const;
export type Power = (typeof POWERS)[number];

export interface HostView {
  readonly wantedPower: Power;
  readonly wantedAccepting: boolean;
  /** Whether its environment is to be taken away. */
  readonly leaving: boolean;
  /** Whether the run that makes its environment is at work, or has stopped before its end. */
  readonly making: 'no' | 'at work' | 'stopped';
  /** What the provider says; undefined: it knows no such host. */
  readonly present: { readonly state: string; readonly accepting: boolean } | undefined;
  /** Whether it shows that nobody should be placed on it, like one that does not answer. */
  readonly isClosed: boolean;
}

export function hostStatus(host: HostView): HostStatus {
  const state = host.present?.state;
  if (host.leaving) return 'leaving';
  if (state === undefined || state === 'gone') return host.making === 'at work' ? 'building' : 'missing';
  if (state === 'unwell') return 'unwell';
  if (state === 'building' || host.making !== 'no') return 'building';
  if (state === 'off') return 'off';
  if (host.isClosed) return 'unwell';
  return host.present?.accepting === false ? 'draining' : 'serving';
}

/** How a host is for whoever comes: one that is wanted drained takes nobody, though its provider does not know that yet. */
export function statusForComers(host: HostView): HostStatus {
  const status = hostStatus(host);
  return status === 'serving' && !host.wantedAccepting ? 'draining' : status;
}

/** A piece of the ring: `hosts` alike, and how full they are together (0 to 1). */
export interface Arc {
  readonly status: HostStatus;
  readonly hosts: number;
  readonly fill: number;
}

export interface CountedHost {
  readonly status: HostStatus;
  readonly sessions: number;
  readonly seats: number;
}

/**
 * The ring's arcs: one a host, in order of status and then as given; where there are more than `most`, neighbours of
 * one status are joined, so that the ring keeps its proportions and no status is lost.
 */
export function arcsOf(hosts: readonly CountedHost[], most: number): Arc[] {
  const joined = Math.max(1, Math.ceil(hosts.length / most));
  return HOST_STATUSES.flatMap((status) => {
    const alike = hosts.filter((host) => host.status === status);
    const arcs: Arc[] = [];
    for (let at = 0; at < alike.length; at += joined) arcs.push(join(status, alike.slice(at, at + joined)));
    return arcs;
  });
}

/** Fewer arcs: neighbours of one status are joined until about `most` are left; hosts and statuses stay as they are. */
export function joinArcs(arcs: readonly Arc[], most: number): Arc[] {
  const hosts = arcs.reduce((sum, arc) => sum + arc.hosts, 0);
  const wanted = Math.max(1, Math.ceil(hosts / most));
  const joined: Arc[] = [];
  for (const arc of arcs) {
    const last = joined.at(-1);
    if (last?.status !== arc.status || last.hosts + arc.hosts > wanted) joined.push(arc);
    else joined[joined.length - 1] = together(last, arc);
  }
  return joined;
}

function together(one: Arc, other: Arc): Arc {
  const hosts = one.hosts + other.hosts;
  return { ...one, hosts, fill: (one.fill * one.hosts + other.fill * other.hosts) / hosts };
}

function join(status: HostStatus, hosts: readonly CountedHost[]): Arc {
  const seats = hosts.reduce((sum, host) => sum + host.seats, 0);
  const sessions = hosts.reduce((sum, host) => sum + host.sessions, 0);
  return { status, hosts: hosts.length, fill: seats === 0 ? 0 : Math.min(1, sessions / seats) };
}

/** Whether a customer of a state goes or is gone: nothing new is built for them. */
export const isGoing = (state: string): boolean => state === 'leaving' || state === 'retired';
