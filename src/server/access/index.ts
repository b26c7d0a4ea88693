export {
  enter,
  reachable,
  within,
  withoutRequest,
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
