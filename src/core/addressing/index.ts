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
export { freeBlocks, bestFit, growBlock, fragmentation, prefixFor, spaceLeft, type SpaceLeft } from './space';
export { planSubnet, hostAddresses, type SubnetPlan } from './subnet';
