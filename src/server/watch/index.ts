export { summaryOf, watch, type CustomerSummary, type WatchView } from './read';
export { takeSummaries } from './summary';
