/** What changed: a hint to look again, never the news itself. */
export type Topic = 'run' | 'environment' | 'summary' | 'ground' | 'clock' | 'people';
