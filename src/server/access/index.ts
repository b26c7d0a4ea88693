export {
  enter,
  reachable,
  within,
  systemScope,
  requireRole,
  MSP,
  SYSTEM,
  type Actor,
  type RequestKey,
  type CustomerScope,
  type Scope,
} from './scope';
export { openSealing, type Sealing } from './seal';
