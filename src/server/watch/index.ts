export { summaryOf, watch, watchAtFirst } from './read';
export { everySummaryStale, takeSummaries } from './summary';
