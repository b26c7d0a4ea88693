export { addressSpace, type RangeView } from './addresses';
export { listSites, type SiteView } from './read';
export { blockFor, blockOf, giveBlock, siteFacts, type DirectorySays } from './facts';
export { addRange } from './write';
