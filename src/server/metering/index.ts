export { addIntervals, keepIntervals, type Metered, type PastInterval } from './intervals';
export { needsOf, quantitiesOf } from './standing';
export { usageBy, openRefs, type UsageQuestion } from './usage';
