/** What changed: a hint to look again, never the news itself. */
export type Topic = 'run' | 'environment' | 'tally' | 'ground' | 'clock' | 'people';
