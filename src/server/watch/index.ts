export { summaryOf, watch } from './read';
export { takeSummaries } from './summary';
