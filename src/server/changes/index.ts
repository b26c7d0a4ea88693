export { beginChange, fingerprintOf, proposeChange, type Agreed, type Asked, type Begun } from './begin';
export { beginByItself } from './by-itself';
export { askOutside, knownResources, readFacts, type Subject } from './facts';
export { proposalView } from './view';
