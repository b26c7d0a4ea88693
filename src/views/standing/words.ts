import type { HostStanding } from '../../core/standing';
import type { Arc } from '../../core/standing';
import type { ChipTone } from '../../ui/Chip';

/** How a host stands, in a word and a tone. */
export const STANDING: Readonly<Record<HostStanding, { readonly word: string; readonly tone: ChipTone }>> = {
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
  const counts = new Map<HostStanding, number>();
  for (const arc of arcs) counts.set(arc.standing, (counts.get(arc.standing) ?? 0) + arc.hosts);
  return [...counts].map(([standing, hosts]) => `${hosts} ${STANDING[standing].word}`).join(', ');
}
