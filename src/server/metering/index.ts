export { readSightings, type SightingOf } from './sightings';
export { usageBy, openRefs, type UsageQuestion } from './usage';
