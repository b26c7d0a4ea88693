export { approvalOf } from './approval';
export { knownResources, readKnown, type KnownRow } from './known';
export { askOutside, NOT_ASKED } from './outside';
export type { FactKey, Subject } from './reader';
export { readFacts, readSome, type Some } from './read';
export { wasOpen } from './served';
export { newEnvironmentFacts } from './shown';
