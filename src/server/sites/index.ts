export { addressSpace } from './addresses';
export { listSites, offersAt, sitesInShort, sizesOfSites } from './read';
export { blockFor, blockOf, freeSpace, giveBlock, siteFacts, type OutsideSays } from './facts';
export { tryNameServers } from './name-servers';
export { servicesAt, tryRoute } from './services';
export { addRange, returnBlocks } from './write';
