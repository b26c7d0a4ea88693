/** How arrivals choose a host: fewest sessions first, or the fullest with a free seat first, by the share of seats taken. */
export const ARRIVAL_RULES = ['spread', 'fill'] as const;
export type ArrivalRule = (typeof ARRIVAL_RULES)[number];

export interface SessionHost {
  readonly id: string;
  readonly sessions: number;
  readonly seats: number;
  /** On, well and not drained. */
  readonly accepts: boolean;
}

/** The host for the next arrival; ties go to the first in order. Undefined: every seat is taken. */
export function sessionHost<Host extends SessionHost>(
  hosts: readonly Host[],
  rule: ArrivalRule,
): Host | undefined {
  const free = hosts.filter((host) => host.accepts && host.sessions < host.seats);
  return free.reduce<Host | undefined>((best, host) => {
    if (!best) return host;
    // The fullest by the share of its seats: hosts of one pool may have unlike many.
    const better =
      rule === 'spread'
        ? host.sessions < best.sessions
        : host.sessions * best.seats > best.sessions * host.seats;
    return better ? host : best;
  }, undefined);
}
