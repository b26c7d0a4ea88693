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
export {
  signIn,
  signOut,
  scopeOfSession,
  scopeOfToken,
  makeToken,
  SESSION_COOKIE,
  SESSION_MS,
} from './sign-in';
export { seal, unseal } from './seal';
