export { beginChange, fingerprintOf, proposeChange, type Agreed, type Asked, type Begun } from './begin';
export { beginByItself } from './by-itself';
export { askOutside, knownResources, readFacts, shownFacts, type Subject } from './facts';
export { beginHeld, giveBackHold, holdChange, listAwaited, listHolds, readHold } from './hold';
export { proposalView } from './view';
