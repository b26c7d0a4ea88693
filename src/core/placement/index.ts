export { place, volumeBound, roomOn, type Node, type HostNeed, type Placed, type Placement } from './place';
export { sessionHost, type SessionHost, type ArrivalRule } from './sessions';
