import { expectedSeconds, type ProposedStep } from './steps';

export type PowerChange = 'power-on' | 'power-off' | 'drain' | 'accept';

/** So many hosts are changed at a time. */
export const POWER_AT_A_TIME = 10;

/** One step a host; none needs another. */
export function proposePower(change: PowerChange, hosts: readonly string[]): ProposedStep[] {
  return hosts.map((host) => ({
    key: `${change}:${host}`,
    kind: change,
    subject: host,
    needs: [],
    seconds: expectedSeconds[change],
  }));
}
