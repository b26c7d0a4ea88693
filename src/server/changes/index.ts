export { fingerprintOf, type Agreed, type Asked, type Begun } from './agreement';
export { beginChange, proposeChange } from './begin';
export { keepOverridesInForce, proposeOverrides } from './follow-overrides';
export { beginByItself } from './by-itself';
export { beginHeld, giveBackHold, holdChange, listAwaited, listHolds, readHold } from './hold';
export { proposalView } from './view';
