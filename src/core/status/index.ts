/** How a host stands: what is wanted of it against what is there. */
export type HostStatus = 'serving' | 'off' | 'draining' | 'building' | 'missing' | 'unwell' | 'leaving';

export interface HostView {
  readonly wantedPower: 'on' | 'off';
  readonly wantedAccepting: boolean;
  /** Whether its environment is to be taken away. */
  readonly leaving: boolean;
  /** Whether the run that makes its environment is at work, or has stopped before its end. */
  readonly making: 'no' | 'at work' | 'stopped';
  /** What the provider says; undefined: it knows no such host. */
  readonly present: { readonly state: string; readonly accepting: boolean } | undefined;
}

export function hostStatus(host: HostView): HostStatus {
  const state = host.present?.state;
  if (host.leaving) return 'leaving';
  if (state === undefined || state === 'gone') return host.making === 'at work' ? 'building' : 'missing';
  if (state === 'unwell') return 'unwell';
  if (state === 'building' || host.making !== 'no') return 'building';
  if (state === 'off') return 'off';
  return host.present?.accepting === false ? 'draining' : 'serving';
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

const ORDER: readonly HostStatus[] = [
  'serving',
  'draining',
  'building',
  'off',
  'leaving',
  'unwell',
  'missing',
];

/**
 * The ring's arcs: one a host, in order of status and then as given; where there are more than `most`, neighbours of
 * one status are joined, so that the ring keeps its proportions and no status is lost.
 */
export function arcsOf(hosts: readonly CountedHost[], most: number): Arc[] {
  const joined = Math.max(1, Math.ceil(hosts.length / most));
  return ORDER.flatMap((status) => {
    const alike = hosts.filter((host) => host.status === status);
    const arcs: Arc[] = [];
    for (let at = 0; at < alike.length; at += joined) arcs.push(join(status, alike.slice(at, at + joined)));
    return arcs;
  });
}

function join(status: HostStatus, hosts: readonly CountedHost[]): Arc {
  const seats = hosts.reduce((sum, host) => sum + host.seats, 0);
  const sessions = hosts.reduce((sum, host) => sum + host.sessions, 0);
  return { status, hosts: hosts.length, fill: seats === 0 ? 0 : Math.min(1, sessions / seats) };
}
