export { tallyOf, watch, type CustomerTally, type WatchView } from './read';
export { takeTallies } from './tally';
