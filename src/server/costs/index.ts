export { monthCosts, monthInShort, monthsOf, resourceCharges, type PastDays } from './month';
export { chargesFile } from './file';
