export { beginning, type Beginning } from './beginning';
export { summaryOf, watch, watchAtFirst } from './read';
export { everySummaryStale, takeSummaries } from './summary';
