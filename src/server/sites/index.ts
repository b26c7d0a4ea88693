export { addressSpace } from './addresses';
export { listSites, sizesOfSites } from './read';
export { blockFor, blockOf, giveBlock, siteFacts, type DirectorySays } from './facts';
export { addRange } from './write';
