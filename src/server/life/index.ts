export { lifeOf } from './read';
export { retireEach } from './retire-each';
export { leaveCustomer, pauseCustomer, startCustomer } from './turn';
export { finishLeaving } from './finish';
export { forgetGone } from './forget';
export { archiveOf } from './archive';
