export { addressSpace } from './addresses';
export { listSites, sizesOfSites } from './read';
export { blockFor, blockOf, freeSpace, giveBlock, siteFacts, type DirectorySays } from './facts';
export { addRange } from './write';
