import type { HostStatus } from '../../core/status';
import type { Arc } from '../../core/status';
import type { ChipTone } from '../../ui/Chip';

/** How a host stands, in a word and a tone. */
export const STATUS: Readonly<Record<HostStatus, { readonly word: string; readonly tone: ChipTone }>> = {
  serving: { word: 'serving', tone: 'good' },
  draining: { word: 'drained', tone: 'care' },
  building: { word: 'being built', tone: 'busy' },
  off: { word: 'off', tone: 'quiet' },
  leaving: { word: 'leaving', tone: 'quiet' },
  unwell: { word: 'unwell', tone: 'bad' },
  missing: { word: 'missing', tone: 'bad' },
};

/** What a ring shows, in words. */
export function ringSays(arcs: readonly Arc[]): string {
  if (arcs.length === 0) return 'no hosts';
  const counts = new Map<HostStatus, number>();
  for (const arc of arcs) counts.set(arc.status, (counts.get(arc.status) ?? 0) + arc.hosts);
  return [...counts].map(([status, hosts]) => `${hosts} ${STATUS[status].word}`).join(', ');
}
