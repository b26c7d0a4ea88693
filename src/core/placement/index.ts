export type { HostNeed, Node, Placed } from './bins';
export { place, volumeBound, roomOn, type Placement } from './place';
export { ARRIVAL_RULES, sessionHost, type SessionHost, type ArrivalRule } from './sessions';
