export {
  enter,
  reachable,
  systemScope,
  requireRole,
  type Actor,
  type CustomerScope,
  type Role,
  type Scope,
} from './scope';
export { seal, unseal } from './seal';
