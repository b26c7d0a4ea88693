export { keepIntervals, type Metered } from './intervals';
export { usageBy, openRefs, type UsageQuestion } from './usage';
