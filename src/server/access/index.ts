export {
  deskScope,
  enter,
  isInside,
  reachable,
  within,
  withoutRequest,
  systemScope,
  systemScopeFor,
  requireRight,
  MSP,
  SYSTEM,
  type Actor,
  type RequestKey,
  type CustomerScope,
  type DeskScope,
  type Scope,
} from './scope';
export { sameSecret } from './same';
export { openSealing, type Sealing, type SealPlace } from './seal';
