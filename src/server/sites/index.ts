export { addressSpace } from './addresses';
export { listSites, sitesInShort, sizesOfSites } from './read';
export { blockFor, blockOf, freeSpace, giveBlock, siteFacts, type OutsideSays } from './facts';
export { servicesAt, tryRoute } from './services';
export { addRange } from './write';
