export { beginning, type Beginning } from './beginning';
export { forgetMarks } from './marks';
export { summaryOf, watch, watchAtFirst } from './read';
export { everySummaryStale, keepSummaries, takeSummaries } from './summary';
