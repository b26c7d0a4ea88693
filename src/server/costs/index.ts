export {
  monthCosts,
  monthInShort,
  monthsOf,
  poolCharges,
  resourceCharges,
  type PastDays,
  type PoolCharges,
} from './month';
export { chargesFile } from './file';
