export { summaryOf, watch } from './read';
export { everySummaryStale, takeSummaries } from './summary';
