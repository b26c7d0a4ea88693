export { addIntervals, keepIntervals, type Metered, type PastInterval } from './intervals';
export { usageBy, openRefs, type UsageQuestion } from './usage';
