export {
  parseBlock,
  writeBlock,
  writeAddress,
  sizeOf,
  lastOf,
  contains,
  overlaps,
  isPrivate,
  type Block,
} from './block';
export { freeBlocks, bestFit, fragmentation, prefixFor } from './space';
export { planSubnet, hostAddresses, type SubnetPlan } from './subnet';
