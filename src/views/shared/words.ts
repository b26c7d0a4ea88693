import type { Environment, Host, Run } from '../../contract';
import type { Arc, HostStatus } from '../../core/status';
import type { ChipTone } from '../../ui/Chip';
import type { RingArc, RingLook } from '../../ui/Ring';

/** A host's status: in a word, in a tone, and as an arc of a ring. */
export const STATUS: Readonly<
  Record<HostStatus, { readonly word: string; readonly tone: ChipTone; readonly look: RingLook }>
> = {
  serving: { word: 'serving', tone: 'good', look: 'full' },
  draining: { word: 'drained', tone: 'care', look: 'notched' },
  building: { word: 'being built', tone: 'busy', look: 'dashed' },
  off: { word: 'off', tone: 'quiet', look: 'hollow' },
  leaving: { word: 'leaving', tone: 'quiet', look: 'thin' },
  unwell: { word: 'unwell', tone: 'bad', look: 'crossed' },
  missing: { word: 'missing', tone: 'bad', look: 'gap' },
};

/** A host as an arc by itself. */
export const arcOf = ({ status, sessions, seats }: Host): Arc => ({
  status,
  hosts: 1,
  fill: seats === 0 ? 0 : Math.min(1, sessions / seats),
});

/** The arcs of hosts, as a ring draws them. */
export const ringOf = (arcs: readonly Arc[]): RingArc[] =>
  arcs.map(({ status, hosts, fill }) => ({ look: STATUS[status].look, parts: hosts, fill }));

/** What a ring shows, in words. */
export function ringSays(arcs: readonly Arc[]): string {
  if (arcs.length === 0) return 'no hosts';
  const counts = new Map<HostStatus, number>();
  for (const arc of arcs) counts.set(arc.status, (counts.get(arc.status) ?? 0) + arc.hosts);
  return [...counts].map(([status, hosts]) => `${hosts} ${STATUS[status].word}`).join(', ');
}

/** How an environment stands, in a tone. */
export const ENVIRONMENT_TONE: Readonly<Record<Environment['state'], ChipTone>> = {
  'under way': 'busy',
  unfinished: 'bad',
  serving: 'good',
  leaving: 'care',
  retired: 'quiet',
};

/** How a run stands, in a tone. */
export const RUN_TONE: Readonly<Record<Run['state'], ChipTone>> = {
  running: 'busy',
  stopping: 'care',
  stopped: 'bad',
  done: 'good',
};
