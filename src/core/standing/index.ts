/** How a host stands: what is wanted of it against what is there. */
export type HostStanding = 'serving' | 'off' | 'draining' | 'building' | 'missing' | 'unwell' | 'leaving';

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

export function hostStanding(host: HostView): HostStanding {
  const state = host.present?.state;
  if (host.leaving) return 'leaving';
  if (state === undefined || state === 'gone') return host.making === 'at work' ? 'building' : 'missing';
  if (state === 'unwell') return 'unwell';
  if (state === 'building' || host.making !== 'no') return 'building';
  if (state === 'off') return 'off';
  return host.present?.accepting === false ? 'draining' : 'serving';
}

/** Each difference between what is wanted of a host and what is there, in plain words; empty when they agree. */
export function hostDrift(host: HostView): string[] {
  if (host.making === 'at work') return [];
  const { present } = host;
  if (!present || present.state === 'gone') return host.leaving ? [] : ['wanted, not there'];
  if (host.leaving) return ['there, to be taken away'];
  const drift: string[] = [];
  if (present.state === 'unwell') drift.push('does not answer');
  if (present.state === 'on' && host.wantedPower === 'off') drift.push('is on, wanted off');
  if (present.state === 'off' && host.wantedPower === 'on') drift.push('is off, wanted on');
  if (present.accepting !== host.wantedAccepting)
    drift.push(host.wantedAccepting ? 'takes nobody, wanted open' : 'takes people, wanted drained');
  return drift;
}

/** A piece of the ring: `hosts` alike, and how full they are together (0 to 1). */
export interface Arc {
  readonly standing: HostStanding;
  readonly hosts: number;
  readonly fill: number;
}

export interface CountedHost {
  readonly standing: HostStanding;
  readonly sessions: number;
  readonly seats: number;
}

const ORDER: readonly HostStanding[] = [
  'serving',
  'draining',
  'building',
  'off',
  'leaving',
  'unwell',
  'missing',
];

/**
 * The ring's arcs: one a host, in order of standing and then as given; where there are more than `most`, neighbours of
 * one standing are joined, so that the ring keeps its proportions and no standing is lost.
 */
export function arcsOf(hosts: readonly CountedHost[], most: number): Arc[] {
  const joined = Math.max(1, Math.ceil(hosts.length / most));
  return ORDER.flatMap((standing) => {
    const alike = hosts.filter((host) => host.standing === standing);
    const arcs: Arc[] = [];
    for (let at = 0; at < alike.length; at += joined) arcs.push(join(standing, alike.slice(at, at + joined)));
    return arcs;
  });
}

function join(standing: HostStanding, hosts: readonly CountedHost[]): Arc {
  const seats = hosts.reduce((sum, host) => sum + host.seats, 0);
  const sessions = hosts.reduce((sum, host) => sum + host.sessions, 0);
  return { standing, hosts: hosts.length, fill: seats === 0 ? 0 : Math.min(1, sessions / seats) };
}
