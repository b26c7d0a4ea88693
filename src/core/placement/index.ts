export { place, volumeBound, roomOn, type Node, type HostNeed, type Placed, type Placement } from './place';
export { ARRIVAL_RULES, sessionHost, type SessionHost, type ArrivalRule } from './sessions';
